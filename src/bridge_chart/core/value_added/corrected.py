"""Value-added corrected for error in the prior (linear only, for groups only)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes, grouped
from bridge_chart.core.distributions import normal_quantile
from bridge_chart.core.value_added.simple import weighted_correlation


@dataclass(frozen=True)
class Corrected:
    """Slopes corrected and as they were; groups' mean residuals, (groups,), NaN where n = 0.

    reliability: of the prior in this fit population. with_intake: correlation of the groups'
    value-added with their mean prior: always to be printed.
    """

    n: int
    missing: int
    intercept: float
    slopes: Floats
    plain_slopes: Floats
    reliability: float
    residual_sd: float
    group_n: Integers
    mean: Floats
    se: Floats
    low: Floats
    high: Floats
    with_intake: float


def error_of_measurement(reliability: float, sd: float) -> float:
    """SEM = √(1 − ρ)·sd, both of the population in which ρ was estimated.

    >>> round(error_of_measurement(0.84, 15.0), 6)
    6.0
    """
    if not 0 <= reliability <= 1:
        raise ValueError(f"reliability must lie in 0 to 1; it is {reliability} instead")
    return float(np.sqrt(1 - reliability) * sd)


def corrected_slopes(inner: Floats, cross: Floats, error: Floats, n: float) -> tuple[Floats, float]:
    """(X'X − n·diag(SEM²))⁻¹X'y on centred columns, and the worst-measured prior's margin:
    reliability − R² on the others.

    inner: (p, p) X'X, cross: (p,) X'y, error: (p,) SEM of each column (0 = none).
    Errors: ValueError where a prior's reliability does not exceed its R² on the other columns:
    then the others say more about it than its own score, and nothing can be corrected.

    >>> inner = np.array([[1, .5], [.5, 1]]); cross = np.array([.6, .5])
    >>> plain = np.linalg.solve(inner, cross)
    >>> fixed, _ = corrected_slopes(inner, cross, np.array([np.sqrt(.2), 0]), 1)
    >>> plain.round(5).tolist(), fixed.round(5).tolist()
    ([0.46667, 0.26667], [0.63636, 0.18182])
    """
    inner, error = np.asarray(inner, np.float64), np.asarray(error, np.float64)
    margin = np.inf
    for j in np.flatnonzero(error > 0):
        others = np.delete(np.arange(len(inner)), j)
        r2 = 0.0
        if len(others):
            part = np.linalg.lstsq(inner[np.ix_(others, others)], inner[others, j], rcond=None)[0]
            r2 = float(part @ inner[others, j]) / float(inner[j, j])
        reliability = 1 - n * error[j] ** 2 / inner[j, j]
        if reliability <= r2 + 1e-12:
            raise ValueError(
                f"the prior's reliability ({reliability:.3f}) must exceed its R² on the other "
                f"columns ({r2:.3f}); its error of measurement cannot be corrected for here"
            )
        margin = min(margin, reliability - r2)
    left = inner - n * np.diag(error**2)
    solved: Floats = np.linalg.solve(left, np.asarray(cross, np.float64)).astype(np.float64)
    return solved, float(margin)


def corrected_effects(
    outcome: Floats,
    columns: Floats,
    error: Floats,
    codes: Codes,
    groups: int,
    *,
    prior_decided_groups: bool = False,
    confidence: float = 0.95,
) -> Corrected:
    """Mean residual of each group, the slope corrected for error in the prior (Fuller 1987).

    n·SEM² is taken from the prior's diagonal of the centred X'X. A residual then has two parts,
    the outcome's own spread σ² and what the prior's error adds, β²SEM²; a group's error is
    √((σ² + Σβ²SEM²)/n). First column: the prior (others may follow); error: (columns,) SEM, 0 =
    none. Rows with NaN are left out. Errors: ValueError where the prior itself decided the group
    (sets, streams, support): then its error is not the same in all groups; and as
    `corrected_slopes`. One student's residual is never given: it would be mostly that error.

    >>> rng = np.random.default_rng(1); true = rng.normal(size=4000)
    >>> x = true + rng.normal(0, .5, 4000); y = 2 * true + rng.normal(0, .1, 4000)
    >>> c = corrected_effects(y, x[:, None], np.array([.5]), np.zeros(4000, int), 1)
    >>> bool(abs(c.slopes[0] - 2) < .1), bool(c.plain_slopes[0] < 1.7)
    (True, True)
    """
    if prior_decided_groups:
        raise ValueError(
            "the prior must not have decided the group; here it did (sets, streams, support), so "
            "its error of measurement cannot be corrected for: use the simple or multilevel model"
        )
    y, x = np.asarray(outcome, np.float64), np.asarray(columns, np.float64)
    check_codes(codes, len(y), groups)
    error = np.asarray(error, np.float64)
    if x.ndim != 2 or len(x) != len(y) or error.shape != (x.shape[1],) or np.any(error < 0):
        raise ValueError("columns must be (students, p), with one error of 0 or more per column")
    held = ~np.isnan(y) & ~np.isnan(x).any(axis=1)
    n = int(held.sum())
    if n <= x.shape[1] + 2:
        raise ValueError(f"there must be more students than columns; there are {n}")
    centre, mean = x[held].mean(axis=0), float(y[held].mean())
    away, lift = x[held] - centre, y[held] - mean
    inner, cross = away.T @ away, away.T @ lift
    slopes, _ = corrected_slopes(inner, cross, error, n)
    residual = lift - away @ slopes
    total = float(residual @ residual) / (n - x.shape[1] - 1)
    from_prior = float(np.sum(slopes**2 * error**2))
    own = max(total - from_prior, 0.0)
    by = grouped(np.where(codes[held] >= 0, codes[held], -1), groups)
    size = by.counts()
    some = np.where(size > 0, size, np.nan).astype(np.float64)
    effect = by.sums(residual) / some
    se = np.sqrt((own + from_prior) / some)
    reach = normal_quantile(0.5 + confidence / 2) * se
    intake = by.sums(x[held][:, 0]) / some
    return Corrected(
        n, len(y) - n, mean - float(centre @ slopes), slopes, np.linalg.solve(inner, cross),
        float(1 - n * error[0] ** 2 / inner[0, 0]), float(np.sqrt(own + from_prior)), size, effect,
        se, effect - reach, effect + reach,
        weighted_correlation(effect, intake, size.astype(np.float64)),
    )  # fmt: skip
