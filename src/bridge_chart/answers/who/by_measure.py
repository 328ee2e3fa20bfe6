"""Conditions by a measure: a range, levels, a distance from a boundary, a form, an option; starting
bands."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.names import not_yet, one_of
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.what.bands import band_names, band_numbers
from bridge_chart.answers.what.cut_scores import cuts_of
from bridge_chart.answers.what.derived import Span
from bridge_chart.answers.what.parts import chose
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.wording import plain

EXPECTATION = {
    "below": "below expectation", "as_expected": "as expected", "above": "above expectation",
}  # fmt: skip
"""What a student's span says of them, beyond the error of prediction."""
Test = Callable[[Floats], Mask]
"""Whether a condition holds, by the figures of students who have one."""


def by_measure(c: q.MeasureIs, binding: Binding) -> Filter:
    """Students whose value on a measure meets the condition; the unit is always said."""
    own = binding.quantity(c.measure, steps=c.level is not None)
    snapshot = binding.snapshot
    c = c.model_copy(update={"measure": own.measure})
    tests: list[Test] = []
    words: list[str] = []
    if c.level is not None:
        c = _levels(c, own, tests, words)
    _range(c, own, tests, words)
    _boundary(c, own, snapshot, tests, words)
    _status(c, own, snapshot, tests, words)
    if c.form is not None:
        c = _form(c, own, snapshot, tests, words)
    if c.option is not None:
        _option(c.option, own, snapshot, tests, words)
    if not tests:
        raise InvalidQuestion(
            "A condition on a measure must have from, to, above, below, level, status, form, "
            "option or a boundary."
        )

    def mask() -> Mask:
        values = np.asarray(figures_of_students(snapshot, own))
        # What is chosen may await its key, and so have no mark.
        out = ~np.isnan(values) if c.option is None else np.ones(len(values), bool)
        for test in tests:
            out &= test(np.nan_to_num(values, nan=0.0))
        return out

    return Filter(
        c, _text(c, own, words), mask,
        decided=lambda: ~np.isnan(figures_of_students(snapshot, own)),
    )  # fmt: skip


def _text(c: q.MeasureIs, own: Quantity, words: list[str]) -> str:
    if c.status is not None and own.worked is not None and len(words) == 1:
        return f"{words[0]} in {own.worked.of.label}"
    return f"{own.label}: {' and '.join(words)}"


def _levels(c: q.MeasureIs, own: Quantity, tests: list[Test], words: list[str]) -> q.MeasureIs:
    steps = list(enumerate(own.steps))
    named = [own.steps[one_of("level", ref, steps)] for ref in c.level or ()]
    held = [own.steps.index(name) + 1 for name in named]
    tests.append(lambda values: np.isin(values, held))
    words.append(" or ".join(named))
    return c.model_copy(update={"level": tuple(dict.fromkeys(named))})


def _range(c: q.MeasureIs, own: Quantity, tests: list[Test], words: list[str]) -> None:
    said = len(words)
    for bound, word, test in (
        (c.from_, "at least", np.greater_equal),
        (c.to, "at most", np.less_equal),
        (c.above, "above", np.greater),
        (c.below, "below", np.less),
    ):
        if bound is not None:
            tests.append(lambda values, test=test, bound=bound: test(values, bound))  # type: ignore[misc]
            words.append(f"{word} {plain(bound)}")
    if len(words) > said:
        words[-1] += f" {own.unit}"


def _boundary(
    c: q.MeasureIs, own: Quantity, snapshot: Snapshot, tests: list[Test], words: list[str]
) -> None:
    """Below: from cut − within up to the cut itself, without it; above: from the cut on."""
    if c.boundary is None:
        if c.within is not None or c.side is not None:
            raise InvalidQuestion("“within” and “side” are said of a “boundary”.")
        return
    if c.within is None or not c.within > 0:
        raise InvalidQuestion("A condition on a boundary must have “within”, above 0.")
    within, side = c.within, c.side or "both"
    cuts = cuts_of(snapshot, own.key, str(c.boundary), tested_year_level(snapshot, own.key))

    def near(values: Floats) -> Mask:
        distance = np.nan_to_num(values - cuts, nan=np.inf)
        below = (distance < 0) & (distance >= -within)
        above = (distance >= 0) & (distance <= within)
        return np.asarray({"below": below, "above": above}.get(side, below | above))

    tests.append(near)
    where = {"below": "below", "above": "at or above"}.get(side, "around")
    words.append(f"within {plain(within)} {own.unit} {where} {c.boundary}")


def _status(
    c: q.MeasureIs, own: Quantity, snapshot: Snapshot, tests: list[Test], words: list[str]
) -> None:
    """Below, as and above what was expected from where a student started: by more than one error
    of prediction, for half of all are merely under it."""
    if c.status is None:
        return
    unknown = [one for one in c.status if one not in EXPECTATION]
    worked = own.worked
    if not isinstance(worked, Span) or not worked.yardstick.priors:
        raise not_yet("a status of another than a span against where they started")
    if unknown or not c.status:
        raise InvalidQuestion(
            f"A status is one of {', '.join(EXPECTATION)}; there is {', '.join(unknown) or 'none'}."
        )

    def error() -> Floats:
        held = worked.yardstick.held(snapshot)
        assert held is not None
        assert held.fit is not None
        return held.fit.error

    def test(span: Floats) -> Mask:
        off = np.select([span < -error(), span > error()], [0, 2], 1)
        return np.isin(off, [list(EXPECTATION).index(one) for one in c.status or ()])

    tests.append(test)
    words.append(" or ".join(EXPECTATION[one] for one in c.status))


def _form(
    c: q.MeasureIs, own: Quantity, snapshot: Snapshot, tests: list[Test], words: list[str]
) -> q.MeasureIs:
    assert c.form is not None
    form = one_of("form", c.form, [(f.id, f.name) for f in own.key.forms])
    tests.append(lambda _: np.asarray(snapshot.form(own.key) == form))
    words.append(f"form {next(f.name for f in own.key.forms if f.id == form)}")
    return c.model_copy(update={"form": form})


def _option(
    option: str, own: Quantity, snapshot: Snapshot, tests: list[Test], words: list[str]
) -> None:
    """Who chose an option of a question, on whatever form it is."""
    if own.part is None or own.part.kind != "question" or own.worked is not None:
        raise InvalidQuestion(
            "A condition on an option is about one question of a test.",
            next_step="Name the question as the measure's part.",
        )
    tests.append(lambda _: chose(snapshot, own, option))
    words.append(f"chose {option}")


def by_band(c: q.BandIs, binding: Binding) -> Filter:
    """Students who started in some bands: thirds of their year level, or of a scheme; null: no such
    score."""
    own, key, snapshot = binding.quantity(c.band), binding.own.key, binding.snapshot
    names = list(enumerate(band_names(c.scheme)))
    wanted = [-1 if v is None else one_of("starting band", v, names) for v in c.in_]
    words = " or ".join(v or "not known" for v in c.in_)
    return Filter(
        c.model_copy(update={"band": own.measure}),
        f"start in {own.label}: {words}",
        lambda: np.isin(band_numbers(snapshot, own, key, c.scheme), wanted),
    )
