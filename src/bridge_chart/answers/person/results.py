"""Every result of a student against every yardstick that applies."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.asking.binder import Binder
from bridge_chart.answers.bound.quantity import Quantity, plain
from bridge_chart.answers.bound.view import meant_for
from bridge_chart.answers.bound.yardstick import Held
from bridge_chart.answers.person.also import also_of
from bridge_chart.answers.person.page import Claim, Result
from bridge_chart.answers.person.standing import (
    Turned,
    error_of_measurement,
    in_deviations,
    in_percentiles,
)
from bridge_chart.answers.shows.students.body import FileLine
from bridge_chart.answers.what.values import IN_STEPS, figures_of_students, sibling
from bridge_chart.answers.who.reasons import REASONS, label_of, reasons_for
from bridge_chart.store.codes import STEPPED
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion, NotFound, NotPublished, NotYet
from bridge_chart.terms.wording import number

NINE_IN_TEN = 1.645
"""Standard deviations on either side of the middle nine in ten."""
PRIOR = q.AgainstPrior(prior=q.PriorSpec())


@dataclass(frozen=True)
class Person:
    """A student in a snapshot: where they stand in its columns."""

    snapshot: Snapshot
    binder: Binder
    at: int

    def figure(self, quantity: Quantity) -> float | None:
        value = float(np.asarray(figures_of_students(self.snapshot, quantity))[self.at])
        return None if np.isnan(value) else value


@dataclass(frozen=True)
class Found:
    """A result with its quantity, and how its score reads in comparable units."""

    result: Result
    quantity: Quantity
    percentile: Turned | None
    deviation: Turned | None


def results_of(person: Person) -> list[Found]:
    """A result for each sitting that the student took or was meant to take, newest first."""
    found = [_found(person, quantity) for quantity in _quantities(person)]
    return sorted(found, key=lambda one: (-one.result.date.toordinal(), one.result.about))


def _quantities(person: Person) -> Iterator[Quantity]:
    seen: set[tuple[int, int | None, int]] = set()
    for key in person.snapshot.measures:
        name = (key.assessment.id, key.subject.id if key.subject else None, key.sitting.id)
        if key.role != "result" or name in seen:
            continue
        seen.add(name)
        if _has_row(person, key) or _was_meant(person, key):
            yield _expressed(person, key)


def _has_row(person: Person, key: MeasureKey) -> bool:
    return not np.isnan(person.snapshot.values(key)[person.at])


def _was_meant(person: Person, key: MeasureKey) -> bool:
    """Whether it was sat by theirs while they were there; who was on no roll then lacks nothing."""
    roll = person.snapshot.roll_at(key.date)
    there = roll is None or bool(roll.somewhere[person.at])
    return there and bool(meant_for(person.snapshot, key)[person.at])


def _expressed(person: Person, key: MeasureKey) -> Quantity:
    """In figures where there are some, else in its steps."""
    asked = q.Measure(
        assessment=key.assessment.id, subject=key.subject.id if key.subject else None,
        sitting=key.sitting.id,
    )  # fmt: skip
    try:
        return person.binder.quantity(asked)
    except NotFound:
        return plain(key)


def _found(person: Person, quantity: Quantity) -> Found:
    snapshot, at, key = person.snapshot, person.at, quantity.key
    reason = REASONS[int(reasons_for(snapshot, quantity, None)[at])]
    value = person.figure(quantity)
    level, tone = _level(person, quantity)
    batch, line = (int(column[at]) for column in snapshot.origin(key))
    result = Result(
        label=quantity.label, about=key.about, sitting=key.sitting.name, date=key.date,
        assessment=key.assessment.name, score_name=quantity.score_name, unit=quantity.unit,
        decimals=quantity.decimals, value=None if quantity.steps else value, level=level,
        tone=tone, why="" if value is not None else label_of(reason, quantity, None),
        claims=_claims(person, key),
        origin=FileLine(batch_id=batch, line=line) if batch else None,
        file=snapshot.files.get(batch, ""),
    )  # fmt: skip
    if value is None or quantity.steps:
        return Found(result, quantity, None, None)
    percentile = in_percentiles(snapshot, quantity, at)
    measured = error_of_measurement(snapshot, quantity, at)
    more = {
        "measured": measured,
        "percentile": percentile(value) if percentile else None,
        **_against_start(person, quantity, value),
        "also": also_of(snapshot, quantity, at),
    }
    done = result.model_copy(update=more)
    return Found(done, quantity, percentile, in_deviations(snapshot, quantity, at))


def _level(person: Person, quantity: Quantity) -> tuple[str, float | None]:
    """The level or grade of the same sitting, and how far above its pass line it stands."""
    key = sibling(person.snapshot, quantity.key, IN_STEPS)
    if key is None:
        return "", None
    place = float(person.snapshot.values(key)[person.at])
    if np.isnan(place):
        return "", None
    above = None if key.pass_at is None else place - 1 - key.pass_at
    tone = None if above is None else above + 1 if above >= 0 else above
    return key.steps[int(place) - 1], tone


def _against_start(person: Person, quantity: Quantity, value: float) -> dict[str, object]:
    """What similar starters reach; nothing where there is no start, or it may not be told."""
    try:
        yardstick = person.binder.about(quantity).yardstick(PRIOR, quantity)
        held: Held | None = None if yardstick is None else yardstick.held(person.snapshot)
    except (NotFound, NotPublished, InvalidQuestion, NotYet):
        return {}
    if held is None or held.fit is None:
        return {}
    expected, error = float(held.fit.expected[person.at]), float(held.fit.error[person.at])
    if np.isnan(expected):
        return {"started": "no starting score"}
    span = value - expected
    sign = "behind" if span < -error else "ahead" if span > error else "none"
    return {
        "expected": expected, "error": error if error > 0 else None, "span": span,
        "sign": sign if error > 0 else "none", "started": held.fit.prior_label,
    }  # fmt: skip


def _claims(person: Person, key: MeasureKey) -> list[Claim]:
    """Targets and predictions of the same sitting, and how far the result is from them."""
    out = []
    for claim in person.snapshot.measures:
        if claim.role == "result" or claim.sitting != key.sitting or claim.subject != key.subject:
            continue
        value = float(person.snapshot.values(claim)[person.at])
        if np.isnan(value):
            continue
        in_steps = claim.score in STEPPED
        words = claim.steps[int(value) - 1] if in_steps else number(value, claim.decimals)
        reached = next(
            (m for m in person.snapshot.measures if m.role == "result" and m.score == claim.score
             and m.sitting == claim.sitting and m.subject == claim.subject), None,
        )  # fmt: skip
        got = np.nan if reached is None else float(person.snapshot.values(reached)[person.at])
        out.append(
            Claim(
                label=f"{claim.kind} {claim.role}".strip(), value=words, in_steps=in_steps,
                away=None if np.isnan(got) else got - value,
            )
        )  # fmt: skip
    return out
