"""Gains between two sittings, growth against a table, and pace over several."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, check_codes
from bridge_chart.core.describing.describe import Moments, moments
from bridge_chart.core.describing.shares import wilson
from bridge_chart.core.distributions import t_quantile
from bridge_chart.core.estimate import NAN, Estimate, interval_of, undefined

FEWEST_POINTS = 4


@dataclass(frozen=True)
class Gains:
    """gain: (students,), NaN without both scores. unit: "score" or "sd" (a change of z).

    Changes of z must never be compared across prior bands: regression to the mean alone moves
    low starters up and high ones down; compare residuals.
    """

    gain: Floats
    unit: str
    groups: Moments


def gains(
    before: Floats,
    after: Floats,
    codes: Codes,
    groups: int,
    *,
    vertical: bool,
    norms: tuple[float, float, float, float] | None = None,
) -> Gains:
    """after − before on a common vertical scale, else the change of z.

    norms: mean and sd before, mean and sd after (of the nation or the district), for z.
    Errors: ValueError where the scale is not vertical and no norms are given.

    >>> g = gains(np.array([90., 100]), np.array([30., 35]), np.zeros(2, int), 1, vertical=False,
    ...           norms=(100, 10, 30, 5))
    >>> g.gain.tolist(), g.unit
    ([1.0, 1.0], 'sd')
    """
    first, second = np.asarray(before, np.float64), np.asarray(after, np.float64)
    if first.shape != second.shape:
        raise ValueError("before and after must have one shape: the same students in one order")
    if vertical:
        gain, unit = second - first, "score"
    else:
        if norms is None or not (norms[1] > 0 and norms[3] > 0):
            raise ValueError("off a vertical scale a gain must have the norms of both sittings")
        gain, unit = (second - norms[2]) / norms[3] - (first - norms[0]) / norms[1], "sd"
    return Gains(gain, unit, moments(gain, codes, groups))


def falling_behind(
    score_before: Floats, score_after: Floats, z_before: Floats, z_after: Floats,
    sem_before: Floats | float, sem_after: Floats | float,
) -> Mask:  # fmt: skip
    """Who rose in score and yet surely fell in rank: the fall in z exceeds
    1.96·√(SEM₁² + SEM₂²), both in z units. NaN is never flagged.

    >>> falling_behind(*(np.array([a]) for a in (90., 92., 0.5, -0.5)), 0.3, 0.3).tolist()
    [True]
    """
    if np.any(np.asarray(sem_before) < 0) or np.any(np.asarray(sem_after) < 0):
        raise ValueError("errors of measurement must not be negative")
    fall = np.asarray(z_before, np.float64) - np.asarray(z_after, np.float64)
    rose = np.asarray(score_after, np.float64) > np.asarray(score_before, np.float64)
    flagged: Mask = rose & (fall > 1.96 * np.hypot(sem_before, sem_after))
    return flagged


@dataclass(frozen=True)
class GrowthMet:
    """(groups,): of those with both scores (and in the table), who met each growth."""

    n: Integers
    missing: Integers
    expected: tuple[Floats, Floats, Floats]
    ambitious: tuple[Floats, Floats, Floats]
    expected_growth: Floats
    ambitious_growth: Floats


def growth_met(
    before: Floats, after: Floats, codes: Codes, groups: int,
    starts: Floats, expected: Floats, ambitious: Floats,
) -> GrowthMet:  # fmt: skip
    """Share of each group that met the table's expected and ambitious growth (Wilson 1927).

    starts rise strictly; expected, ambitious: growth from each start, linear between entries, none
    beyond the ends. Meeting is reaching or passing. Errors: ValueError on the table.

    >>> m = growth_met(np.array([100., 110]), np.array([108., 112]), np.zeros(2, int), 1,
    ...                np.array([90., 120]), np.array([6., 6]), np.array([8., 8]))
    >>> m.expected[0].tolist(), m.ambitious[0].tolist()
    ([0.5], [0.5])
    """
    first, second = np.asarray(before, np.float64), np.asarray(after, np.float64)
    starts = np.asarray(starts, np.float64)
    if len(starts) == 0 or np.any(np.diff(starts) <= 0) or np.any(expected > ambitious):
        raise ValueError("starts must rise strictly, and ambitious growth be at least expected")
    check_codes(codes, len(first), groups)
    inside = (first >= starts[0]) & (first <= starts[-1])
    needs = [np.where(inside, np.interp(first, starts, g), np.nan) for g in (expected, ambitious)]
    gain = second - first
    held = ~np.isnan(gain) & inside & (codes >= 0)
    n = np.bincount(codes[held], minlength=groups).astype(np.int64)
    every = np.bincount(codes[codes >= 0], minlength=groups).astype(np.int64)
    # A gain that rounding leaves a hair under the need has met it.
    slack = 1e-9 * np.maximum(np.abs(second), 1.0)
    shares = []
    for need in needs:
        met = np.bincount(codes[held & (gain >= need - slack)], minlength=groups)
        shares.append(wilson(met.astype(np.int64), n))
    return GrowthMet(n, every - n, shares[0], shares[1], needs[0], needs[1])


@dataclass(frozen=True)
class Pace:
    """slope: per year. projection: at the date asked for; `reason` where there is none."""

    slope: Estimate
    points: int
    span_years: float
    projection: Estimate


def pace(
    years: Floats, scores: Floats, ahead: float, pooled_sd: float | None = None,
    confidence: float = 0.95,
) -> Pace:  # fmt: skip
    """Least squares over one student's dated results, and where that pace ends.

    slope = Σ(t−t̄)(y−ȳ)/Σ(t−t̄)². The projection lies `ahead` years after the last result, at most
    as far as the results span. Its interval s·√(1 + 1/n + (t−t̄)²/Σ(t−t̄)²) is for a further result:
    from four points on by t(n − 2), or with `pooled_sd` (residual sd over many students) by the
    normal; else the projection has no interval. NaN results are left out.

    >>> p = pace(np.array([0., 1, 2, 3]), np.array([90., 96, 99, 107]), 1.0)
    >>> round(p.slope.value, 3), round(p.projection.value, 3), p.points
    (5.4, 111.5, 4)
    """
    t, y = np.asarray(years, np.float64), np.asarray(scores, np.float64)
    held = ~np.isnan(t) & ~np.isnan(y)
    t, y = t[held], y[held]
    n = len(t)
    if n < 2 or np.ptp(t) == 0:
        none = undefined("fewer than two dates with results", n=n)
        return Pace(none, n, 0.0, none)
    away = t - t.mean()
    sxx = float(away @ away)
    slope = float(away @ (y - y.mean())) / sxx
    left = y - y.mean() - slope * away
    df = float(n - 2) if pooled_sd is None else np.inf
    sd = pooled_sd if pooled_sd is not None else NAN
    if pooled_sd is None and n >= FEWEST_POINTS:
        sd = float(np.sqrt(left @ left / (n - 2)))
    known = sd > 0
    rate = undefined("fewer than four points and no pooled spread", slope, n)
    if known:
        rate = interval_of(slope, sd / np.sqrt(sxx), df, confidence).counted(n)
    span = float(np.ptp(t))
    if ahead > span * (1 + 1e-9):
        far = undefined(f"the results span {span:g} years: too short to look {ahead:g} ahead", n=n)
        return Pace(rate, n, span, far)
    away_then = float(t.max()) + ahead - float(t.mean())
    value = float(y.mean()) + slope * away_then
    there = undefined("fewer than four points and no pooled spread", value, n)
    if known:
        error = sd * float(np.sqrt(1 + 1 / n + away_then**2 / sxx))
        there = interval_of(value, error, df, confidence).counted(n)
    return Pace(rate, n, span, there)


def paces(years: Floats, scores: Floats) -> tuple[Floats, Integers, float]:
    """Slopes per year of many students at once, how many results each has, and the pooled residual
    sd that `pace` may use. years: (sittings,), scores: (students, sittings), NaN = not taken.

    >>> slope, points, sd = paces(np.array([0., 1, 2]), np.array([[1., 3, 5], [2., np.nan, 2]]))
    >>> slope.tolist(), points.tolist(), sd
    ([2.0, 0.0], [3, 2], 0.0)
    """
    t, y = np.asarray(years, np.float64), np.asarray(scores, np.float64)
    held = ~np.isnan(y)
    points = held.sum(axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        tm = (held @ t) / points
        ym = np.where(held, y, 0.0).sum(axis=1) / points
        dt = np.where(held, t[None, :] - tm[:, None], 0.0)
        dy = np.where(held, y - ym[:, None], 0.0)
        sxx = np.sum(dt**2, axis=1)
        slope = np.where(sxx > 0, np.sum(dt * dy, axis=1) / sxx, np.nan)
    left = np.where(np.isfinite(slope)[:, None], dy - np.nan_to_num(slope)[:, None] * dt, 0.0)
    df = int(np.sum(np.where(np.isfinite(slope), points - 2, 0)))
    sd = float(np.sqrt(np.sum(left**2) / df)) if df > 0 else NAN
    return slope, points.astype(np.int64), sd


def pace_interval_reach(points: int, confidence: float = 0.95) -> float:
    """t multiple of a pace's interval with its own residuals; NaN under four points.

    >>> round(pace_interval_reach(5), 4)
    3.1824
    """
    if points < FEWEST_POINTS:
        return NAN
    return float(t_quantile(0.5 + confidence / 2, points - 2.0))
