"""The figures of every group of a split: description, span, interval, verdict."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from bridge_chart.answers.coverage import reasons_for
from bridge_chart.answers.grouping import Group, Grouping
from bridge_chart.answers.view import View, kept_for
from bridge_chart.answers.yardstick import Expectation, expectation
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.describing.clustered import clustered_means
from bridge_chart.core.describing.describe import (
    Description,
    Moments,
    Ranks,
    describe,
    moments,
    ranked,
)
from bridge_chart.core.distributions import t_quantile, t_two_sided
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW, verdicts
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Row


@dataclass(frozen=True)
class Outcome:
    """One question's figures per student, before any split.

    values: scores of those counted, NaN elsewhere. drawn: what is compared (residuals against
    where they started, else the scores). sd: the scores' sd within year levels, the district's;
    NaN without a yardstick.
    """

    values: Floats
    drawn: Floats
    reasons: Codes
    held: Expectation | None
    sd: float


def outcome(view: View) -> Outcome:
    """The question's measure and yardstick, worked out for every student of the district.

    Neither scope nor conditions have a part in it, so it is kept for whoever asks next.
    """
    against = view.question.against
    prior = against.model_dump_json() if against is not None else ""
    return kept_for(view, f"outcome {view.measure.key} {prior}", lambda: _outcome(view))


def _outcome(view: View) -> Outcome:
    against = view.question.against
    reasons = reasons_for(view, view.measure, against)
    counted = reasons == 0
    values = np.where(counted, view.values, np.nan)
    if not isinstance(against, q.AgainstPrior):
        return Outcome(values, values, reasons, None, float("nan"))
    held = expectation(view, view.measure, against)
    drawn = np.where(counted, held.residual, np.nan)
    return Outcome(values, drawn, reasons, held, _sd_within_year_levels(view))


def _sd_within_year_levels(view: View) -> float:
    """√(Σ(n−1)s² / Σ(n−1)) of the outcome over the year levels that the question looks at."""
    strata = np.asarray(view.tested_year_level).astype(np.int64) + 1
    each = moments(view.values, strata, 130)
    free = np.maximum(each.n - 1, 0)
    if not free.sum():
        return float("nan")
    return float(np.sqrt(np.nansum(free * each.sd**2) / free.sum()))


@dataclass(frozen=True)
class Figures:
    """Every figure of every group, as arrays of shape (groups,)."""

    values: Moments
    spans: Moments
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
    spans = values if out.held is None else moments(out.drawn[at], code, groups)
    yardstick = values.mean - spans.mean if out.held is not None else spans.mean * np.nan
    interval = _interval(view, out, grouping, spans)
    return Figures(values, spans, yardstick, interval, _verdicts(out, spans, interval))


def rows_of(view: View, out: Outcome, grouping: Grouping) -> list[Row]:
    """A row per group, unsorted."""
    figures = figures_of(view, out, grouping, quartiles=True)
    columns = _columns(figures, out)
    rows = []
    for n, item in enumerate(grouping.groups):
        count = int(figures.values.n[n])
        shown = count >= FEWEST_TO_SHOW
        rows.append(
            Row(
                key=item.key,
                label=item.label,
                measure=view.measure.key,
                n=count,
                missing=int(figures.values.missing[n]),
                verdict=figures.verdict[n],
                overlap=grouping.overlaps,
                narrow=item.narrow,
                undefined=None if shown else "too_few",
                **({key: column[n] for key, column in columns.items()} if shown else {}),
            )
        )
    return rows


def _columns(figures: Figures, out: Outcome) -> dict[str, list[Any]]:
    """The row's numbers by name, NaN as None."""
    values, spans, interval = figures.values, figures.spans, figures.interval
    plain = {
        "mean": values.mean, "sd": values.sd, "value": values.mean, "low": interval.low,
        "high": interval.high, "se": interval.se, "df": interval.df,
    }  # fmt: skip
    if isinstance(values, Description):
        plain |= {"q1": values.q1, "median": values.median, "q3": values.q3}
    if out.held is not None:
        plain |= {
            "yardstick": figures.yardstick, "span_raw": spans.mean, "span": spans.mean,
            "p": interval.p, "effect": spans.mean / out.sd if out.sd > 0 else spans.mean * np.nan,
        }  # fmt: skip
    columns: dict[str, list[Any]] = {
        key: [x if x == x else None for x in column.tolist()] for key, column in plain.items()
    }
    columns["se_kind"] = list(interval.kind)
    return columns


def _ranks(view: View) -> Ranks:
    """The measure's ranks over all students, from its kept order."""
    return kept_for(
        view,
        f"ranks {view.measure.key}",
        lambda: ranked(view.values, view.snapshot.order(view.measure)),
    )


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


def reference_row(view: View, out: Outcome, everyone: Mask) -> Row:
    """Everyone who meets the question's conditions in any school: an aggregate, never openable."""
    at = np.flatnonzero(everyone)
    one = Grouping("", [Group("district", "All schools", [])], at, np.zeros(len(at), np.int16),
                   False, False)  # fmt: skip
    row = rows_of(view, out, one)[0]
    return row.model_copy(update={"open": False, "narrow": None, "verdict": "none"})
