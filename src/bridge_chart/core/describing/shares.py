"""Shares with their interval."""

from __future__ import annotations

import numpy as np

from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.distributions import normal_quantile, t_quantile


def wilson(
    count: Integers | Floats,
    n: Integers | Floats,
    confidence: float = 0.95,
    effective: Floats | None = None,
    df: Floats | None = None,
) -> tuple[Floats, Floats, Floats]:
    """Share count/n with its score interval (Wilson 1927): share, low, high.

    (p + z²/2n ± z·√(p(1−p)/n + z²/4n²)) / (1 + z²/n). effective: how many independent students
    tell as much, in place of n; df: of what they are told by, t in place of z. Shapes follow the
    input; n = 0 gives NaN. Errors: ValueError where count lies outside 0 … n.

    >>> [round(float(x), 4) for x in wilson(np.array(81), np.array(263))]
    [0.308, 0.2553, 0.3662]
    """
    count, n = np.asarray(count, np.float64), np.asarray(n, np.float64)
    if np.any(count < 0) or np.any(count > n):
        raise ValueError("a count must lie between 0 and n")
    z = normal_quantile(0.5 + confidence / 2) if df is None else t_quantile(
        0.5 + confidence / 2, df
    )  # fmt: skip
    share = count / np.where(n > 0, n, np.nan)
    told = n if effective is None else np.minimum(effective, n)
    size = np.where(n > 0, told, np.nan)
    middle = (share + z * z / (2 * size)) / (1 + z * z / size)
    half = z * np.sqrt(share * (1 - share) / size + z * z / (4 * size**2)) / (1 + z * z / size)
    return (
        share,
        np.where(count == 0, 0.0 * half, middle - half),
        np.where(count == n, 1.0 + 0.0 * half, middle + half),
    )
