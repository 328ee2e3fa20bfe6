"""A figure with its standard error, interval and p-value: what every estimate is handed on as."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from scipy import special

from bridge_chart.core.arrays import Floats
from bridge_chart.core.distributions import t_quantile, t_two_sided

NAN = float("nan")


@dataclass(frozen=True)
class Estimate:
    """One figure; NaN where undefined, and then `reason` says why.

    df is inf for a normal interval. p is two-sided, against zero.
    """

    value: float
    se: float
    df: float
    low: float
    high: float
    p: float
    n: int = 0
    missing: int = 0
    reason: str = ""

    def counted(self, n: int, missing: int = 0) -> Estimate:
        """The same figure with the students behind it."""
        return replace(self, n=int(n), missing=int(missing))


def undefined(reason: str, value: float = NAN, n: int = 0, missing: int = 0) -> Estimate:
    """A figure that has no interval (or no value), with the reason.

    >>> undefined("one student only").reason
    'one student only'
    """
    return Estimate(value, NAN, NAN, NAN, NAN, NAN, n, missing, reason)


def interval_of(value: float, se: float, df: float, confidence: float = 0.95) -> Estimate:
    """A value with its t interval (normal where df is inf) and two-sided p.

    value ± t(df)·se. se = 0 gives a point and no p; NaN anywhere gives NaN throughout.

    >>> round(interval_of(2.0, 1.0, 10.0).high, 6)
    4.228139
    """
    if not 0 < confidence < 1:
        raise ValueError(f"confidence must lie between 0 and 1; it is {confidence} instead")
    if math.isinf(df):
        reach = float(special.ndtri(0.5 + confidence / 2))
    else:
        reach = float(t_quantile(0.5 + confidence / 2, df))
    margin = reach * se
    p = NAN
    if se > 0 and math.isinf(df):
        p = float(2 * special.ndtr(-abs(value / se)))
    elif se > 0:
        p = float(t_two_sided(value / se, df))
    return Estimate(value, se, df, value - margin, value + margin, p)


def present(values: Floats) -> Floats:
    """The values that are there, as float64; how many are missing is len(values) − len(this).

    >>> present(np.array([1.0, np.nan, 3.0])).tolist()
    [1.0, 3.0]
    """
    held = np.asarray(values, dtype=np.float64)
    if held.ndim != 1:
        raise ValueError(f"values must have one dimension; they have {held.ndim} instead")
    found: Floats = held[~np.isnan(held)]
    return found
