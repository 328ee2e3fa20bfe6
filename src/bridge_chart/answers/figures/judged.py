"""What may be said of each row: verdicts of one family over all that an answer shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.figures import Figures, counted_code, placed
from bridge_chart.answers.figures.ground import Ground, on_ground, shifted, tested
from bridge_chart.answers.figures.pooled import Pooled
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.splits.by_figure import ByLevel
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.contrasts.rows import Contrasts
from bridge_chart.core.distributions import t_two_sided
from bridge_chart.core.trust.verdicts import Judging, verdicts_together
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Because, Verdict


@dataclass(frozen=True)
class Verdicts:
    """Of a part's rows; because: why a row has none, or lost it."""

    verdict: list[Verdict]
    because: list[Because | None]


@dataclass(frozen=True)
class _Test:
    found: Contrasts
    none: Mask
    family: Floats
    shift: Floats


def verdicts_of(
    parts: Sequence[tuple[Slice, Figures, Pooled | None]],
) -> list[Verdicts]:
    """The verdicts of several quantities' rows: false discoveries are controlled over everything
    that one answer shows, and over the same groups in the whole district, whoever asks."""
    bare = [part.out.spans for part, _, _ in parts]
    judging = [_judging(*one) for one, spans in zip(parts, bare, strict=True) if spans]
    told = iter(zip(judging, verdicts_together(judging), strict=True))
    out = []
    for (part, figures, _), spans in zip(parts, bare, strict=True):
        if not spans:
            out.append(without_verdicts(len(figures.values.n)))
            continue
        one, found = next(told)
        chosen = chosen_by_outcome(part.view)
        fitted = part.out.held is not None and part.out.held.fit is not None
        held_equal = _held_equal(part)
        reason: Because = (
            "chosen_by_outcome"
            if chosen
            else "by_construction"
            if fitted or held_equal
            else "whole"
        )
        none = np.zeros(len(one.span), bool) if one.none is None else one.none
        because: list[Because | None] = [
            reason if n else "start" if shaken else None
            for n, shaken in zip(none | chosen | held_equal, found.shaken, strict=True)
        ]
        unjudged = chosen or held_equal
        verdict: list[Verdict] = ["none" if unjudged else v for v in found.verdicts]  # type: ignore[misc]
        out.append(Verdicts(verdict, because))
    return out


def _held_equal(part: Slice) -> bool:
    """Whether rows are the values of what the expectation allows for: it makes them equal."""
    held = part.out.held
    allowed = () if held is None or held.fit is None else held.fit.covariates
    return any(
        isinstance(one.asked, q.ByCharacteristic) and one.asked.characteristic in allowed
        for one in part.view.split
    )  # fmt: skip


def without_verdicts(rows: int) -> Verdicts:
    """Without a yardstick there is nothing to be ahead of; a pinned row is what it is."""
    return Verdicts(["none"] * rows, [None] * rows)


def _judging(part: Slice, figures: Figures, shrunken: Pooled | None) -> Judging:
    if shrunken is not None:
        return _of_model(part, figures, shrunken)
    test = _test(part)
    found, interval = test.found, figures.interval
    again = p_again = None
    if len(test.shift):
        again = found.value - test.shift
        with np.errstate(invalid="ignore", divide="ignore"):
            p_again = t_two_sided(again / found.se, found.df)
    span, low, high = figures.span, interval.low, interval.high
    if part.view.yardstick is not None and part.view.yardstick.moves:
        # All may have risen: who rose less than the others is behind.
        span, low, high = found.value, found.low, found.high
    return Judging(
        span, found.value, low, high, found.p, figures.values.n,
        np.nan_to_num(found.df), part.out.sd, test.family, test.none, again, p_again,
    )  # fmt: skip


def _test(part: Slice) -> _Test:
    grouping, out = part.grouping, part.out
    at, code, rows = grouping.at, counted_code(out, grouping), len(grouping.groups)

    def read(ground: Ground, places: Integers) -> _Test:
        there, held = placed(places, at, code)
        found, none = tested(ground, there, held, rows)
        return _Test(found, none, ground.family, shifted(ground, there, held, rows))

    return on_ground(part.view, read)


def _of_model(part: Slice, figures: Figures, found: Pooled) -> Judging:
    """From the shrunken estimate, its reliability and its normal interval; none where too few
    groups are behind the model."""
    with np.errstate(invalid="ignore", divide="ignore"):
        p = t_two_sided(found.estimate / found.se, np.full(len(found.se), np.inf))
    # No variance between the groups was found: each is as the district, without a bar.
    flat = np.isfinite(found.estimate) & ~np.isfinite(found.se)
    reliability = np.nan_to_num(found.reliability)
    shift = _test(part).shift
    again = p_again = None
    if len(shift):
        again = found.estimate - reliability * shift
        with np.errstate(invalid="ignore", divide="ignore"):
            p_again = t_two_sided(again / found.se, np.full(len(found.se), np.inf))
    return Judging(
        found.estimate, found.estimate, found.low, found.high, p, figures.values.n,
        np.full(len(found.se), np.inf), part.out.sd, found.family, None, again, p_again,
        reliability, flat, found.may_judge,
    )  # fmt: skip


def chosen_by_outcome(view: View) -> bool:
    """Whether a group was put together by the result itself, or one no earlier: then it differs
    because it was chosen so."""
    day = view.measure.date
    if any(isinstance(s, ByLevel) and s.of.key.date >= day for s in view.split):
        return True
    own = view.quantity.key
    return any(_names(one.asked, own.sitting.id) for one in view.who)


def _names(c: q.Condition, sitting: int) -> bool:
    """Whether a condition is one on a result of a sitting."""
    if isinstance(c, q.MeasureIs):
        of = c.measure
        while isinstance(of, q.Derived):
            of = of.of
        return of.sitting == sitting
    if isinstance(c, q.AnyOf | q.AllOf):
        return any(_names(one, sitting) for one in (c.any_ if isinstance(c, q.AnyOf) else c.all_))
    return isinstance(c, q.Not) and _names(c.not_, sitting)
