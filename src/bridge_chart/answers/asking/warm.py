"""Warming up: what the first questions will need is worked out before anybody asks."""

from __future__ import annotations

from collections.abc import Iterator
from threading import Event
from typing import Literal

from bridge_chart.answers.asking.ask import answer_on
from bridge_chart.answers.asking.bind import bind
from bridge_chart.answers.kept.turns import TURNS
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import BridgeError

MOST_SITTINGS = 6
Curve = Literal["linear", "cubic", "spline"]
OTHER_CURVES: tuple[Curve, ...] = ("spline", "cubic")
"""Curves that a person chooses next; a fit that is asked first costs its asker the longest wait."""


WARMING = Event()
"""Set while this process works out the usual questions."""


def warm(snapshot: Snapshot) -> int:
    """Ask the usual question of the newest sittings, so that their fits, ranks and rolls are kept.
    Whoever asks meanwhile goes first. Returns how many were warmed."""
    WARMING.set()
    try:
        return _warm(snapshot)
    finally:
        WARMING.clear()


def _warm(snapshot: Snapshot) -> int:
    done = 0
    newest = sorted(snapshot.measures, key=lambda m: -m.date.toordinal())
    for measure in [m for m in newest if m.role == "result" and m.score == "scaled"][
        :MOST_SITTINGS
    ]:
        what = q.Measure(
            assessment=measure.assessment.id,
            subject=measure.subject.id if measure.subject else None,
            sitting=measure.sitting.id,
        )
        usual = [
            q.Question(what=(what,), against=against, show=show)
            for against in (None, _start("linear"))
            for show in ("spans", "strip")
        ]
        others = [q.Question(what=(what,), against=_start(curve)) for curve in OTHER_CURVES]
        done += _asked(snapshot, [*usual, *others])
    for measure in list({m.sitting.id: m for m in newest}.values())[:MOST_SITTINGS]:
        done += _asked(snapshot, list(_inside(snapshot, measure)))
    return done


def _inside(snapshot: Snapshot, measure: MeasureKey) -> Iterator[q.Question]:
    """Question by question, of each form: the sheets of marks are read for whoever asks next."""
    names = {form.id: form.name for form in measure.forms}
    for form in snapshot.marked_forms(measure.sitting.id):
        what = q.Measure(
            assessment=measure.assessment.id,
            subject=measure.subject.id if measure.subject else None,
            sitting=measure.sitting.id,
            form=names.get(form.form) if form.form else None,
        )
        yield q.Question(what=(what,), show="items")


def _asked(snapshot: Snapshot, questions: list[q.Question]) -> int:
    """How many of them can be asked, and are worked out now."""
    done = 0
    for asked in questions:
        try:
            with TURNS.mine(urgent=False):
                answer_on(bind(asked, snapshot))
        except BridgeError:
            continue  # what cannot be asked needs no warming
        done += 1
    return done


def _start(curve: Curve) -> q.AgainstPrior:
    return q.AgainstPrior(prior=q.PriorSpec(expect=curve))
