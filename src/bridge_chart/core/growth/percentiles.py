"""Conditional growth percentiles: where a student stands among those who started alike."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, check_codes
from bridge_chart.core.describing.describe import moments, quantiles
from bridge_chart.core.distributions import binomial_quantile
from bridge_chart.core.expected.cells import equal_prior_means
from bridge_chart.core.growth.quantiles import SAME, quantile_fits

FEWEST_TO_FIT = 200
FEWEST_FOR_EACH = 500
FEWEST_VALUES = 15
FEWEST_FOR_MEDIAN = 30
KNOTS = (0.2, 0.4, 0.6, 0.8)
BLOCK = 65_536


@dataclass(frozen=True)
class GrowthPercentiles:
    """percentile: (students,) 1 … 99, NaN = none. method: "quantiles", "every fifth",
    "mid-ranks" or "refused" (`reason` says why).

    clamped: students whose prior lies outside the fit population's (held at its end).
    """

    percentile: Floats
    method: str
    n: int
    clamped: int
    reason: str = ""
    converged: bool = True


def growth_percentiles(
    outcome: Floats, priors: Floats, basis: Mask | None = None, *, workers: int = 1
) -> GrowthPercentiles:
    """Percentile of each outcome among students with the same priors.

    100 conditional quantiles, τ = .005, .015 … .995, on a cubic B-spline (knots at the priors'
    20/40/60/80%, duplicates dropped) of one to three priors; percentile = fitted quantiles below
    the outcome + ½ of those equal to it (within 1e-9 sd), kept in 1 to 99. Counting equals
    rearranging crossed curves (Chernozhukov, Fernández-Val & Galichon 2010; Koenker & Bassett
    1978). Fitted on `basis` (all by default) with every value; n < 500
    only every fifth percentile, n < 200 refused. Under 15 outcome values: mid-ranks within cells
    of equal expected outcome. Fitted on itself a district averages 50 by construction.

    outcome: (students,), priors: (students,) or (students, 1 … 3), NaN = missing.
    Errors: ValueError on shapes or more than three priors.

    >>> rng = np.random.default_rng(3); x = rng.normal(size=1000); y = x + rng.normal(size=1000)
    >>> g = growth_percentiles(y, x)
    >>> g.method, bool(abs(np.mean(g.percentile) - 50) < 1)
    ('quantiles', True)
    """
    y, x = np.asarray(outcome, np.float64), np.asarray(priors, np.float64)
    x = x[:, None] if x.ndim == 1 else x
    if len(x) != len(y) or not 1 <= x.shape[1] <= 3:
        raise ValueError("priors must have one row per student and one to three columns")
    known = ~np.isnan(y) & ~np.isnan(x).any(axis=1)
    fitted = known if basis is None else known & basis
    n = int(fitted.sum())
    none = np.full(len(y), np.nan)
    if n < FEWEST_TO_FIT:
        said = f"fewer than {FEWEST_TO_FIT} students with every score ({n})"
        return GrowthPercentiles(none, "refused", n, 0, said)
    varying = [k for k in range(x.shape[1]) if np.ptp(x[fitted, k]) > 0]
    if not varying or np.ptp(y[fitted]) == 0:
        return GrowthPercentiles(none, "refused", n, 0, "the scores do not vary")
    x = x[:, varying]
    low, high = x[fitted].min(axis=0), x[fitted].max(axis=0)
    held = np.clip(x, low, high)
    clamped = int(np.count_nonzero(known & (held != x).any(axis=1)))
    if len(np.unique(y[fitted])) < FEWEST_VALUES:
        ranks = _mid_ranks(y, held, known, fitted)
        return GrowthPercentiles(ranks, "mid-ranks", n, clamped)
    step = 1 if n >= FEWEST_FOR_EACH else 5
    taus = (np.arange(0, 100, step) + step / 2) / 100
    percentile, converged = _by_quantiles(y, held, known, fitted, taus, step, workers)
    method = "quantiles" if step == 1 else "every fifth"
    return GrowthPercentiles(percentile, method, n, clamped, "", converged)


def _by_quantiles(
    y: Floats, x: Floats, known: Mask, fitted: Mask, taus: Floats, step: int, workers: int
) -> tuple[Floats, bool]:
    knots = [_knots(x[fitted, k]) for k in range(x.shape[1])]
    table = np.column_stack([x[fitted], y[fitted]])
    # Where scores repeat, equal students are one row with a weight: the same curves, sooner.
    distinct, counts = np.unique(table, axis=0, return_counts=True)
    design = _basis(distinct[:, :-1], knots)
    kept = _independent(design, counts)
    fits = quantile_fits(
        distinct[:, -1], design[:, kept], taus.tolist(), counts.astype(float), workers
    )
    sd = float(np.std(y[fitted]))
    rows = np.flatnonzero(known)
    out = np.full(len(y), np.nan)
    for first in range(0, len(rows), BLOCK):
        some = rows[first : first + BLOCK]
        curves = _basis(x[some], knots)[:, kept] @ fits.coefficients.T
        apart = y[some][:, None] - curves
        below = (apart > SAME * sd).sum(axis=1) + 0.5 * (np.abs(apart) <= SAME * sd).sum(axis=1)
        out[some] = np.clip(below * step, 1, 99)
    return out, all(fits.converged)


def _knots(prior: Floats) -> Floats:
    """Cubic knots: four at each end, and the distinct quantiles strictly between."""
    low, high = float(prior.min()), float(prior.max())
    inner = np.unique(np.quantile(prior, KNOTS))
    inner = inner[(inner > low) & (inner < high)]
    return np.concatenate([[low] * 4, inner, [high] * 4])


def _basis(x: Floats, knots: list[Floats]) -> Floats:
    """Constant, and each prior's B-spline without its first column, (rows, 1 + Σ(k − 1))."""
    from scipy.interpolate import BSpline  # here: importing it takes longer than most answers

    parts = [np.ones((len(x), 1))]
    for k, t in enumerate(knots):
        parts.append(BSpline.design_matrix(x[:, k], t, 3).toarray()[:, 1:])
    return np.hstack(parts)


def _independent(design: Floats, weight: Integers) -> Integers:
    """Columns that do not depend on those before them (few distinct priors leave some that do)."""
    from scipy.linalg import qr

    scaled = design * np.sqrt(weight)[:, None]
    _, r, order = qr(scaled, mode="economic", pivoting=True)
    size = np.abs(np.diag(r))
    return np.sort(order[: int(np.count_nonzero(size > 1e-10 * size[0]))]).astype(np.int64)


def _mid_ranks(y: Floats, x: Floats, known: Mask, fitted: Mask) -> Floats:
    """100·(below + ½·equal)/n among students of the same cell of expected outcomes."""
    spread = x[fitted].std(axis=0)
    design = np.column_stack([np.ones(len(x)), x / spread])
    beta = np.linalg.lstsq(design[fitted], y[fitted], rcond=None)[0]
    cells = equal_prior_means(
        y, np.asarray(np.round(np.where(known, design @ beta, np.nan), 9), np.float64), fitted
    )
    out = np.full(len(y), np.nan)
    for cell in range(len(cells.n)):  # over cells of 30 students or more
        among = np.sort(y[fitted & (cells.cell == cell)])
        rows = known & (cells.cell == cell)
        below = np.searchsorted(among, y[rows], side="left")
        at_most = np.searchsorted(among, y[rows], side="right")
        out[rows] = np.clip(100 * (below + at_most) / (2 * len(among)), 1, 99)
    return out


@dataclass(frozen=True)
class GrowthOfGroups:
    """(groups,): median with its order-statistic interval, and the mean with its t interval."""

    n: Integers
    missing: Integers
    median: Floats
    median_low: Floats
    median_high: Floats
    mean: Floats
    mean_low: Floats
    mean_high: Floats
    enough: Mask


def growth_of_groups(
    percentile: Floats, codes: Codes, groups: int, confidence: float = 0.95,
    effective: Floats | None = None,
) -> GrowthOfGroups:  # fmt: skip
    """Median (and mean) growth percentile of each group. Fewer than 30: not `enough`.

    percentile: (students,), NaN = none (counted missing). effective: as in `median_interval`.

    >>> g = growth_of_groups(np.arange(1., 11) * 9, np.zeros(10, int), 1)
    >>> g.median.tolist(), g.median_low.tolist(), g.median_high.tolist()
    ([49.5], [18.0], [81.0])
    """
    values = np.asarray(percentile, np.float64)
    check_codes(codes, len(values), groups)
    figures = moments(values, codes, groups, confidence=confidence)
    median = quantiles(values, codes, groups, (0.5,))[:, 0]
    low, high = median_interval(values, codes, groups, confidence, effective)
    return GrowthOfGroups(
        figures.n, figures.missing, median, low, high, figures.mean, figures.low, figures.high,
        figures.n >= FEWEST_FOR_MEDIAN,
    )  # fmt: skip


def median_ranks(n: int, confidence: float = 0.95) -> tuple[int, int] | None:
    """Ranks (from 1) of the order statistics that enclose the median with at least this
    confidence: the largest r with P(Binomial(n, ½) < r) ≤ (1 − confidence)/2 (Thompson 1936).
    None where even the extremes do not.

    >>> median_ranks(10), median_ranks(20), median_ranks(5)
    ((2, 9), (6, 15), None)
    """
    if n < 1:
        return None
    rank = binomial_quantile((1 - confidence) / 2, n, 0.5)
    while rank > 0 and _below(rank, n) > (1 - confidence) / 2:
        rank -= 1
    return (rank, n + 1 - rank) if rank > 0 else None


def _below(rank: int, n: int) -> float:
    from scipy.special import bdtr

    return float(bdtr(rank - 1, n, 0.5))


def median_interval(
    values: Floats, codes: Codes, groups: int, confidence: float = 0.95,
    effective: Floats | None = None,
) -> tuple[Floats, Floats]:  # fmt: skip
    """Order-statistic interval of each group's median, (groups,) low and high; NaN if n < 6.

    values: (students,), NaN left out; ranks as `median_ranks` (Thompson 1936). effective:
    (groups,) how many students, taken one by one, a group's are worth in their classes: the ranks
    are those of so many, at the same shares of the group (Woodruff 1952); NaN: all of them.

    >>> low, high = median_interval(np.arange(1., 11), np.zeros(10, int), 1)
    >>> low.tolist(), high.tolist()
    ([2.0], [9.0])
    """
    held = ~np.isnan(values) & (codes >= 0)
    order = np.lexsort((values[held], codes[held]))
    ascending, code = values[held][order], codes[held][order]
    first = np.searchsorted(code, np.arange(groups), side="left")
    n = np.searchsorted(code, np.arange(groups), side="right") - first
    low, high = np.full(groups, np.nan), np.full(groups, np.nan)
    worth = n if effective is None else np.where(np.isnan(effective), n, np.floor(effective))
    for size in np.unique(worth):
        ranks = median_ranks(int(size), confidence)
        if ranks:
            mine = np.flatnonzero((worth == size) & (n > 0))
            last = (n[mine] - 1) / max(size - 1, 1)
            low[mine] = ascending[first[mine] + np.floor((ranks[0] - 1) * last).astype(np.int64)]
            high[mine] = ascending[first[mine] + np.ceil((ranks[1] - 1) * last).astype(np.int64)]
    return low, high


def in_words(percentile: Floats) -> list[str]:
    """A student's growth in words rather than a bare number: below 25 lower, above 75 higher
    than most who started alike, between them typical; NaN "".

    >>> in_words(np.array([12., 50, 80, np.nan]))
    ['lower', 'typical', 'higher', '']
    """
    values = np.asarray(percentile, np.float64)
    kinds = [np.isnan(values), values < 25, values > 75]
    names = np.select(kinds, ["", "lower", "higher"], "typical")
    return [str(name) for name in names]
