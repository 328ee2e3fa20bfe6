"""Sums of every measure in every category of every school, in one pass."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers

BLOCK = 4_096


@dataclass(frozen=True)
class ScanSums:
    """n, mean, sd: (schools, categories, measures); rest_*: of the same school's other students
    who have that characteristic and the measure. NaN where undefined. Categories stand one
    characteristic after another; `first` says where each begins."""

    n: Floats
    mean: Floats
    sd: Floats
    rest_n: Floats
    rest_mean: Floats
    rest_sd: Floats
    first: list[int]


def scan_sums(
    values: Floats, characteristics: Sequence[Codes], sizes: Sequence[int], school: Codes,
    schools: int, workers: int = 1,
) -> ScanSums:  # fmt: skip
    """n, mean and sd of every measure × category × school, and of the rest of each school.

    One-hot rows of the categories, transposed, times [x, x², there] of the measures, school by
    school; x is centred on its mean first. values: (students, measures), NaN = missing;
    characteristics: (students,) codes 0 … size − 1, −1 = unknown (in no category, not in the rest);
    school: (students,), −1 = none. workers: threads, each with its own schools.
    Errors: ValueError on shapes or codes.

    >>> s = scan_sums(np.array([[1.], [3], [5], [9]]), [np.array([0, 0, 1, 1])], [2],
    ...               np.zeros(4, int), 1)
    >>> s.mean[0, :, 0].tolist(), s.rest_mean[0, :, 0].tolist()
    ([2.0, 7.0], [7.0, 2.0])
    """
    x = np.asarray(values, np.float64)
    school = np.asarray(school)
    if x.ndim != 2 or any(len(c) != len(x) for c in (*characteristics, school)):
        raise ValueError("values must be (students, measures), with one code per student each")
    if len(characteristics) != len(sizes) or not len(sizes):
        raise ValueError("there must be one size per characteristic, at least one")
    for codes, size in zip(characteristics, sizes, strict=True):
        if len(codes) and (codes.min() < -1 or codes.max() >= size):
            raise ValueError(f"codes must lie in -1 to {size - 1}")
    order = np.flatnonzero(school >= 0)
    if np.any(school[order][1:] < school[order][:-1]):
        order = order[np.argsort(school[order], kind="stable")]
    scan = _Scan(x, characteristics, sizes, school, order, schools)
    parts = np.array_split(np.arange(schools), workers)
    if workers > 1:
        with ThreadPoolExecutor(workers) as pool:
            list(pool.map(scan.schools, parts))
    else:
        scan.schools(parts[0])
    first = np.cumsum([0, *sizes])
    own = np.empty_like(scan.out)
    for a, b in pairwise(first):
        own[:, a:b] = scan.out[:, a:b].sum(axis=1, keepdims=True)
    mine = _figures(scan.out, scan.centre)
    rest = _figures(own - scan.out, scan.centre)
    return ScanSums(*mine, *rest, [int(k) for k in first[:-1]])


class _Scan:
    """out: (schools, categories, 3·measures): Σx, Σx², n of the centred values."""

    def __init__(
        self, x: Floats, characteristics: Sequence[Codes], sizes: Sequence[int], school: Codes,
        order: Integers, schools: int,
    ) -> None:  # fmt: skip
        total = x.sum(axis=0)
        self.complete = not bool(np.isnan(total).any())
        self.centre = total / max(len(x), 1)
        if not self.complete:
            n = np.count_nonzero(~np.isnan(x), axis=0)
            self.centre = np.nansum(x, axis=0) / np.maximum(n, 1)
        self.x, self.measures, self.total = x, x.shape[1], int(np.sum(sizes))
        self.order, self.edges = order, np.searchsorted(school[order], np.arange(schools + 1))
        self.whole = len(order) == len(x) and bool(np.all(order[1:] > order[:-1]))
        begins = np.cumsum([0, *sizes[:-1]]).astype(np.int16)
        self.places = [  # the column of each row's one; unknown goes into the last
            np.where(codes >= 0, codes + begin, np.int16(self.total))
            for codes, begin in zip(characteristics, begins, strict=True)
        ]
        self.out = np.zeros((schools, self.total, 3 * self.measures))

    def schools(self, some: Integers) -> None:
        """Sums of some schools; threads never share one."""
        measures = self.measures
        counts = 1 if self.complete else measures  # one column counts for all measures
        wide = np.ones((BLOCK, 2 * measures + counts))
        hot = np.zeros((BLOCK, self.total + 1))
        flat = hot.ravel()
        line = np.arange(BLOCK) * (self.total + 1)
        for s in some:
            for a in range(self.edges[s], self.edges[s + 1], BLOCK):
                b = min(a + BLOCK, self.edges[s + 1])
                rows: Integers | slice = slice(a, b) if self.whole else self.order[a:b]
                part = wide[: b - a]
                plain = part[:, :measures]
                np.subtract(self.x[rows], self.centre, out=plain)
                if not self.complete:
                    there = ~np.isnan(plain)
                    part[:, 2 * measures :] = there
                    plain[~there] = 0.0
                np.multiply(plain, plain, out=part[:, measures : 2 * measures])
                ones = [line[: b - a] + place[rows] for place in self.places]
                for at in ones:
                    flat[at] = 1.0
                found = hot[: b - a, : self.total].T @ part
                for at in ones:
                    flat[at] = 0.0
                self.out[s, :, : 2 * measures] += found[:, : 2 * measures]
                self.out[s, :, 2 * measures :] += found[:, 2 * measures :]


def _figures(sums: Floats, centre: Floats) -> tuple[Floats, Floats, Floats]:
    measures = len(centre)
    s, q, n = (sums[..., k * measures : (k + 1) * measures] for k in range(3))
    n = np.rint(n)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = s / np.where(n > 0, n, np.nan)
        sd = np.sqrt(np.maximum(q - n * mean**2, 0.0) / np.where(n > 1, n - 1, np.nan))
    return n, mean + centre, sd
