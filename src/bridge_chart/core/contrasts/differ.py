"""Whether many groups differ at all, and whether two splits together do more than each alone."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers
from bridge_chart.core.contrasts.rows import Sample
from bridge_chart.core.contrasts.weights import ClassWeights, class_weights
from bridge_chart.core.distributions import f_tail
from bridge_chart.core.estimate import NAN

FEWEST_ALONE = 20
"""Groups with fewer values are taken together: alone they say nothing, and there are many."""
MOST_CROSSING = 400
"""Groups that share classes are solved together up to so many; beyond, each by itself."""


@dataclass(frozen=True)
class Differ:
    """F on df and df_error with p; sd: of the groups' means beyond chance, in the values' unit.
    reason: why there is none."""

    f: float
    df: int
    df_error: float
    p: float
    sd: float = NAN
    reason: str = ""


def small_together(codes: Codes, fewest: int = FEWEST_ALONE) -> tuple[Integers, int]:
    """Codes 0 … k − 1 in which all groups of fewer than `fewest` are one, the last; and k.

    >>> small_together(np.array([5] * 3 + [1] * 4 + [0] + [2] * 2), fewest=3)
    (array([1, 1, 1, 0, 0, 0, 0, 2, 2, 2]), 3)
    """
    _, place, size = np.unique(codes, return_inverse=True, return_counts=True)
    large = size >= fewest
    new = np.where(large, np.cumsum(large) - 1, int(large.sum()))
    return np.asarray(new[place], np.int64), int(large.sum()) + int(not large.all())


def groups_differ(sample: Sample, at: Integers, codes: Codes) -> Differ:
    """Whether the groups' means differ: F of the contrasts among them, with one variance of
    students within the groups and what classes add (those of a school in which a group has two or
    more), so that many classes of few students count for what they are.

    F = min over a common mean of (m − μ)'V⁻¹(m − μ) / (k − 1); df_error by Satterthwaite from the
    summed variances. sd: √max(0, mean of (m − m̄)² − its variance). at, codes: (memberships,), −1 =
    in none. Fewer than two groups, or no spread within them, give NaN. Source: Searle (1971).

    >>> from bridge_chart.core.contrasts.noise import Noise
    >>> v = np.concatenate([np.arange(20.0), np.arange(20.0) + 6])
    >>> none = np.full(40, -1)
    >>> s = Sample(v, v, none, np.zeros(0, int), Noise(1.0, 0.0, np.nan, np.nan, 0))
    >>> d = groups_differ(s, np.arange(40), np.repeat([0, 1], 20))
    >>> round(d.f, 4), d.df, round(d.df_error), round(d.sd, 4)
    (10.2857, 1, 38, 4.0311)
    """
    at, code, groups = _together(sample, at, np.asarray(codes))
    if groups < 2:
        return Differ(NAN, 0, NAN, NAN, reason="fewer than two groups")
    return _fit(sample, at, code, groups, np.ones((groups, 1)))


def splits_interact(sample: Sample, at: Integers, row: Codes, column: Codes) -> Differ:
    """Whether the gap by one split depends on the other: F of all that the cells' means are apart
    from sums of a row and a column, with the same variance as `groups_differ`. Rows and columns of
    few values are taken together. at, row, column: (memberships,), −1 = in none.

    >>> from bridge_chart.core.contrasts.noise import Noise
    >>> v = np.tile([1., 3, 2, 4, 5, 7, 10, 12], 10)
    >>> r, c = np.tile(np.repeat([0, 1], 4), 10), np.tile([0, 0, 1, 1] * 2, 10)
    >>> s = Sample(v, v, np.full(80, -1), np.zeros(0, int), Noise(1.0, 0.0, np.nan, np.nan, 0))
    >>> d = splits_interact(s, np.arange(80), r, c)
    >>> d.df, round(d.f, 2)
    (1, 76.0)
    """
    held = (np.asarray(row) >= 0) & (np.asarray(column) >= 0) & ~np.isnan(sample.values[at])
    at = np.asarray(at)[held]
    r, rows = small_together(np.asarray(row)[held])
    c, columns = small_together(np.asarray(column)[held])
    if rows < 2 or columns < 2:
        return Differ(NAN, 0, NAN, NAN, reason="one row or column of enough values")
    there, code = np.unique(r * columns + c, return_inverse=True)
    additive = np.zeros((len(there), rows + columns))
    additive[np.arange(len(there)), there // columns] = 1.0
    additive[np.arange(len(there)), rows + there % columns] = 1.0
    return _fit(sample, at, np.asarray(code, np.int64), len(there), additive)


def _together(sample: Sample, at: Integers, codes: Codes) -> tuple[Integers, Integers, int]:
    held = (codes >= 0) & ~np.isnan(sample.values[at])
    code, groups = small_together(codes[held])
    return np.asarray(at)[held], code, groups


def _fit(sample: Sample, at: Integers, code: Integers, groups: int, design: Floats) -> Differ:
    """F that the groups' means lie in the columns of a design, weighted by what varies."""
    n = np.bincount(code, minlength=groups).astype(np.float64)
    mean = np.bincount(code, sample.values[at], groups) / n
    middle = np.bincount(code, sample.residual[at], groups) / n
    free = len(at) - groups
    variance = float(np.sum((sample.residual[at] - middle[code]) ** 2)) / max(free, 1)
    if free < 1 or not variance > 0:
        return Differ(NAN, 0, NAN, NAN, reason="no spread within the groups")
    noise = sample.noise
    between = noise.between if noise.known else 0.0
    weights = class_weights(sample.classes[at], code, groups, sample.school_of_class)
    varying = _varying(weights, n)
    spread = np.bincount(weights.row, varying**2, groups)
    each = variance / n + between * spread
    squares, df = _left_over(mean, each, weights, varying, between, design)
    if df < 1:
        return Differ(NAN, 0, NAN, NAN, reason="nothing can be told apart")
    students, classes = float(np.sum(variance / n)), float(spread.sum())
    error = noise.between_error * classes if noise.known else 0.0
    df_error = (students + between * classes) ** 2 / (students**2 / free + error**2 / 2)
    f = squares / df
    apart = float(np.var(mean, ddof=1)) - float(each.mean()) if design.shape[1] == 1 else NAN
    sd = float(np.sqrt(max(apart, 0.0))) if apart == apart else NAN
    return Differ(f, df, df_error, f_tail(f, df, df_error), sd)


def _varying(weights: ClassWeights, n: Floats) -> Floats:
    """(cells,) the weight of each class in its group's mean, 0 where the class does not vary."""
    pair, pair_row, _ = weights.pairs()
    several = np.bincount(pair, minlength=len(pair_row))[pair] > 1 if len(pair) else pair > 0
    return np.asarray(several * weights.size / n[weights.row], np.float64)


def _left_over(
    mean: Floats, each: Floats, weights: ClassWeights, varying: Floats, between: float,
    design: Floats,
) -> tuple[float, int]:  # fmt: skip
    """min over b of (m − Ab)'V⁻¹(m − Ab), and its degrees of freedom."""
    groups = len(mean)
    crossing = between > 0 and len(weights.place) and np.bincount(weights.place).max() > 1
    if crossing and groups <= MOST_CROSSING:
        classes, place = np.unique(weights.place, return_inverse=True)
        shares = np.zeros((groups, len(classes)))
        shares[weights.row, place] = varying
        own = each - between * np.bincount(weights.row, varying**2, groups)
        root = np.linalg.cholesky(np.diag(own) + between * shares @ shares.T)
        target, columns = np.linalg.solve(root, mean), np.linalg.solve(root, design)
    else:
        target, columns = mean / np.sqrt(each), design / np.sqrt(each)[:, None]
    fitted, _, rank, _ = np.linalg.lstsq(columns, target, rcond=None)
    return float(np.sum((target - columns @ fitted) ** 2)), groups - int(rank)
