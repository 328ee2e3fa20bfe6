"""Describing from rows that are kept sorted by group and score: no sort per question.

A filter keeps the order. So the boundaries of groups and of levels are places among the rows kept,
quartiles are look-ups, and sums run over neighbours; a second split costs one radix sort of small
integers. Groups are taken in blocks that stay in the processor's cache.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, check_codes

BLOCK_ROWS = 262_144
QUARTERS = (0.25, 0.50, 0.75)


@dataclass(frozen=True)
class SortedOnce:
    """values: (rows,) ascending within each group, missing last; order: the rows they come from.

    first: (groups + 1,) where each group begins; valued: (groups,) where its missing begin;
    cut_at: (groups, cuts) where each cut is reached. centre: taken off before squaring.
    """

    values: Floats
    order: Integers
    first: Integers
    valued: Integers
    cut_at: Integers
    centre: float

    def arranged(self, column: Codes) -> Codes:
        """Another column of the same rows, in this order (kept beside it)."""
        return np.ascontiguousarray(column[self.order])


@dataclass(frozen=True)
class SortedDescription:
    """(groups × categories,), groups outermost; levels: (…, cuts + 1). NaN where undefined."""

    n: Integers
    missing: Integers
    mean: Floats
    sd: Floats
    q1: Floats
    median: Floats
    q3: Floats
    levels: Integers


def sort_once(values: Floats, codes: Codes, groups: int, cuts: Floats | None = None) -> SortedOnce:
    """Rows sorted by group, then score, missing last; rows in no group (−1) are left out.

    Done once per version. cuts: (cuts,) rising, the levels' lower bounds.

    >>> kept = sort_once(np.array([3., np.nan, 1, 2]), np.array([0, 0, 0, 1]), 2)
    >>> kept.order.tolist(), kept.first.tolist()
    ([2, 0, 1, 3], [0, 3, 4])
    """
    values = np.asarray(values, np.float64)
    check_codes(codes, len(values), groups)
    bounds = np.empty(0) if cuts is None else np.asarray(cuts, np.float64)
    if np.any(np.diff(bounds) <= 0):
        raise ValueError("cuts must rise strictly")
    order = np.argsort(values, kind="stable")
    order = order[np.argsort(codes[order], kind="stable")]
    order = order[np.searchsorted(codes[order], 0) :]
    ascending, code = values[order], codes[order]
    first = np.searchsorted(code, np.arange(groups + 1))
    there = np.concatenate([[0], np.cumsum(~np.isnan(ascending))])
    valued = first[:-1] + there[first[1:]] - there[first[:-1]]
    cut_at = np.empty((groups, len(bounds)), np.int64)
    for g in range(groups):
        cut_at[g] = first[g] + np.searchsorted(ascending[first[g] : valued[g]], bounds)
    known = ascending[~np.isnan(ascending)]
    centre = float(np.round(known.mean(), 3)) if len(known) else 0.0
    return SortedOnce(ascending, order, first, valued, cut_at, centre)


def describe_sorted(
    kept: SortedOnce,
    filters: Sequence[tuple[Codes, Mask]] = (),
    second: Codes | None = None,
    categories: int = 1,
) -> SortedDescription:
    """n, missing, mean, sd, quartiles (type 7) and level counts of every group after filters.

    filters: (column in this order, table of which of its codes are wanted); a code of −1 looks up
    the table's last entry. second: another column in this order, codes 0 … categories − 1 (−1 left
    out): then every group × category. sd with n − 1.

    >>> kept = sort_once(np.array([4., 1, 3, 2]), np.zeros(4, int), 1)
    >>> d = describe_sorted(kept)
    >>> d.mean.tolist(), d.median.tolist(), d.n.tolist()
    ([2.5], [2.5], [4])
    """
    groups, cuts = kept.cut_at.shape
    cells = groups * categories
    none = [np.full(cells, np.nan) for _ in range(5)]
    counts, missing = np.zeros(cells, np.int64), np.zeros(cells, np.int64)
    levels = np.zeros((cells, cuts + 1), np.int64)
    out = SortedDescription(counts, missing, none[0], none[1], none[2], none[3], none[4], levels)
    runs = [(column, _runs(wanted)) for column, wanted in filters]
    for a, b in _blocks(kept.first):
        begin, end = int(kept.first[a]), int(kept.first[b])
        if begin == end:
            continue
        mask = np.ones(end - begin, bool)
        for column, wanted in runs:
            mask &= _within(column[begin:end], wanted)
        if second is None:
            _one_way(kept, out, a, b, np.flatnonzero(mask))
        else:
            part = second[begin:end]
            mask &= part >= 0
            _two_way(kept, out, a, b, np.flatnonzero(mask), part, categories)
    return out


def _runs(wanted: Mask) -> list[tuple[int, int]]:
    """Wanted codes as runs (first, last): few comparisons instead of a look-up per row. The
    table's last entry stands for code −1 too."""
    found = np.flatnonzero(np.diff(np.concatenate([[False], wanted, [False]]).astype(np.int8)))
    runs = [(int(a), int(b) - 1) for a, b in zip(found[::2], found[1::2], strict=True)]
    return [*runs, (-1, -1)] if len(wanted) and wanted[-1] else runs


def _within(column: Codes, runs: list[tuple[int, int]]) -> Mask:
    out = np.zeros(len(column), bool)
    for low, high in runs:
        out |= column == low if low == high else (column >= low) & (column <= high)
    return out


def _blocks(first: Integers) -> list[tuple[int, int]]:
    """Runs of whole groups of about BLOCK_ROWS rows each."""
    edges = [0]
    while edges[-1] < len(first) - 1:
        wanted = int(first[edges[-1]]) + BLOCK_ROWS
        edges.append(max(edges[-1] + 1, int(np.searchsorted(first, wanted, side="right")) - 1))
    return list(pairwise(edges))


def _one_way(kept: SortedOnce, out: SortedDescription, a: int, b: int, rows: Integers) -> None:
    begin, end = int(kept.first[a]), int(kept.first[b])
    edges = np.column_stack([kept.first[a:b], kept.cut_at[a:b], kept.valued[a:b]])
    at = np.searchsorted(rows, edges - begin)
    close = np.searchsorted(rows, kept.first[a + 1 : b + 1] - begin)
    place = slice(a, b)
    out.levels[place] = np.diff(at, axis=1)
    out.missing[place] = close - at[:, -1]
    values = kept.values[begin:end].take(rows)
    _figures(values, at[:, 0], at[:, -1], kept.centre, out, place)


def _two_way(
    kept: SortedOnce, out: SortedDescription, a: int, b: int, rows: Integers, second: Codes,
    categories: int,
) -> None:  # fmt: skip
    begin, end = int(kept.first[a]), int(kept.first[b])
    cells = (b - a) * categories
    place = slice(a * categories, b * categories)
    wide = out.levels.shape[1]
    # Group, category and level in one small integer: within it the kept order is ascending.
    edges = np.column_stack([kept.first[a:b], kept.cut_at[a:b], kept.first[a + 1 : b + 1]])
    sizes: Integers = (edges[:, 1:] - edges[:, :-1]).ravel()
    small = np.dtype(np.int16 if cells * wide < 2**15 else np.int64)  # int16: a radix sort
    start = np.arange(b - a)[:, None] * categories * wide + np.arange(wide)
    base: Codes = np.repeat(start.ravel(), sizes).astype(small)
    code: Codes = base.take(rows) + second.take(rows).astype(small) * small.type(wide)
    values = kept.values[begin:end].take(rows)
    there = values == values
    if not there.all():
        out.missing[place] = np.bincount(code[~there] // wide, minlength=cells)
        code, values = code[there], values[there]
    counts = np.bincount(code, minlength=cells * wide).reshape(cells, wide)
    out.levels[place] = counts
    n = counts.sum(axis=1)
    ends = np.cumsum(n)
    ordered = values.take(np.argsort(code, kind="stable"))
    _figures(ordered, ends - n, ends, kept.centre, out, place)


def _figures(
    values: Floats, starts: Integers, ends: Integers, centre: float, out: SortedDescription,
    place: slice,
) -> None:  # fmt: skip
    """Of every run of ascending values from its start to its end."""
    out.n[place] = ends - starts
    some = np.flatnonzero(ends > starts)
    if not len(some):
        return
    starts, ends = starts[some], ends[some]
    # reduceat is wrong for empty groups: only the others, each to its own end, odd sums unread.
    bounds = np.column_stack([starts, ends]).ravel()
    bounds = bounds[:-1] if bounds[-1] == len(values) else bounds
    n = ends - starts
    away = values - centre
    mean = np.add.reduceat(away, bounds)[::2] / n
    np.multiply(away, away, out=away)
    left = np.maximum(np.add.reduceat(away, bounds)[::2] - n * mean**2, 0.0)
    at = np.arange(place.start, place.stop)[some]
    out.mean[at] = mean + centre
    out.sd[at] = np.sqrt(left / np.where(n > 1, n - 1.0, np.nan))
    for share, column in zip(QUARTERS, (out.q1, out.median, out.q3), strict=True):
        exact = share * (n - 1)
        low = exact.astype(np.int64)
        below = values[starts + low]
        above = values[starts + np.minimum(low + 1, n - 1)]
        column[at] = below + (exact - low) * (above - below)
