"""The few distributions that intervals and tests need, from scipy.special.

(scipy.stats has them too, but importing it takes several times as long as a whole answer.)
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike
from scipy import special

from bridge_chart.core.arrays import Floats


def t_quantile(p: float, df: ArrayLike) -> Floats:
    """Quantile of Student's t; NaN where df is NaN or not positive.

    >>> round(float(t_quantile(0.975, 10.0)), 6)
    2.228139
    """
    freedom = np.asarray(df, dtype=np.float64)
    return np.asarray(special.stdtrit(np.where(freedom > 0, freedom, np.nan), p), np.float64)


def t_two_sided(t: Floats | float, df: Floats | float) -> Floats:
    """P(|T| ≥ |t|) for Student's t.

    >>> round(float(t_two_sided(2.228139, 10.0)), 6)
    0.05
    """
    return np.asarray(2.0 * special.stdtr(df, -np.abs(t)), np.float64)


def normal_quantile(p: float) -> float:
    """Quantile of the standard normal.

    >>> round(normal_quantile(0.975), 6)
    1.959964
    """
    return float(special.ndtri(p))


def chi_square_tail(x: float, df: int) -> float:
    """P(X ≥ x) for χ² with df degrees of freedom.

    >>> round(chi_square_tail(3.841459, 1), 6)
    0.05
    """
    return float(special.chdtrc(df, x))


def f_tail(x: float, numerator: float, denominator: float) -> float:
    """P(X ≥ x) for F with these degrees of freedom.

    >>> round(f_tail(3.708265, 3, 10), 6)
    0.05
    """
    return float(special.fdtrc(numerator, denominator, x))


def binomial_quantile(p: float, n: int, rate: float) -> int:
    """The smallest k with P(X ≤ k) ≥ p.

    >>> binomial_quantile(0.975, 40, 0.05)
    5
    """
    below = special.bdtr(np.arange(n + 1, dtype=np.float64), n, rate)
    return int(np.searchsorted(below, p * (1 - 1e-12)))
