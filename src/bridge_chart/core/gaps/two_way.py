"""Two splits at once: the cells, and whether one split's gap depends on the other."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, check_codes
from bridge_chart.core.describing.describe import Moments, moments
from bridge_chart.core.distributions import f_tail
from bridge_chart.core.estimate import NAN, Estimate, interval_of, undefined
from bridge_chart.core.gaps.shares import newcombe
from bridge_chart.core.trust.spread import small_together


@dataclass(frozen=True)
class Interaction:
    """F test that every cell is the sum of its row and its column. df: of the interaction;
    df_error: of the one variance within all cells."""

    f: float
    df: int
    df_error: int
    p: float
    reason: str = ""


@dataclass(frozen=True)
class TwoWay:
    """Cells (rows × columns, row-major in `cells`) and their interaction.

    difference: of the two differences, only for 2 × 2.
    """

    rows: int
    columns: int
    cells: Moments
    difference: Estimate | None
    interaction: Interaction


def two_way(
    values: Floats,
    row: Codes,
    rows: int,
    column: Codes,
    columns: int,
    confidence: float = 0.95,
) -> TwoWay:
    """Mean of every cell of two splits, and the interaction.

    2 × 2: (x̄₁₁ − x̄₁₀) − (x̄₀₁ − x̄₀₀), se² = Σ s²/n, df by Welch & Satterthwaite. Always: the F
    test of all interaction contrasts that can be told apart, with one variance within all cells
    (a cell of two students says nothing of its own). Rows and columns of few values are taken
    together for it (`trust.spread.small_together`). values: (students,), NaN = missing. row,
    column: codes, −1 = in none. Source: Searle (1971), unbalanced two-way layout.

    >>> v = np.tile([1., 3, 2, 4, 5, 7, 10, 12], 10)
    >>> row, column = np.tile(np.repeat([0, 1], 4), 10), np.tile([0, 0, 1, 1] * 2, 10)
    >>> t = two_way(v, row, 2, column, 2)
    >>> round(t.difference.value, 6), t.interaction.df, round(t.interaction.f, 2)
    (4.0, 1, 76.0)
    """
    check_codes(row, len(values), rows)
    check_codes(column, len(values), columns)
    code = np.where((row >= 0) & (column >= 0), row.astype(np.int64) * columns + column, -1)
    cells = moments(values, code, rows * columns, confidence=confidence)
    difference = None
    if rows == columns == 2:
        difference = _difference_of_differences(cells, confidence)
    return TwoWay(rows, columns, cells, difference, _interaction(values, row, column))


def _difference_of_differences(cells: Moments, confidence: float) -> Estimate:
    n, missing = int(cells.n.sum()), int(cells.missing.sum())
    value = float(cells.mean @ np.array([1.0, -1.0, -1.0, 1.0]))
    if np.any(cells.n < 2):
        return undefined("a cell has fewer than two values", value, n, missing)
    parts = cells.se**2
    if parts.sum() == 0:
        return undefined("no spread in any cell", value, n, missing)
    df = float(parts.sum() ** 2 / np.sum(parts**2 / (cells.n - 1)))
    return interval_of(value, float(np.sqrt(parts.sum())), df, confidence).counted(n, missing)


def _interaction(values: Floats, row: Codes, column: Codes) -> Interaction:
    held = (row >= 0) & (column >= 0) & ~np.isnan(values)
    y = np.asarray(values, np.float64)[held]
    r, rows = small_together(row[held])
    c, columns = small_together(column[held])
    cells = moments(y, r * columns + c, rows * columns)
    there = np.flatnonzero(cells.n > 0)
    df_error = int(cells.n.sum()) - len(there)
    within = float(np.nansum((cells.n - 1) * np.nan_to_num(cells.sd) ** 2))
    additive = np.zeros((len(there), rows + columns))
    additive[np.arange(len(there)), there // columns] = 1.0
    additive[np.arange(len(there)), rows + there % columns] = 1.0
    weight = np.sqrt(cells.n[there])
    # What is left of the cells after the best sum of row and column, by their students.
    design, target = additive * weight[:, None], cells.mean[there] * weight
    fitted, _, rank, _ = np.linalg.lstsq(design, target, rcond=None)
    df = len(there) - int(rank)
    if rows < 2 or columns < 2 or df < 1:
        return Interaction(NAN, 0, df_error, NAN, "no interaction can be told apart")
    if df_error < 1 or within <= 0:
        return Interaction(NAN, df, df_error, NAN, "no spread within the cells")
    f = float(np.sum((target - design @ fitted) ** 2)) / df / (within / df_error)
    return Interaction(f, df, df_error, f_tail(f, df, df_error))


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
