"""Whether many groups differ at all, and by how much beyond chance: one variance within them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers
from bridge_chart.core.describing.describe import moments
from bridge_chart.core.distributions import f_tail
from bridge_chart.core.estimate import NAN

FEWEST_ALONE = 20
"""Groups with fewer values are taken together: alone they say nothing, and there are many."""


@dataclass(frozen=True)
class Spread:
    """F on df and df_error with p; sd: of the groups' means beyond chance, in the values' unit."""

    f: float
    df: int
    df_error: int
    p: float
    sd: float


def small_together(codes: Codes, fewest: int = FEWEST_ALONE) -> tuple[Integers, int]:
    """Codes 0 … k − 1 in which all groups of fewer than `fewest` are one, the last; and k.

    >>> small_together(np.array([5] * 3 + [1] * 4 + [0] + [2] * 2), fewest=3)
    (array([1, 1, 1, 0, 0, 0, 0, 2, 2, 2]), 3)
    """
    _, place, size = np.unique(codes, return_inverse=True, return_counts=True)
    large = size >= fewest
    new = np.where(large, np.cumsum(large) - 1, int(large.sum()))
    return np.asarray(new[place], np.int64), int(large.sum()) + int(not large.all())


def spread(values: Floats, codes: Codes) -> Spread:
    """One-way analysis of variance: F = MS between / MS within, small groups together; the sd
    beyond chance is √max(0, (MS between − MS within) / n₀), n₀ = (N − Σn²/N) / (k − 1).

    values: (values,), NaN = missing; codes: their groups, −1 = in none; a student who is in two
    groups stands twice, and the p is then too small. Fewer than two groups, or no spread within
    them, give NaN. Source: Searle (1971).

    >>> v = np.concatenate([np.arange(20.0), np.arange(20.0) + 6])
    >>> s = spread(v, np.repeat([0, 1], 20))
    >>> round(s.f, 4), s.df, s.df_error, round(s.sd, 4)
    (10.2857, 1, 38, 4.0311)
    """
    held = (codes >= 0) & ~np.isnan(values)
    code, groups = small_together(np.asarray(codes)[held])
    found = moments(np.asarray(values, np.float64)[held], code, groups)
    total, df = int(found.n.sum()), groups - 1
    df_error = total - groups
    if df < 1 or df_error < 1:
        return Spread(NAN, max(df, 0), max(df_error, 0), NAN, NAN)
    centre = float(found.n @ found.mean) / total
    between = float(found.n @ (found.mean - centre) ** 2) / df
    within = float(np.nansum((found.n - 1) * np.nan_to_num(found.sd) ** 2)) / df_error
    if within <= 0:
        return Spread(NAN, df, df_error, NAN, NAN)
    size = (total - float(np.sum(found.n**2)) / total) / df
    sd = float(np.sqrt(max(0.0, (between - within) / size)))
    return Spread(between / within, df, df_error, f_tail(between / within, df, df_error), sd)
