"""Whether estimates differ by more than their own errors."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Floats
from bridge_chart.core.distributions import chi_square_tail


@dataclass(frozen=True)
class Heterogeneity:
    """Whether groups differ at all: Q on df with p, and the spread (sd) beyond chance."""

    q: float
    df: int
    p: float
    spread: float


def heterogeneity(mean: Floats, se: Floats) -> Heterogeneity:
    """Cochran's Q = Σw(m−m̄)², w = 1/se², χ²(k−1); spread by DerSimonian & Laird (1986):
    τ² = max(0, (Q−(k−1)) / (Σw − Σw²/Σw)).

    mean, se: (groups,); groups without a finite positive se are left out; fewer than two
    give NaN.

    >>> h = heterogeneity(np.array([0., 0., 6.]), np.array([1., 1., 1.]))
    >>> round(h.q, 6), h.df, round(h.spread**2, 6)
    (24.0, 2, 11.0)
    """
    held = np.isfinite(mean) & np.isfinite(se) & (se > 0)
    if int(held.sum()) < 2:
        return Heterogeneity(float("nan"), 0, float("nan"), float("nan"))
    weight = 1.0 / se[held] ** 2
    centre = np.sum(weight * mean[held]) / weight.sum()
    q = float(np.sum(weight * (mean[held] - centre) ** 2))
    df = int(held.sum()) - 1
    tau2 = max(0.0, (q - df) / float(weight.sum() - np.sum(weight**2) / weight.sum()))
    return Heterogeneity(q, df, chi_square_tail(q, df), float(np.sqrt(tau2)))
