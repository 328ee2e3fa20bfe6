"""What similar starters reach: the expected outcome by linear regression on one prior."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, check_codes, grouped

FEWEST_TO_FIT = 20


@dataclass(frozen=True)
class LinearFit:
    """One line per stratum, and what it gives for each student.

    expected, residual: (students,), outcome's unit; NaN where there is no prior (or, for
    residual, no outcome) or the stratum has no line. n, intercept, slope, residual_sd,
    correlation: (strata,); NaN where no line could be fitted. `fitted`: rows used.
    """

    expected: Floats
    residual: Floats
    n: Integers
    intercept: Floats
    slope: Floats
    residual_sd: Floats
    correlation: Floats
    fitted: Mask


def fit_linear(outcome: Floats, prior: Floats, strata: Codes, count: int, basis: Mask) -> LinearFit:
    """Least squares of outcome on prior, apart in each stratum (a year level), on `basis`.

    slope = Σ(x−x̄)(y−ȳ)/Σ(x−x̄)²; residual = y − expected; residual_sd with n − 2.
    The line is fitted on rows of `basis` with both values; every row with a prior gets its
    expected outcome, so that filtering never changes it. A stratum needs FEWEST_TO_FIT rows and
    a prior that varies, else its students have none. Draper & Smith (1998), ch. 1.

    >>> x = np.arange(20.0); fit = fit_linear(2 * x + 1, x, np.zeros(20, int), 1,
    ...                                       np.ones(20, bool))
    >>> float(fit.slope[0].round(9)), float(fit.intercept[0].round(9)), int(fit.n[0])
    (2.0, 1.0, 20)
    """
    outcome = np.asarray(outcome, dtype=np.float64)
    prior = np.asarray(prior, dtype=np.float64)
    if outcome.shape != prior.shape or basis.shape != outcome.shape:
        raise ValueError("outcome, prior and basis must have one shape")
    check_codes(strata, len(outcome), count)
    used = basis & ~np.isnan(outcome) & ~np.isnan(prior) & (strata >= 0)
    held = np.where(used, strata, -1)
    by = grouped(held, count)
    n = by.counts()
    x, y = np.where(used, prior, 0.0), np.where(used, outcome, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean_x = by.sums(x) / n
        mean_y = by.sums(y) / n
        dx = np.where(used, x - np.append(mean_x, 0.0)[held], 0.0)
        dy = np.where(used, y - np.append(mean_y, 0.0)[held], 0.0)
        sxx = by.sums(dx * dx)
        sxy = by.sums(dx * dy)
        syy = by.sums(dy * dy)
        # A prior that varies by less than rounding has no slope.
        varies = sxx > n * (1e-9 * np.maximum(np.abs(mean_x), 1e-300)) ** 2
        fits = (n >= FEWEST_TO_FIT) & varies
        slope = np.where(fits, sxy / sxx, np.nan)
        intercept = mean_y - slope * mean_x
        left = np.maximum(syy - slope * sxy, 0.0)
        residual_sd = np.where(fits, np.sqrt(left / (n - 2)), np.nan)
        correlation = np.where(fits & (syy > 0), sxy / np.sqrt(sxx * syy), np.nan)
    lines = np.append(slope, np.nan)[strata], np.append(mean_y, np.nan)[strata]
    expected = lines[1] + lines[0] * (prior - np.append(mean_x, np.nan)[strata])
    fitted = used & np.append(fits, False)[strata]
    return LinearFit(
        expected, outcome - expected, n, intercept, slope, residual_sd, correlation, fitted
    )


@dataclass(frozen=True)
class GroupInfluence:
    """(groups,): the slope without each group, and by how much its own mean span then moves.

    NaN where the group has no student in the fit, or nothing is left without it.
    """

    slope: Floats
    moved: Floats


def influence_of_groups(
    outcome: Floats, prior: Floats, codes: Codes, groups: int
) -> GroupInfluence:
    """How far one school bends the line that all are held against.

    The line without group g follows from sums less the group's own: slope = Sxy/Sxx of the rest.
    moved: the group's mean distance from that line − from the line of all. One stratum; NaN and
    code −1 in a pair leave the student out of the groups, a NaN also out of the line.
    Errors: ValueError on shapes. Source: Belsley, Kuh & Welsch (1980), for groups.

    >>> x = np.array([1., 2, 3, 4, 5, 6]); y = np.array([1., 2, 3, 4, 5, 12])
    >>> found = influence_of_groups(y, x, np.array([0, 0, 0, 1, 1, 2]), 3)
    >>> round(float(found.slope[2]), 6), round(float(found.moved[2]), 3)
    (1.0, 3.143)
    """
    y, x = np.asarray(outcome, np.float64), np.asarray(prior, np.float64)
    if y.shape != x.shape:
        raise ValueError("outcome and prior must have one shape")
    check_codes(codes, len(y), groups)
    used = ~np.isnan(x) & ~np.isnan(y)
    x, y = np.where(used, x - np.nanmean(x), 0.0), np.where(used, y - np.nanmean(y), 0.0)
    by = grouped(np.where(used, codes, -1), groups)
    n, total = by.counts(), int(used.sum())
    own = [by.sums(part) for part in (x, y, x * x, x * y)]
    rest = [float(part.sum()) - mine for part, mine in zip((x, y, x * x, x * y), own, strict=True)]

    def line(count: Floats, sums: list[Floats]) -> tuple[Floats, Floats]:
        with np.errstate(invalid="ignore", divide="ignore"):
            slope = (sums[3] - sums[0] * sums[1] / count) / (sums[2] - sums[0] ** 2 / count)
            return slope, (sums[1] - slope * sums[0]) / count

    everyone = [np.array([float(part.sum())]) for part in (x, y, x * x, x * y)]
    whole = line(np.array([float(total)]), everyone)
    left = np.where((n > 0) & (total - n > 1), (total - n).astype(np.float64), np.nan)
    slope, intercept = line(left, rest)
    with np.errstate(invalid="ignore", divide="ignore"):
        middle = own[0] / n
    moved = (whole[1] + whole[0] * middle) - (intercept + slope * middle)
    return GroupInfluence(slope, moved)
