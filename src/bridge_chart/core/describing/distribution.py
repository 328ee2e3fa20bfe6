"""Distributions: histograms that respect the scale, and the share at or above each score."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes, grouped
from bridge_chart.core.describing.shares import wilson

ScaleKind = Literal["steps", "continuous"]
MOST_BINS = 60
NICE = (1.0, 2.0, 2.5, 5.0, 10.0)


@dataclass(frozen=True)
class Histogram:
    """edges: (bins + 1,), counts: (groups, bins), n and missing: (groups,).

    A bin holds its lower edge, not its upper; the last holds both. `density`: (groups, bins),
    area 1, only for a continuous scale (None for steps: between two marks lies nothing).
    """

    edges: Floats
    counts: Integers
    n: Integers
    missing: Integers
    density: Floats | None


def bin_edges(values: Floats, kind: ScaleKind, step: float = 1.0) -> Floats:
    """Edges of a histogram's bins for these values, (bins + 1,).

    steps: every bin holds the same whole number of steps (so that no bin is fuller merely because
    more marks fall into it); edges lie half a step beside the marks. continuous: width by
    Freedman & Diaconis (1981), 2·IQR/∛n, widened to a round number. At most 60 bins. NaN are left
    out; no value gives one empty bin. Errors: ValueError where step is not positive.

    >>> bin_edges(np.array([1.0, 2, 4]), "steps").tolist()
    [0.5, 1.5, 2.5, 3.5, 4.5]
    """
    if not step > 0:
        raise ValueError(f"step must be positive; it is {step} instead")
    held = np.asarray(values, np.float64)
    held = held[~np.isnan(held)]
    if not len(held):
        return np.array([0.0, 1.0])
    low, high = float(held.min()), float(held.max())
    if kind == "steps":
        first = round(low / step)
        span = round(high / step) - first + 1
        spread = 2 * _iqr(held) / len(held) ** (1 / 3) / step
        wide = max(1, -(-span // MOST_BINS), int(spread) if span > MOST_BINS / 2 else 1)
        return np.asarray((first - 0.5 + wide * np.arange(-(-span // wide) + 1)) * step)
    if low == high:
        reach = max(abs(low), 1.0) * 0.5
        return np.array([low - reach, low + reach])
    width = _round_up(max(2 * _iqr(held) / len(held) ** (1 / 3), (high - low) / (MOST_BINS - 2)))
    first = np.floor(low / width)
    bins = int(np.floor(high / width) - first) + 1
    return np.asarray((first + np.arange(bins + 1)) * width, np.float64)


def _iqr(held: Floats) -> float:
    low, high = np.quantile(held, (0.25, 0.75))
    return float(high - low)


def _round_up(width: float) -> float:
    power = 10.0 ** np.floor(np.log10(width))
    return float(next(n * power for n in NICE if n * power >= width * (1 - 1e-12)))


def histogram(
    values: Floats, codes: Codes, groups: int, edges: Floats, kind: ScaleKind = "steps"
) -> Histogram:
    """Counts of each group's values in shared bins. A value beyond the edges is refused.

    values: (students,), NaN = missing; edges rising strictly, else ValueError.

    >>> histogram(np.array([1., 2, 2, 4]), np.zeros(4, int), 1, np.arange(0.5, 5)).counts.tolist()
    [[1, 2, 0, 1]]
    """
    values, edges = np.asarray(values, np.float64), np.asarray(edges, np.float64)
    check_codes(codes, len(values), groups)
    if len(edges) < 2 or np.any(np.diff(edges) <= 0):
        raise ValueError("edges must be at least two numbers that rise strictly")
    held = ~np.isnan(values) & (codes >= 0)
    inside = values[held]
    if len(inside) and (inside.min() < edges[0] or inside.max() > edges[-1]):
        raise ValueError("every value must lie within the edges")
    bins = len(edges) - 1
    place = np.minimum(np.searchsorted(edges, inside, side="right") - 1, bins - 1)
    counts = np.bincount(codes[held].astype(np.int64) * bins + place, minlength=groups * bins)
    counts = counts.reshape(groups, bins).astype(np.int64)
    n = counts.sum(axis=1)
    missing = grouped(codes, groups).counts() - n
    density = None
    if kind == "continuous":
        with np.errstate(invalid="ignore", divide="ignore"):
            density = counts / (n[:, None] * np.diff(edges))
    return Histogram(edges, counts, n, missing, density)


@dataclass(frozen=True)
class AtOrAbove:
    """at: (points,) ascending; share, low, high: (groups, points); n, missing: (groups,)."""

    at: Floats
    share: Floats
    low: Floats
    high: Floats
    n: Integers
    missing: Integers


def at_or_above(
    values: Floats, codes: Codes, groups: int, at: Floats | None = None, confidence: float = 0.95
) -> AtOrAbove:
    """S(x): the share of each group that scored x or more, with Wilson's interval (1927).

    It steps down just after each score. `at`: where to look, any order; by default every score
    that occurs. values: (students,), NaN = missing.

    >>> s = at_or_above(np.array([1., 2, 2, 3]), np.zeros(4, int), 1, np.array([2, 2.1]))
    >>> s.share.tolist()
    [[0.75, 0.25]]
    """
    values = np.asarray(values, np.float64)
    check_codes(codes, len(values), groups)
    held = ~np.isnan(values) & (codes >= 0)
    points = np.unique(values[held] if at is None else np.asarray(at, np.float64))
    if np.isnan(points).any():
        raise ValueError("at must hold numbers")
    # How many of the points a value has reached: it counts at all of those.
    reached = np.searchsorted(points, values[held], side="right")
    wide = len(points) + 1
    cell = codes[held].astype(np.int64) * wide + reached
    counts = np.bincount(cell, minlength=groups * wide).reshape(groups, wide).astype(np.int64)
    n = counts.sum(axis=1)
    above = counts[:, ::-1].cumsum(axis=1)[:, ::-1][:, 1:]
    share, low, high = wilson(above, np.broadcast_to(n[:, None], above.shape), confidence)
    return AtOrAbove(points, share, low, high, n, grouped(codes, groups).counts() - n)
