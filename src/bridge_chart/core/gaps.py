"""The difference of two groups' means."""

from __future__ import annotations

import numpy as np

from bridge_chart.core.arrays import Floats
from bridge_chart.core.clustered import Difference, interval_of


def welch(first: Floats, second: Floats, confidence: float = 0.95) -> Difference:
    """Mean of `first` − mean of `second`, unequal variances (Welch 1947), df by Satterthwaite
    (1946). NaN are left out; fewer than two values on a side give NaN.

    >>> a = np.array([.7, -1.6, -.2, -1.2, -.1, 3.4, 3.7, .8, 0, 2])
    >>> b = np.array([1.9, .8, 1.1, .1, -.1, 4.4, 5.5, 1.6, 4.6, 3.4])
    >>> d = welch(a, b)
    >>> round(d.value / d.se, 5), round(d.df, 4), round(d.low, 5), round(d.high, 5)
    (-1.86081, 17.7765, -3.36548, 0.20548)
    """
    a, b = first[~np.isnan(first)], second[~np.isnan(second)]
    if len(a) < 2 or len(b) < 2:
        return Difference(*[float("nan")] * 6)
    va, vb = float(a.var(ddof=1)) / len(a), float(b.var(ddof=1)) / len(b)
    value = float(a.mean() - b.mean())
    if va + vb == 0:
        return Difference(value, 0.0, *[float("nan")] * 4)
    df = (va + vb) ** 2 / (va**2 / (len(a) - 1) + vb**2 / (len(b) - 1))
    return interval_of(value, float(np.sqrt(va + vb)), df, confidence)
