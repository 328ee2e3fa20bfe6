"""How a group did against others who were like them before."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask
from bridge_chart.core.estimate import Estimate, interval_of, undefined

NEIGHBOURS = 4
"""The most matches of one student: few more are of no use."""
CALIPER = 0.25
"""Standard deviations within which a match must lie in everything matched on."""
FEWEST = 5
"""Matched students of the group below which no figure is given."""
SHARE = 0.5
"""The share of the group that must have a match."""


@dataclass(frozen=True)
class Matched:
    """effect: the group's outcome − its matches', with `n` the group's students who have matches;
    NaN with a reason where there are too few. unmatched: of the group, without a match;
    controls: different students who serve as matches; apart: (covariates,) how far the matched
    group lies from its matches in each, in standard deviations."""

    effect: Estimate
    unmatched: int
    controls: int
    apart: tuple[float, ...]


def matched_difference(
    outcome: Floats, before: Floats, strata: Codes, group: Mask,
    *, neighbours: int = NEIGHBOURS, caliper: float = CALIPER, confidence: float = 0.95,
) -> Matched:  # fmt: skip
    """The mean outcome of a group − that of their nearest others within the same stratum, with
    replacement, each corrected by a straight line for what still lies between them (Abadie and
    Imbens 2011), SE as for matches that serve several times (Abadie and Imbens 2006).

    outcome: (students,), own unit. before: (students, covariates), what they are matched on, each
    over its sd among all with everything. strata: (students,), matches are of the same one.
    group: (students,) bool. NaN in outcome or before: left out; of the group, counted `missing`.
    Errors: ValueError on shapes.

    >>> x = np.array([1.0, 2, 3, 4, 5, 1, 2, 3, 4, 5])
    >>> y = 10 * x + np.array([3, 3, 3, 3, 3, 0, 0, 0, 0, 0.0])
    >>> m = matched_difference(y, x[:, None], np.zeros(10, int), np.arange(10) < 5, neighbours=1)
    >>> round(m.effect.value, 6), m.unmatched, m.controls, m.apart
    (3.0, 0, 5, (0.0,))
    """
    outcome, before = np.asarray(outcome, np.float64), np.asarray(before, np.float64)
    if before.ndim != 2 or len(before) != len(outcome) or len(group) != len(outcome):
        raise ValueError("before must be (students, covariates) in the order of the outcomes")
    whole = ~np.isnan(outcome) & ~np.isnan(before).any(axis=1)
    mine, others = np.flatnonzero(whole & group), np.flatnonzero(whole & ~group)
    missing = int(np.count_nonzero(group & ~whole))
    sd = before[whole].std(axis=0, ddof=1) if whole.sum() > 1 else np.ones(before.shape[1])
    scaled = before / np.where(sd > 0, sd, 1.0)
    pairs = _pairs(scaled, np.asarray(strata), mine, others, neighbours, caliper)
    served = np.unique(pairs.of)
    unmatched = len(mine) - len(served)
    controls = len(np.unique(pairs.other))
    if len(served) < FEWEST or len(served) < SHARE * max(len(mine), 1) or controls < FEWEST:
        reason = "too few of the group have others like them"
        return Matched(undefined(reason, n=len(served), missing=missing), unmatched, controls, ())
    slope = _slope(outcome, scaled, np.unique(pairs.other))
    between = scaled[pairs.of] - scaled[pairs.other]
    reached = pairs.weight * (outcome[pairs.other] + between @ slope)
    place = np.searchsorted(served, pairs.of)
    each = outcome[served] - np.bincount(place, reached)
    value = float(each.mean())
    se = _error(outcome - scaled @ slope, scaled, np.asarray(strata), each - value, pairs)
    effect = interval_of(value, se, len(served) - 1.0, confidence).counted(len(served), missing)
    apart = (pairs.weight[:, None] * between).sum(axis=0) / len(served)
    return Matched(effect, unmatched, controls, tuple(float(round(one, 12)) for one in apart))


@dataclass(frozen=True)
class _Pairs:
    """Of the group, who is like them, and with which weight; the weights of one add to 1."""

    of: Integers
    other: Integers
    weight: Floats


def _pairs(
    scaled: Floats, strata: Codes, mine: Integers, others: Integers, k: int, caliper: float
) -> _Pairs:
    """Up to k others within the caliper for each of the group, the nearest first."""
    of: list[Integers] = []
    other: list[Integers] = []
    weight: list[Floats] = []
    for stratum in np.unique(strata[mine]):
        pool, here = (at[strata[at] == stratum] for at in (others, mine))
        if not len(pool):
            continue
        # The largest distance in any one covariate decides whether somebody is like another.
        far, place = cKDTree(scaled[pool]).query(
            scaled[here], k=np.arange(1, k + 1), p=np.inf,
            distance_upper_bound=caliper * (1 + 1e-12),
        )  # fmt: skip
        near = np.isfinite(far)
        row, column = np.nonzero(near)
        of.append(here[row])
        other.append(pool[np.asarray(place)[row, column]])
        weight.append(1.0 / near.sum(axis=1).astype(np.float64)[row])
    if not of:
        nobody = np.zeros(0, np.int64)
        return _Pairs(nobody, nobody, np.zeros(0))
    return _Pairs(np.concatenate(of), np.concatenate(other), np.concatenate(weight))


def _slope(outcome: Floats, scaled: Floats, pool: Integers) -> Floats:
    """The line through those who serve as matches; flat where they are too few for one."""
    width = scaled.shape[1]
    if len(pool) <= width + 1:
        return np.zeros(width)
    design = np.column_stack([np.ones(len(pool)), scaled[pool]])
    return np.asarray(np.linalg.lstsq(design, outcome[pool], rcond=None)[0][1:], np.float64)


def _error(level: Floats, scaled: Floats, strata: Codes, away: Floats, pairs: _Pairs) -> float:
    """√V of the mean: the spread of the differences, and what is added by others who serve more
    than one of the group; their own variance is taken from the nearest other in the pool. level:
    the outcome without what the line through the pool says."""
    pool, place = np.unique(pairs.other, return_inverse=True)
    use = np.bincount(place, pairs.weight)
    squares = np.bincount(place, pairs.weight**2)
    variance: Floats = np.zeros(len(pool))
    for stratum in np.unique(strata[pool]):
        here = np.flatnonzero(strata[pool] == stratum)
        if len(here) < 2:
            continue
        _, near = cKDTree(scaled[pool[here]]).query(scaled[pool[here]], k=[2])
        nearest = here[np.asarray(near)[:, 0]]
        variance[here] = 0.5 * (level[pool[here]] - level[pool[nearest]]) ** 2
    added = float(np.sum((use**2 - squares) * variance))
    return math.sqrt(max(float(np.sum(away**2)) + added, 0.0)) / len(away)
