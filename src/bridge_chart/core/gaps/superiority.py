"""Gaps that survive a change of scale, from scores: who would be ahead in a random pair."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import special

from bridge_chart.core.arrays import Floats
from bridge_chart.core.distributions import normal_quantile
from bridge_chart.core.estimate import NAN, present


@dataclass(frozen=True)
class Superiority:
    """P(A > B) + ½P(A = B) and V, each with its interval; NaN where undefined.

    beyond: V is not finite (no score of one group reaches the other): it lies beyond ± this.
    """

    probability: float
    low: float
    high: float
    v: float
    v_low: float
    v_high: float
    n: int
    missing: int
    beyond: float = NAN
    reason: str = ""


def superiority(first: Floats, second: Floats, confidence: float = 0.95) -> Superiority:
    """Chance that one of `first` is ahead of one of `second`, and V = √2·Φ⁻¹ of it.

    P = P(A>B) + ½P(A=B) from mid-ranks (Mann & Whitney 1947); its variance from placements
    (DeLong, DeLong & Clarke-Pearson 1988), the interval on the logit scale, so that it stays in
    0 … 1. V (Ho 2009) is a gap in sd that no stretching of the scale can change.

    first, second: values, NaN left out. An empty side gives NaN; where all of one side lie above
    the other, P = 1 or 0 and V is "beyond ±x", x by counting half a pair against it.

    >>> s = superiority(np.array([2., 3, 4]), np.array([1., 2, 3]))
    >>> round(s.probability, 6), round(s.v, 6)
    (0.777778, 1.081463)
    """
    a, b = present(first), present(second)
    n, missing = len(a) + len(b), len(first) + len(second) - len(a) - len(b)
    if not len(a) or not len(b):
        return Superiority(NAN, NAN, NAN, NAN, NAN, NAN, n, missing, NAN, "an empty side")
    ours, theirs = _placements(a, b), 1 - _placements(b, a)
    p = float(ours.mean())
    if p in (0.0, 1.0):
        beyond = math.sqrt(2) * float(special.ndtri(1 - 0.5 / (len(a) * len(b))))
        v = math.copysign(math.inf, p - 0.5)
        return Superiority(p, NAN, NAN, v, NAN, NAN, n, missing, beyond, "no overlap")
    if len(a) < 2 or len(b) < 2:
        v = math.sqrt(2) * float(special.ndtri(p))
        return Superiority(p, NAN, NAN, v, NAN, NAN, n, missing, NAN, "one value on a side")
    variance = float(ours.var(ddof=1)) / len(a) + float(theirs.var(ddof=1)) / len(b)
    reach = normal_quantile(0.5 + confidence / 2) * math.sqrt(variance) / (p * (1 - p))
    low, high = (float(special.expit(special.logit(p) + sign * reach)) for sign in (-1, 1))
    v, v_low, v_high = (math.sqrt(2) * float(special.ndtri(x)) for x in (p, low, high))
    return Superiority(p, low, high, v, v_low, v_high, n, missing)


def _placements(values: Floats, among: Floats) -> Floats:
    """Share of `among` below each value, ties half."""
    ascending = np.sort(among)
    below = np.searchsorted(ascending, values, side="left")
    at_most = np.searchsorted(ascending, values, side="right")
    out: Floats = (below + at_most) / (2.0 * len(ascending))
    return out
