"""Movement between levels, the credit it earns, and what error alone would move."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import special

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes
from bridge_chart.core.describing.describe import moments
from bridge_chart.core.estimate import Estimate, interval_of, undefined


@dataclass(frozen=True)
class Movement:
    """counts: (levels before, levels after); share: of each row, NaN for an empty one.

    up, same, down: students; missing: without both levels.
    """

    counts: Integers
    share: Floats
    up: int
    same: int
    down: int
    n: int
    missing: int


def movement(before: Codes, after: Codes, levels: int) -> Movement:
    """How many of each earlier level are in each level now. Codes 0 … levels − 1, −1 = none.

    >>> m = movement(np.array([0, 0, 1, -1]), np.array([0, 1, 1, 1]), 2)
    >>> m.counts.tolist(), m.up, m.same, m.down, m.missing
    ([[1, 1], [0, 1]], 1, 2, 0, 1)
    """
    check_codes(before, len(after), levels)
    check_codes(after, len(before), levels)
    held = (before >= 0) & (after >= 0)
    cell = before[held].astype(np.int64) * levels + after[held]
    counts = np.bincount(cell, minlength=levels * levels).reshape(levels, levels).astype(np.int64)
    with np.errstate(invalid="ignore", divide="ignore"):
        share = counts / np.where(counts.sum(axis=1) > 0, counts.sum(axis=1), np.nan)[:, None]
    n = int(held.sum())
    up, same = int(np.triu(counts, 1).sum()), int(np.trace(counts))
    return Movement(counts, share, up, same, n - up - same, n, len(before) - n)


@dataclass(frozen=True)
class Credit:
    """credit: (students,), NaN without an earlier level (shown as a dash); groups: mean credit."""

    credit: Floats
    groups: list[Estimate]


def movement_credit(
    before: Codes, after: Codes, rule: Floats, codes: Codes, groups: int, confidence: float = 0.95
) -> Credit:
    """Credit of each student by a rule table (levels before, levels after), and groups' means.

    The rule says which move earns full, part or no credit (holding the top counts, lower levels
    must rise). A student without an earlier level or a level now has none and is not in the mean.
    Errors: ValueError where the rule is not square or has NaN.

    >>> rule = np.array([[0., 1], [0, 1]])
    >>> c = movement_credit(np.array([0, 1, -1]), np.array([1, 0, 1]), rule, np.zeros(3, int), 1)
    >>> c.credit.tolist(), c.groups[0].value, c.groups[0].missing
    ([1.0, 0.0, nan], 0.5, 1)
    """
    table = np.asarray(rule, np.float64)
    if table.ndim != 2 or table.shape[0] != table.shape[1] or np.isnan(table).any():
        raise ValueError("the rule must be a full square table, earlier levels by levels now")
    check_codes(before, len(after), len(table))
    check_codes(after, len(before), len(table))
    held = (before >= 0) & (after >= 0)
    credit = np.where(held, table[before, after], np.nan)
    found = moments(credit, codes, groups, confidence=confidence)
    out = []
    for g in range(groups):
        n, missing = int(found.n[g]), int(found.missing[g])
        if n < 2:
            out.append(undefined("fewer than two students", float(found.mean[g]), n, missing))
        else:
            made = interval_of(float(found.mean[g]), float(found.se[g]), n - 1.0, confidence)
            out.append(made.counted(n, missing))
    return Credit(credit, out)


def levels_by_error_alone(
    scores: Floats, cuts: Floats, mean: float, sd: float, sem: float
) -> Floats:
    """(students, levels) how likely each would be in each level at another sitting if nobody had
    changed at all; a row of NaN where there is no score.

    A second sitting of the same students with the same error: given a score x it would be normal
    about μ + ρ(x − μ) with sd·√(1 − ρ²), ρ = 1 − SEM²/sd² (Lord & Novick 1968). scores:
    (students,); cuts rise; mean, sd: of the population. Errors: ValueError where SEM is not below
    sd.

    >>> levels_by_error_alone(np.array([95., 105]), np.array([100.]), 100, 15, 5).round(3).tolist()
    [[0.741, 0.259], [0.259, 0.741]]
    """
    if not 0 <= sem < sd:
        raise ValueError(f"the error of measurement must lie between 0 and sd ({sd}); it is {sem}")
    x = np.asarray(scores, np.float64)
    cuts = np.asarray(cuts, np.float64)
    if np.any(np.diff(cuts) <= 0):
        raise ValueError("cuts must rise strictly")
    rho = 1 - (sem / sd) ** 2
    middle, spread = mean + rho * (x - mean), sd * np.sqrt(1 - rho**2)
    if spread == 0:
        below = (cuts[None, :] > x[:, None]).astype(np.float64)
    else:
        below = special.ndtr((cuts[None, :] - middle[:, None]) / spread)
    edges = np.column_stack([np.zeros(len(x)), below, np.ones(len(x))])
    return np.where(np.isnan(x)[:, None], np.nan, np.diff(edges, axis=1))


def movement_by_error_alone(
    scores: Floats, cuts: Floats, mean: float, sd: float, sem: float
) -> Floats:
    """The movement matrix (levels, levels) that would be seen if nobody had changed at all:
    expected counts, summing to those with a score. Arguments as of `levels_by_error_alone`.

    >>> m = movement_by_error_alone(np.array([95., 105]), np.array([100.]), 100, 15, 5)
    >>> m.round(3).tolist()
    [[0.741, 0.259], [0.259, 0.741]]
    """
    chances = levels_by_error_alone(scores, cuts, mean, sd, sem)
    there = ~np.isnan(chances[:, 0])
    x = np.asarray(scores, np.float64)[there]
    level = np.searchsorted(np.asarray(cuts, np.float64), x, side="right")
    out = np.zeros((len(cuts) + 1, len(cuts) + 1))
    np.add.at(out, level, chances[there])
    return out
