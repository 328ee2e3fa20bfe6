"""The figures of every group of a split: description, span, interval, verdict."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.coverage import reasons_for
from bridge_chart.answers.grouping import Grouping
from bridge_chart.answers.held import Held
from bridge_chart.answers.kept import kept_for
from bridge_chart.answers.population import members
from bridge_chart.answers.view import View
from bridge_chart.answers.yardstick import held_against
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.describing.clustered import clustered_difference, clustered_means
from bridge_chart.core.describing.describe import Moments, Ranks, describe, moments, ranked
from bridge_chart.core.distributions import t_quantile, t_two_sided
from bridge_chart.core.gaps.rest import against_rest
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW, verdicts
from bridge_chart.terms import question as q

MOST_ROBUST = 12
"""Rows that are held against the rest with errors by school; more rows would cost too much."""


@dataclass(frozen=True)
class Outcome:
    """One quantity's figures per student, before any split.

    values: figures of those counted, NaN elsewhere. drawn: what is compared (the distance from
    the yardstick, else the figures). sd: the figures' sd within year levels, the district's; NaN
    without a yardstick. group: who is in the group that everything is held against, if any.
    """

    values: Floats
    drawn: Floats
    reasons: Codes
    held: Held | None
    sd: float
    group: Mask | None = None

    @property
    def spans(self) -> bool:
        """Whether there is a yardstick, so that rows can be ahead or behind."""
        return self.held is not None or self.group is not None


def outcome(view: View) -> Outcome:
    """The view's quantity and yardstick, worked out for every student of the district.

    Neither scope nor conditions have a part in it, so it is kept for whoever asks next; only who
    belongs to a group that is the yardstick is asked anew.
    """
    against = view.against
    if isinstance(against, q.AgainstGroup):
        plain = _outcome(view, None)
        group = members(view, against.group.who)
        return replace(plain, group=group, sd=_sd_within_year_levels(view))
    asked = against.model_dump_json(by_alias=True) if against is not None else ""
    name = f"outcome {view.quantity.name} {asked}"
    return kept_for(view.snapshot, name, lambda: _outcome(view, against))


def _outcome(view: View, against: q.Yardstick | None) -> Outcome:
    reasons = reasons_for(view.snapshot, view.quantity, against)
    counted = reasons == 0
    values = np.where(counted, view.values, np.nan)
    held = held_against(view.snapshot, view.quantity, against)
    if held is None:
        return Outcome(values, values, reasons, None, float("nan"))
    drawn = np.where(counted, view.values - held.expected, np.nan)
    return Outcome(values, drawn, reasons, held, _sd_within_year_levels(view))


def _sd_within_year_levels(view: View) -> float:
    """√(Σ(n−1)s² / Σ(n−1)) of the outcome over the year levels that the question looks at."""

    def make() -> float:
        strata = np.asarray(view.tested_year_level).astype(np.int64) + 1
        each = moments(view.values, strata, 130)
        free = np.maximum(each.n - 1, 0)
        if not free.sum():
            return float("nan")
        return float(np.sqrt(np.nansum(free * each.sd**2) / free.sum()))

    return kept_for(view.snapshot, f"sd {view.quantity.name}", make)


@dataclass(frozen=True)
class Figures:
    """Every figure of every group, as arrays of shape (groups,)."""

    values: Moments
    span: Floats
    yardstick: Floats
    interval: Interval
    verdict: list[str]


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
    return Figures(values, spans.mean, yardstick, interval, _verdicts(out, spans, interval))


def _against_rest(view: View, out: Outcome, grouping: Grouping, values: Moments) -> Figures:
    """Each row against those of the group who are not in the row: a part is held against the
    rest, never against a whole that contains it."""
    assert out.group is not None
    at, code, groups = grouping.at, grouping.code, len(grouping.groups)
    gap = against_rest(out.values, at, code, groups, out.group)
    se, df, low, high, p = (x.copy() for x in (gap.se, gap.df, gap.low, gap.high, gap.p))
    kinds = ["t"] * groups
    roll = view.sitting_roll
    if roll is not None and not grouping.within_school and groups <= MOST_ROBUST:
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
    told = verdicts(gap.value, low, high, p, values.n, np.nan_to_num(df), out.sd)
    return Figures(values, gap.value, values.mean - gap.value, interval, told)


def _ranks(view: View) -> Ranks:
    """The measure's ranks over all students, from its kept order."""
    quantity = view.quantity
    kept = quantity.name == quantity.key.key
    order = view.snapshot.order(view.measure) if kept else None
    return kept_for(view.snapshot, f"ranks {quantity.name}", lambda: ranked(view.values, order))


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


def _verdicts(out: Outcome, spans: Moments, interval: Interval) -> list[str]:
    """Verdicts hold against a yardstick only; without one there is nothing to be ahead of."""
    if out.held is None:
        return ["few" if n < FEWEST_TO_SHOW else "none" for n in spans.n]
    return verdicts(
        spans.mean, interval.low, interval.high, interval.p, spans.n, interval.df, out.sd
    )
