"""Two splits at once: by how much one split's gap depends on the other."""

from __future__ import annotations

import math

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, check_codes
from bridge_chart.core.describing.describe import moments
from bridge_chart.core.estimate import NAN, Estimate, interval_of, undefined
from bridge_chart.core.gaps.shares import newcombe


def difference_of_differences(
    values: Floats, row: Codes, column: Codes, confidence: float = 0.95
) -> Estimate:
    """(x̄₁₁ − x̄₁₀) − (x̄₀₁ − x̄₀₀) of two splits in two: se² = Σ s²/n, df by Welch & Satterthwaite.

    Whether more rows or columns interact is `contrasts.differ.splits_interact`. values:
    (students,), NaN = missing; row, column: 0 or 1, −1 = in none.

    >>> v = np.tile([1., 3, 2, 4, 5, 7, 10, 12], 10)
    >>> row, column = np.tile(np.repeat([0, 1], 4), 10), np.tile([0, 0, 1, 1] * 2, 10)
    >>> round(difference_of_differences(v, row, column).value, 6)
    4.0
    """
    check_codes(row, len(values), 2)
    check_codes(column, len(values), 2)
    code = np.where((row >= 0) & (column >= 0), row.astype(np.int64) * 2 + column, -1)
    cells = moments(values, code, 4, confidence=confidence)
    n, missing = int(cells.n.sum()), int(cells.missing.sum())
    value = float(cells.mean @ np.array([1.0, -1.0, -1.0, 1.0]))
    if np.any(cells.n < 2):
        return undefined("a cell has fewer than two values", value, n, missing)
    parts = cells.se**2
    if parts.sum() == 0:
        return undefined("no spread in any cell", value, n, missing)
    df = float(parts.sum() ** 2 / np.sum(parts**2 / (cells.n - 1)))
    return interval_of(value, float(np.sqrt(parts.sum())), df, confidence).counted(n, missing)


def difference_of_share_gaps(
    counts: tuple[tuple[int, int], tuple[int, int]],
    sizes: tuple[tuple[int, int], tuple[int, int]],
    confidence: float = 0.95,
) -> Estimate:
    """(p₁₁ − p₁₂) − (p₂₁ − p₂₂) with the interval of Zou & Donner (2008).

    Each gap has Newcombe's interval; the distances to its limits are added in squares. se and p
    are NaN: the interval is not symmetrical. An empty cell gives NaN.

    >>> d = difference_of_share_gaps(((30, 10), (25, 20)), ((40, 40), (40, 40)))
    >>> round(d.value, 6), round(d.low, 4), round(d.high, 4)
    (0.375, 0.0822, 0.6381)
    """
    first = newcombe(counts[0][0], sizes[0][0], counts[0][1], sizes[0][1], confidence)
    second = newcombe(counts[1][0], sizes[1][0], counts[1][1], sizes[1][1], confidence)
    n = first.n + second.n
    if first.reason or second.reason:
        return undefined("an empty cell", n=n)
    value = first.value - second.value
    low = value - math.hypot(first.value - first.low, second.high - second.value)
    high = value + math.hypot(first.high - first.value, second.value - second.low)
    return Estimate(value, NAN, math.inf, low, high, NAN, n)
