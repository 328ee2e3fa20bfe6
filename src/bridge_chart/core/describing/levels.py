"""Levels and half-levels from cut scores, and the share of each group in each."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes, grouped
from bridge_chart.core.describing.shares import wilson


def levels_of(scores: Floats, cuts: Floats) -> Integers:
    """Level of each score: the number of cuts it has reached (a score on a cut has reached it).

    scores: (students,), NaN gives −1. cuts: (levels − 1,), rising strictly, else ValueError.

    >>> levels_of(np.array([99.5, 100, 130, np.nan]), np.array([100.0, 120])).tolist()
    [0, 1, 2, -1]
    """
    cuts = np.asarray(cuts, np.float64)
    if cuts.ndim != 1 or np.isnan(cuts).any() or np.any(np.diff(cuts) <= 0):
        raise ValueError("cuts must be numbers that rise strictly")
    scores = np.asarray(scores, np.float64)
    found = np.searchsorted(cuts, scores, side="right").astype(np.int64)
    return np.where(np.isnan(scores), -1, found)


def middles_of(cuts: Floats, lowest: float, highest: float, upper: Floats | None = None) -> Floats:
    """(levels,) where the upper half of each level begins: at its middle, or where `upper` says.

    >>> middles_of(np.array([100.0, 120]), 0, 200, np.array([np.nan, 104, np.nan]))
    array([ 50., 104., 160.])
    """
    edges = np.concatenate([[lowest], cuts, [highest]])
    middles = (edges[:-1] + edges[1:]) / 2
    return middles if upper is None else np.where(np.isnan(upper), middles, upper)


def half_levels_of(
    scores: Floats, cuts: Floats, lowest: float, highest: float, upper: Floats | None = None
) -> Integers:
    """Half-level 2·level (lower) or 2·level + 1 (upper): each level is halved at its middle, or
    where `upper` (levels,) names its upper half's lowest score (NaN: at the middle).

    The bottom level reaches from `lowest`, the top one to `highest` (the ends of the scale).
    A score on a middle is in the upper half. NaN gives −1. Errors as `levels_of`, and where the
    ends of the scale do not enclose the cuts.

    >>> half_levels_of(np.array([0., 49, 50, 109, 110, 160]), np.array([100.0, 120]), 0, 200)
    array([0, 0, 1, 2, 3, 5])
    >>> half_levels_of(np.array([49.0, 104]), np.array([100.0]), 0, 200, np.array([np.nan, 104]))
    array([0, 3])
    """
    cuts = np.asarray(cuts, np.float64)
    if len(cuts) and not (lowest < cuts[0] and cuts[-1] < highest):
        raise ValueError("the ends of the scale must enclose the cuts")
    middles = middles_of(cuts, lowest, highest, upper)
    level = levels_of(scores, cuts)
    known = np.maximum(level, 0)
    half = 2 * known + (np.asarray(scores, np.float64) >= middles[known])
    return np.where(level < 0, -1, half)


@dataclass(frozen=True)
class LevelShares:
    """n, missing: (groups,); the rest (groups, levels). NaN shares where n = 0.

    `at_or_above[g, k]`: the share that reached level k or better, with its interval.
    """

    n: Integers
    missing: Integers
    counts: Integers
    share: Floats
    low: Floats
    high: Floats
    at_or_above: Floats
    at_or_above_low: Floats
    at_or_above_high: Floats


def level_shares(
    level: Codes, codes: Codes, groups: int, levels: int, confidence: float = 0.95
) -> LevelShares:
    """Share of each group in each level, and at or above it, with Wilson's interval (1927).

    level: (students,) 0 … levels−1 in rising order, −1 = missing (counted apart); half-levels are
    just more levels. codes: (students,), −1 = in no group. Errors: ValueError on either.

    >>> s = level_shares(np.array([0, 1, 1, -1]), np.zeros(4, int), 1, 2)
    >>> s.counts.tolist(), s.missing.tolist(), s.at_or_above.round(3).tolist()
    ([[1, 2]], [1], [[1.0, 0.667]])
    """
    check_codes(codes, len(level), groups)
    check_codes(level, len(codes), levels)
    held = (level >= 0) & (codes >= 0)
    cell = np.where(held, codes.astype(np.int64) * levels + level, -1)
    counts = grouped(cell, groups * levels).counts().reshape(groups, levels)
    n = counts.sum(axis=1)
    missing = grouped(codes, groups).counts() - n
    reached = counts[:, ::-1].cumsum(axis=1)[:, ::-1]
    every = np.broadcast_to(n[:, None], counts.shape)
    return LevelShares(
        n, missing, counts, *wilson(counts, every, confidence),
        *wilson(reached, every, confidence),
    )  # fmt: skip
