"""The figures of every group of a split: description, span, interval, verdict."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.coverage import reasons_for
from bridge_chart.answers.grouping import Group, Grouping
from bridge_chart.answers.view import View
from bridge_chart.answers.yardstick import Expectation, expectation
from bridge_chart.core.arrays import Codes, Floats, Integers, Mask
from bridge_chart.core.clustered import clustered_means
from bridge_chart.core.describe import Description, describe
from bridge_chart.core.distributions import t_quantile, t_two_sided
from bridge_chart.core.trust import FEWEST_TO_SHOW, verdicts
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Row


@dataclass(frozen=True)
class Outcome:
    """One question's figures per student, before any split.

    values: outcome of those counted, NaN elsewhere. drawn: what is compared (residuals against
    where they started, else the outcome). sd: the outcome's sd within year levels, the district's.
    """

    values: Floats
    drawn: Floats
    reasons: Codes
    held: Expectation | None
    sd: float


def outcome(view: View) -> Outcome:
    """Work the question's measure and yardstick out for every student of the district."""
    against = view.question.against
    reasons = reasons_for(view, view.measure, against)
    counted = reasons == 0
    values = np.where(counted, view.values, np.nan)
    held = None
    drawn = values
    if isinstance(against, q.AgainstPrior):
        held = expectation(view, view.measure, against)
        drawn = np.where(counted, held.fit.residual, np.nan)
    return Outcome(values, drawn, reasons, held, _sd_within_year_levels(view))


def _sd_within_year_levels(view: View) -> float:
    """√(Σ(n−1)s² / Σ(n−1)) of the outcome over the year levels that the question looks at."""
    strata = np.asarray(view.tested_year_level).astype(np.int64) + 1
    each = describe(view.values, strata, 130)
    free = np.maximum(each.n - 1, 0)
    if not free.sum():
        return float("nan")
    return float(np.sqrt(np.nansum(free * each.sd**2) / free.sum()))


def rows_of(view: View, out: Outcome, grouping: Grouping) -> list[Row]:
    """A row per group, unsorted."""
    groups = len(grouping.groups)
    at, code = grouping.at, grouping.code
    order = _order_within(view, at)
    values = describe(out.values[at], code, groups, order=order)
    spans = values if out.held is None else describe(out.drawn[at], code, groups)
    interval = _interval(view, out, grouping, spans)
    yardstick = spans.mean * np.nan
    if out.held is not None:
        expected = np.where(np.isnan(out.drawn[at]), np.nan, out.held.fit.expected[at])
        yardstick = describe(expected, code, groups).mean
    verdict = _verdicts(out, spans, interval)
    rows = []
    for n, item in enumerate(grouping.groups):
        shown = spans.n[n] >= FEWEST_TO_SHOW
        row = Row(
            key=item.key,
            label=item.label,
            measure=view.measure.key,
            n=int(values.n[n]),
            missing=int(values.missing[n]),
            verdict=verdict[n],
            overlap=grouping.overlaps,
            narrow=item.narrow,
            undefined=None if shown else "too_few",
        )
        if shown:
            row = row.model_copy(update=_numbers(n, values, spans, yardstick, interval, out))
        rows.append(row)
    return rows


def _numbers(
    n: int,
    values: Description,
    spans: Description,
    yardstick: Floats,
    interval: _Interval,
    out: Outcome,
) -> dict[str, float | str | None]:
    against = out.held is not None
    span = _plain(spans.mean[n]) if against else None
    return {
        "mean": _plain(values.mean[n]),
        "sd": _plain(values.sd[n]),
        "q1": _plain(values.q1[n]),
        "median": _plain(values.median[n]),
        "q3": _plain(values.q3[n]),
        "value": _plain(values.mean[n]),
        "yardstick": _plain(yardstick[n]),
        "span_raw": span,
        "span": span,
        "low": _plain(interval.low[n]),
        "high": _plain(interval.high[n]),
        "se": _plain(interval.se[n]),
        "se_kind": interval.kind[n],
        "df": _plain(interval.df[n]),
        "p": _plain(interval.p[n]) if against else None,
        "effect": _plain(spans.mean[n] / out.sd) if against and out.sd > 0 else None,
    }


def _plain(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


def _order_within(view: View, at: Integers) -> Integers | None:
    """The measure's kept order, as positions in `at`; None where students repeat."""
    if len(at) > 1 and not (np.diff(at) > 0).all():
        return None
    place = np.full(view.snapshot.students, -1, np.int64)
    place[at] = np.arange(len(at))
    kept: Integers = place[view.snapshot.order(view.measure)]
    return kept[kept >= 0]


@dataclass(frozen=True)
class _Interval:
    se: Floats
    df: Floats
    low: Floats
    high: Floats
    p: Floats
    kind: list[str]


def _interval(view: View, out: Outcome, grouping: Grouping, spans: Description) -> _Interval:
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
    return _Interval(se, df, spans.mean - margin, spans.mean + margin, p, kind)


def _verdicts(out: Outcome, spans: Description, interval: _Interval) -> list[str]:
    """Verdicts hold against a yardstick only; without one there is nothing to be ahead of."""
    found = verdicts(
        spans.mean, interval.low, interval.high, interval.p, spans.n, interval.df, out.sd
    )
    if out.held is not None:
        return found
    return ["few" if n < FEWEST_TO_SHOW else "none" for n in spans.n]


def reference_row(view: View, out: Outcome, everyone: Mask) -> Row:
    """Everyone who meets the question's conditions in any school: an aggregate, never openable."""
    at = np.flatnonzero(everyone)
    one = Grouping("", [Group("district", "All schools", [])], at, np.zeros(len(at), np.int16),
                   False, False)  # fmt: skip
    row = rows_of(view, out, one)[0]
    return row.model_copy(update={"open": False, "narrow": None, "verdict": "none"})
