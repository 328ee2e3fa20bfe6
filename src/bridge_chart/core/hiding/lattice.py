"""A published lattice of splits: cells, how they add up, and what of them is shown."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from bridge_chart.core.arrays import Codes, Integers, Mask
from bridge_chart.core.hiding.shares import ShownShare, shown_share


@dataclass(frozen=True)
class Cell:
    """One cell: the fields it is split by and its category in each (none: everyone)."""

    fields: tuple[int, ...]
    categories: tuple[int, ...]


@dataclass(frozen=True)
class Lattice:
    """cells, students n and students that reached the mark (hits), both (cells,); sums: which
    cells add up to which: (whole, parts)."""

    cells: tuple[Cell, ...]
    n: Integers
    hits: Integers
    sums: tuple[tuple[int, tuple[int, ...]], ...]


def lattice_of(
    fields: Sequence[Codes], sizes: Sequence[int], hit: Mask, pairs: Sequence[tuple[int, int]]
) -> Lattice:
    """Everyone, every category of every field, and the cells of the listed pairs of fields.

    fields: (students,) codes 0 … size − 1, every student in one (unknown is a category); hit:
    (students,) truth. Errors: ValueError on shapes, codes, or a pair that is none.

    >>> made = lattice_of([np.array([0, 0, 1])], [2], np.array([True, False, True]), [])
    >>> made.n.tolist(), made.hits.tolist(), made.sums
    ([3, 2, 1], [2, 1, 1], ((0, (1, 2)),))
    """
    hit = np.asarray(hit, bool)
    for codes, size in zip(fields, sizes, strict=True):
        if len(codes) != len(hit) or (len(codes) and (codes.min() < 0 or codes.max() >= size)):
            raise ValueError("every student must have a category in every field")
    if any(a == b or not {a, b} <= set(range(len(fields))) for a, b in pairs):
        raise ValueError("a pair must name two different fields")
    cells: list[Cell] = [Cell((), ())]
    n, hits = [len(hit)], [int(hit.sum())]
    sums: list[tuple[int, tuple[int, ...]]] = []
    place: dict[tuple[int, int], int] = {}
    for f, (codes, size) in enumerate(zip(fields, sizes, strict=True)):
        first = len(cells)
        cells += [Cell((f,), (k,)) for k in range(size)]
        n += np.bincount(codes, minlength=size).tolist()
        hits += np.bincount(codes[hit], minlength=size).tolist()
        place |= {(f, k): first + k for k in range(size)}
        sums.append((0, tuple(range(first, first + size))))
    for a, b in pairs:
        first, wide = len(cells), sizes[b]
        code = fields[a].astype(np.int64) * wide + fields[b]
        cells += [Cell((a, b), (i, j)) for i in range(sizes[a]) for j in range(wide)]
        n += np.bincount(code, minlength=sizes[a] * wide).tolist()
        hits += np.bincount(code[hit], minlength=sizes[a] * wide).tolist()
        for i in range(sizes[a]):
            sums.append((place[a, i], tuple(first + i * wide + j for j in range(wide))))
        for j in range(wide):
            sums.append((place[b, j], tuple(first + i * wide + j for i in range(sizes[a]))))
    return Lattice(tuple(cells), np.array(n), np.array(hits), tuple(sums))


@dataclass(frozen=True)
class Release:
    """What is shown: (cells,) whether the count is, whether the share is; shares: its text and the
    counts it leaves possible, None where hidden. Cells hidden for themselves and those hidden to
    protect others look the same."""

    lattice: Lattice
    count_shown: Mask
    share_shown: Mask
    shares: tuple[ShownShare | None, ...]


def release_of(lattice: Lattice, count_hidden: Mask, share_hidden: Mask) -> Release:
    """A release with these cells hidden; hiding a count hides its share.

    >>> made = lattice_of([np.repeat([0, 1], 20)], [2], np.tile([True, False], 20), [])
    >>> release_of(made, np.array([False, False, True]), np.zeros(3, bool)).shares[1].text
    '50%'
    """
    share = ~np.asarray(share_hidden) & ~np.asarray(count_hidden)
    shares = tuple(
        shown_share(int(lattice.hits[k]), int(lattice.n[k])) if share[k] else None
        for k in range(len(lattice.cells))
    )
    return Release(lattice, ~np.asarray(count_hidden), share, shares)


def too_close(population: Mask, obtainable: Sequence[Mask], fewest: int) -> list[int]:
    """Which obtainable populations differ from this one by at least one and fewer than `fewest`
    students: then both together would show those few, and this one is to be refused.

    >>> a = np.array([True] * 20); b = a.copy(); b[:3] = False
    >>> too_close(b, [a], 10)
    [0]
    """
    mine = np.asarray(population, bool)
    apart = [int(np.count_nonzero(mine != np.asarray(other, bool))) for other in obtainable]
    return [k for k, few in enumerate(apart) if 0 < few < fewest]


def pairs_of(fields: int) -> list[tuple[int, int]]:
    """All pairs of fields: the widest lattice allowed.

    >>> pairs_of(3)
    [(0, 1), (0, 2), (1, 2)]
    """
    return list(combinations(range(fields), 2))
