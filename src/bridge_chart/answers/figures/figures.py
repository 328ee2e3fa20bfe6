"""The figures of every group of a split: description, span, interval, verdict."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.what.values import as_kept, figures_of_students
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.describing.clustered import clustered_difference, clustered_means
from bridge_chart.core.describing.describe import Moments, Ranks, describe, moments, ranked
from bridge_chart.core.describing.shares import wilson
from bridge_chart.core.distributions import t_quantile, t_two_sided
from bridge_chart.core.gaps.rest import against_rest
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW, Judging, verdicts_together

MOST_ROBUST = 12
"""Rows that are held against the rest with errors by school; more rows would cost too much."""


@dataclass(frozen=True)
class Figures:
    """Every figure of every group, as arrays of shape (groups,)."""

    values: Moments
    span: Floats
    yardstick: Floats
    interval: Interval
    judging: Judging | None

    @property
    def verdict(self) -> list[str]:
        """Each group's verdict among these groups."""
        return self.verdicts_of(None if self.judging is None else [self.judging])[0]

    def verdicts_of(self, family: Sequence[Judging] | None) -> list[list[str]]:
        """The verdicts of a family; without a yardstick there is nothing to be ahead of."""
        if family is None:
            return [["few" if n < FEWEST_TO_SHOW else "none" for n in self.values.n]]
        return verdicts_together(family)


def figures_of(view: View, out: Outcome, grouping: Grouping, *, quartiles: bool) -> Figures:
    """Work out the groups of a split; quartiles only where they are shown, for they cost most."""
    groups, at, code = len(grouping.groups), grouping.at, grouping.code
    values: Moments
    if quartiles:
        values = describe(out.values[at], code, groups, ranks=_ranks(view).of(at))
    else:
        values = moments(out.values[at], code, groups)
    if out.group is not None:
        return _against_rest(view, out, grouping, values)
    spans = values if out.held is None else moments(out.drawn[at], code, groups)
    yardstick = values.mean - spans.mean if out.held is not None else spans.mean * np.nan
    interval = _interval(view, out, grouping, spans)
    if view.quantity.is_share:
        interval = _of_share(spans, interval)
    judging = None if out.held is None else _judging(spans.mean, spans.n, interval, out)
    return Figures(values, spans.mean, yardstick, interval, judging)


def _judging(span: Floats, n: Integers, interval: Interval, out: Outcome) -> Judging:
    df = np.nan_to_num(interval.df)
    return Judging(span, interval.low, interval.high, interval.p, n, df, out.sd)


def _against_rest(view: View, out: Outcome, grouping: Grouping, values: Moments) -> Figures:
    """Each row against those of the group who are not in the row: a part is held against the
    rest, never against a whole that contains it."""
    assert out.group is not None
    at, code, groups = grouping.at, grouping.code, len(grouping.groups)
    beyond = out.elsewhere
    others = (0, 0.0, 0.0) if beyond is None else (beyond.n, beyond.mean, beyond.sd)
    gap = against_rest(out.values, at, code, groups, out.group, elsewhere=others)
    se, df, low, high, p = (x.copy() for x in (gap.se, gap.df, gap.low, gap.high, gap.p))
    kinds = ["t"] * groups
    roll = view.sitting_roll
    across = roll is not None and not grouping.within_school and groups <= MOST_ROBUST
    if across and roll is not None and beyond is None:
        for n in range(groups):
            side = np.where(out.group, 0, -1)
            side[at[code == n]] = 1
            robust = clustered_difference(
                out.values, side, np.asarray(roll.school), len(view.snapshot.schools)
            )
            if np.isfinite(robust.se):
                kinds[n] = "CR2"
                se[n], df[n], low[n], high[n], p[n] = (
                    robust.se, robust.df, robust.low, robust.high, robust.p,
                )  # fmt: skip
    interval = Interval(se, df, low, high, p, kinds)
    judging = _judging(gap.value, values.n, interval, out)
    return Figures(values, gap.value, values.mean - gap.value, interval, judging)


def _ranks(view: View) -> Ranks:
    """The measure's ranks over all students, from its kept order."""
    snapshot, quantity = view.snapshot, view.quantity
    order = snapshot.order(view.measure) if as_kept(quantity) else None
    return kept_for(
        snapshot, ("ranks", quantity.id),
        lambda: ranked(figures_of_students(snapshot, quantity), order),
    )  # fmt: skip


@dataclass(frozen=True)
class Interval:
    se: Floats
    df: Floats
    low: Floats
    high: Floats
    p: Floats
    kind: list[str]


def _interval(view: View, out: Outcome, grouping: Grouping, spans: Moments) -> Interval:
    """t intervals where a group lies in one school, CR2 by school where it cuts across them."""
    se, df = spans.se.copy(), spans.df.copy()
    kind = ["t"] * len(se)
    if not grouping.within_school:
        schools = view.sitting_roll.school if view.sitting_roll is not None else None
        if schools is not None:
            clusters = np.asarray(schools)[grouping.at]
            robust = clustered_means(
                out.drawn[grouping.at], grouping.code, len(se), clusters, len(view.snapshot.schools)
            )
            for n in np.flatnonzero(robust.clusters > 1):
                se[n], df[n] = robust.se[n], robust.df[n]
                kind[int(n)] = "CR2"
    with np.errstate(invalid="ignore", divide="ignore"):
        margin = t_quantile(0.975, df) * se
        p = t_two_sided(spans.mean / se, df)
    return Interval(se, df, spans.mean - margin, spans.mean + margin, p, kind)


def _of_share(spans: Moments, interval: Interval) -> Interval:
    """Shares have Wilson's interval, as in Levels: one of nobody or everybody is as uncertain as
    its size, and none leaves 0 to 100."""
    count = np.rint(np.nan_to_num(spans.mean) / 100 * spans.n)
    _, low, high = wilson(count, spans.n)
    kind = ["Wilson"] * len(interval.kind)
    return replace(interval, low=100 * low, high=100 * high, kind=kind)
