"""How far a figure hangs on the model, and on the year."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.core.distributions import t_quantile


@dataclass(frozen=True)
class Sensitivity:
    """Per group over all models; lowest and highest NaN where no model has a figure.

    lowest_model, highest_model: names, "" where none. flips: verdicts differ in kind.
    """

    lowest: Floats
    highest: Floats
    lowest_model: list[str]
    highest_model: list[str]
    flips: Mask


def sensitivity(estimates: Mapping[str, Floats], verdicts: Mapping[str, list[str]]) -> Sensitivity:
    """Lowest and highest figure of each group over several models, and whether its verdict flips.

    A verdict flips where two models disagree among ahead, behind and neither (few is no opinion).
    estimates: name → (groups,); verdicts: the same names → (groups,), else ValueError.

    >>> s = sensitivity({"linear": np.array([2., -1]), "spline": np.array([1., -3])},
    ...                 {"linear": ["ahead", "unclear"], "spline": ["ahead", "behind"]})
    >>> s.lowest.tolist(), s.highest_model, s.flips.tolist()
    ([1.0, -3.0], ['linear', 'linear'], [False, True])
    """
    if not estimates or set(estimates) != set(verdicts):
        raise ValueError("estimates and verdicts must have the same models, at least one")
    names = list(estimates)
    table = np.stack([np.asarray(estimates[name], np.float64) for name in names])
    if any(len(verdicts[name]) != table.shape[1] for name in names):
        raise ValueError("every model must have one verdict per group")
    none = np.asarray(np.isnan(table).all(axis=0))
    at_low = np.where(np.isnan(table), np.inf, table).argmin(axis=0)
    at_high = np.where(np.isnan(table), -np.inf, table).argmax(axis=0)
    said = [{_kind(verdicts[name][g]) for name in names} - {""} for g in range(table.shape[1])]
    every = np.arange(table.shape[1])
    return Sensitivity(
        table[at_low, every], table[at_high, every],
        ["" if none[g] else names[at_low[g]] for g in every],
        ["" if none[g] else names[at_high[g]] for g in every],
        np.array([len(kinds) > 1 for kinds in said], dtype=bool),
    )  # fmt: skip


def _kind(verdict: str) -> str:
    if verdict == "few":
        return ""
    return verdict if verdict in ("ahead", "behind") else "neither"


@dataclass(frozen=True)
class SeveralYears:
    """(groups,): the n-weighted mean over years with its interval; NaN where undefined.

    between: sd of a group's true figure from year to year, pooled over groups.
    """

    years: Floats
    mean: Floats
    se: Floats
    low: Floats
    high: Floats
    between: float


def several_years(figures: Floats, se: Floats, n: Floats, confidence: float = 0.95) -> SeveralYears:
    """The n-weighted mean of a group's yearly figures, allowing for change from year to year.

    mean = Σ n_y m_y / Σ n_y. Var = Σ w²(se² + τ²), w = n_y/Σn. The year-to-year variance τ² is
    pooled by moments over groups with two years or more: (Σ(m−m̄)² − Σ se²(1 − 1/k)) / Σ(k−1),
    not below zero. Interval by t with Σ(k−1) df.
    figures, se, n: (groups, years), NaN = no figure. Errors: ValueError on unequal shapes.

    >>> s = several_years(np.array([[1., 3, 2]]), np.full((1, 3), .1), np.full((1, 3), 100.))
    >>> s.mean.round(6).tolist(), s.years.tolist(), round(s.between, 3)
    ([2.0], [3.0], 0.995)
    """
    m, error = np.asarray(figures, np.float64), np.asarray(se, np.float64)
    size = np.asarray(n, np.float64)
    if not m.shape == error.shape == size.shape or m.ndim != 2:
        raise ValueError("figures, se and n must have one shape (groups, years)")
    held = np.isfinite(m) & np.isfinite(error) & (size > 0)
    k = held.sum(axis=1).astype(np.float64)
    weight = np.where(held, size, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        weight = weight / weight.sum(axis=1, keepdims=True)
        mean = np.where(k > 0, np.sum(weight * np.where(held, m, 0.0), axis=1), np.nan)
        plain = np.sum(np.where(held, m, 0.0), axis=1) / k
    several = k >= 2
    apart = np.where(held, m - plain[:, None], 0.0)[several]
    df = float(np.sum(k[several] - 1))
    errors = np.where(held, error**2, 0.0)[several].sum(axis=1) * (1 - 1 / k[several])
    between2 = max(0.0, (float(np.sum(apart**2)) - float(errors.sum())) / df) if df else 0.0
    total = np.where(held, error**2 + between2, 0.0)
    spread = np.sqrt(np.sum(np.where(held, weight, 0.0) ** 2 * total, axis=1))
    spread = np.where(several, spread, np.nan)
    reach = t_quantile(0.5 + confidence / 2, df if df else np.nan) * spread
    return SeveralYears(k, mean, spread, mean - reach, mean + reach, float(np.sqrt(between2)))
