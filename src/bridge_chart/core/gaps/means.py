"""The difference of two groups' means: in the outcome's unit, and in standard deviations."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import optimize, special

from bridge_chart.core.arrays import Floats
from bridge_chart.core.estimate import NAN, Estimate, interval_of, present, undefined


def welch(first: Floats, second: Floats, confidence: float = 0.95) -> Estimate:
    """Mean of `first` − mean of `second`, unequal variances (Welch 1947), df by Satterthwaite
    (1946). NaN are left out; fewer than two values on a side give NaN.

    >>> a = np.array([.7, -1.6, -.2, -1.2, -.1, 3.4, 3.7, .8, 0, 2])
    >>> b = np.array([1.9, .8, 1.1, .1, -.1, 4.4, 5.5, 1.6, 4.6, 3.4])
    >>> d = welch(a, b)
    >>> round(d.value / d.se, 5), round(d.df, 4), round(d.low, 5), round(d.high, 5)
    (-1.86081, 17.7765, -3.36548, 0.20548)
    """
    a, b = present(first), present(second)
    n = len(a) + len(b)
    missing = len(first) + len(second) - n
    if len(a) < 2 or len(b) < 2:
        return undefined("fewer than two values on a side", n=n, missing=missing)
    va, vb = float(a.var(ddof=1)) / len(a), float(b.var(ddof=1)) / len(b)
    value = float(a.mean() - b.mean())
    if va + vb == 0:
        return Estimate(value, 0.0, NAN, NAN, NAN, NAN, n, missing, "no spread on either side")
    df = (va + vb) ** 2 / (va**2 / (len(a) - 1) + vb**2 / (len(b) - 1))
    return interval_of(value, float(np.sqrt(va + vb)), df, confidence).counted(n, missing)


def paired(first: Floats, second: Floats, confidence: float = 0.95) -> Estimate:
    """Mean of first − second of the same students, paired t (Student 1908), df = pairs − 1.

    first, second: (students,) in one order; a pair with a NaN is left out and counted missing.
    Errors: ValueError on unequal lengths.

    >>> d = paired(np.array([3., 5, 7, np.nan]), np.array([2., 3, 4, 1]))
    >>> d.value, round(d.se, 6), d.df, d.n, d.missing
    (2.0, 0.57735, 2.0, 3, 1)
    """
    if np.shape(first) != np.shape(second):
        raise ValueError("first and second must have one shape: the same students in one order")
    both = np.asarray(first, np.float64) - np.asarray(second, np.float64)
    held = present(both)
    missing = len(both) - len(held)
    if len(held) < 2:
        return undefined("fewer than two pairs", n=len(held), missing=missing)
    value, se = float(held.mean()), float(held.std(ddof=1) / np.sqrt(len(held)))
    if se <= 1e-13 * float(np.abs(np.asarray(first, np.float64)[~np.isnan(both)]).max()):
        return Estimate(
            value, 0.0, NAN, NAN, NAN, NAN, len(held), missing, "all pairs differ alike"
        )
    return interval_of(value, se, len(held) - 1.0, confidence).counted(len(held), missing)


@dataclass(frozen=True)
class StandardisedGap:
    """Hedges' g, and the exact interval of the population's δ (in pooled sd)."""

    g: float
    d: float
    low: float
    high: float
    df: int
    n: int
    missing: int
    reason: str = ""


def small_sample_factor(df: float) -> float:
    """J(m) = Γ(m/2) / (√(m/2)·Γ((m−1)/2)), by log-gamma (Hedges 1981). m > 1, else ValueError.

    >>> round(small_sample_factor(10), 7), round(small_sample_factor(18), 7)
    (0.9227456, 0.9576464)
    """
    if not df > 1:
        raise ValueError(f"df must be above 1; it is {df} instead")
    return float(np.exp(special.gammaln(df / 2) - special.gammaln((df - 1) / 2)) / np.sqrt(df / 2))


def hedges_g(first: Floats, second: Floats, confidence: float = 0.95) -> StandardisedGap:
    """Difference of means in pooled standard deviations, corrected for small samples.

    d = (x̄₁−x̄₂)/s_pooled, g = J(n₁+n₂−2)·d (Hedges 1981). The interval is exact, from the
    noncentral t with ncp δ·√(n₁n₂/(n₁+n₂)) (Steiger & Fouladi 1997); it is of δ and not
    multiplied by J. NaN are left out; no spread or fewer than two on a side gives NaN.

    >>> a = np.array([.7, -1.6, -.2, -1.2, -.1, 3.4, 3.7, .8, 0, 2])
    >>> b = np.array([1.9, .8, 1.1, .1, -.1, 4.4, 5.5, 1.6, 4.6, 3.4])
    >>> h = hedges_g(a, b)
    >>> round(h.g, 5), round(h.low, 5), round(h.high, 5)
    (-0.79694, -1.73882, 0.09545)
    """
    a, b = present(first), present(second)
    n, df = len(a) + len(b), len(a) + len(b) - 2
    missing = len(first) + len(second) - n
    if len(a) < 2 or len(b) < 2:
        return StandardisedGap(NAN, NAN, NAN, NAN, df, n, missing, "fewer than two on a side")
    pooled = np.sqrt(((len(a) - 1) * a.var(ddof=1) + (len(b) - 1) * b.var(ddof=1)) / df)
    if pooled <= 1e-12 * max(float(np.abs(a).max()), float(np.abs(b).max())):
        return StandardisedGap(NAN, NAN, NAN, NAN, df, n, missing, "no spread on either side")
    d = float((a.mean() - b.mean()) / pooled)
    size = float(np.sqrt(len(a) * len(b) / n))
    low, high = noncentral_limits(d * size, df, confidence)
    return StandardisedGap(small_sample_factor(df) * d, d, low / size, high / size, df, n, missing)


def noncentral_limits(t: float, df: float, confidence: float = 0.95) -> tuple[float, float]:
    """Interval of the noncentrality of Student's t from one observed t, by root finding.

    Where the noncentral t's own series gives out (df above 10⁴ or |t| above 37) the normal
    approximation t ± z·√(1 + t²/(2·df)) takes over; there they agree to four digits.

    >>> [round(x, 4) for x in noncentral_limits(2.0, 20.0)]
    [-0.0771, 4.0318]
    """
    tail = (1 - confidence) / 2
    reach = special.ndtri(1 - tail) * np.sqrt(1 + t * t / (2 * df))
    if df > 1e4 or abs(t) > 37:
        return float(t - reach), float(t + reach)

    def below(ncp: float, wanted: float) -> float:
        share = float(special.nctdtr(df, ncp, t))
        if math.isnan(share):  # too far out for the series: certainly above, or below
            share = 0.0 if ncp > t else 1.0
        return share - wanted

    wide = 3 * reach + 3
    low = optimize.brentq(below, t - wide, t + 1e-3, args=(1 - tail,), xtol=1e-11)
    high = optimize.brentq(below, t - 1e-3, t + wide, args=(tail,), xtol=1e-11)
    return float(low), float(high)
