"""Sums of every measure in every category of every school, in one pass."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from bridge_chart.core.arrays import Codes, Floats

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
    schools: int,
) -> ScanSums:  # fmt: skip
    """n, mean and sd of every measure × category × school, and of the rest of each school.

    One-hot rows of the categories, transposed, times [x, x², there] of the measures, school by
    school; x is centred on its mean first. values: (students, measures), NaN = missing;
    characteristics: (students,) codes 0 … size − 1, −1 = unknown (in no category, not in the rest);
    school: (students,), −1 = none. Errors: ValueError on shapes or codes.

    >>> s = scan_sums(np.array([[1.], [3], [5], [9]]), [np.array([0, 0, 1, 1])], [2],
    ...               np.zeros(4, int), 1)
    >>> s.mean[0, :, 0].tolist(), s.rest_mean[0, :, 0].tolist()
    ([2.0, 7.0], [7.0, 2.0])
    """
    x = np.asarray(values, np.float64)
    if x.ndim != 2 or any(len(c) != len(x) for c in (*characteristics, school)):
        raise ValueError("values must be (students, measures), with one code per student each")
    if len(characteristics) != len(sizes) or not len(sizes):
        raise ValueError("there must be one size per characteristic, at least one")
    for codes, size in zip(characteristics, sizes, strict=True):
        if len(codes) and (codes.min() < -1 or codes.max() >= size):
            raise ValueError(f"codes must lie in -1 to {size - 1}")
    order = np.flatnonzero(np.asarray(school) >= 0)
    if np.any(np.diff(np.asarray(school)[order]) < 0):
        order = order[np.argsort(np.asarray(school)[order], kind="stable")]
    there = ~np.isnan(x)
    with np.errstate(invalid="ignore", divide="ignore"):
        centre = np.where(there, x, 0.0).sum(axis=0) / there.sum(axis=0)
    centre = np.nan_to_num(centre)
    sums = _products(x, centre, there, characteristics, sizes, np.asarray(school), order, schools)
    first = np.concatenate([[0], np.cumsum(sizes)])
    own = np.zeros_like(sums)
    for a, b in pairwise(first):
        own[:, a:b] = sums[:, a:b].sum(axis=1, keepdims=True)
    mine = _figures(sums, centre)
    rest = _figures(own - sums, centre)
    return ScanSums(*mine, *rest, [int(k) for k in first[:-1]])


def _products(
    x: Floats, centre: Floats, there: np.ndarray, characteristics: Sequence[Codes],
    sizes: Sequence[int], school: Codes, order: np.ndarray, schools: int,
) -> Floats:  # fmt: skip
    """(schools, categories, 3·measures): Σx, Σx², n of the centred values."""
    measures, total = x.shape[1], int(np.sum(sizes))
    begins = np.concatenate([[0], np.cumsum(sizes)[:-1]])
    out = np.zeros((schools, total, 3 * measures))
    in_order = school[order]
    edges = np.searchsorted(in_order, np.arange(schools + 1))
    complete = bool(there.all())
    wide = np.empty((BLOCK, 3 * measures))
    hot = np.zeros((BLOCK, total + 1))
    whole = len(order) == len(x) and bool(np.all(np.diff(order) == 1))
    for s in range(schools):
        for a in range(edges[s], edges[s + 1], BLOCK):
            b = min(a + BLOCK, edges[s + 1])
            rows: np.ndarray | slice = slice(a, b) if whole else order[a:b]
            part, flags = wide[: b - a], hot[: b - a]
            np.subtract(x[rows], centre, out=part[:, :measures])
            if complete:
                part[:, 2 * measures :] = 1.0
            else:
                part[:, 2 * measures :] = there[rows]
                part[:, :measures][~there[rows]] = 0.0
            np.multiply(
                part[:, :measures], part[:, :measures], out=part[:, measures : 2 * measures]
            )
            flags.fill(0.0)
            line = np.arange(b - a)
            for codes, begin in zip(characteristics, begins, strict=True):
                at = codes[rows]
                flags[line, np.where(at >= 0, at + begin, total)] = 1.0
            out[s] += flags[:, :total].T @ part
    return out


def _figures(sums: Floats, centre: Floats) -> tuple[Floats, Floats, Floats]:
    measures = len(centre)
    s, q, n = (sums[..., k * measures : (k + 1) * measures] for k in range(3))
    n = np.rint(n)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = s / np.where(n > 0, n, np.nan)
        sd = np.sqrt(np.maximum(q - n * mean**2, 0.0) / np.where(n > 1, n - 1, np.nan))
    return n, mean + centre, sd
