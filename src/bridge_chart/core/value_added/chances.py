"""What a starting level has meant for a later outcome, from cohorts that went before."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes
from bridge_chart.core.describing.shares import wilson

FEWEST_FOR_CHANCES = 30
FEWEST_COHORTS = 2


@dataclass(frozen=True)
class Chances:
    """counts, share, low, high: (starts, outcomes); at_or_above with its low and high alike: this
    outcome or better. n, cohorts: (starts,) students, and cohorts with any. spread: how much more
    cohorts vary than chance would have them, 1 = no more. shown: (starts,) enough students, of
    more than one cohort."""

    counts: Integers
    n: Integers
    share: Floats
    low: Floats
    high: Floats
    at_or_above: Floats
    above_low: Floats
    above_high: Floats
    cohorts: Integers
    spread: float
    shown: list[bool]


def count_outcomes(
    start: Codes, starts: int, outcome: Codes, outcomes: int, cohort: Codes, cohorts: int
) -> Integers:
    """(cohorts, starts, outcomes) students; −1 in any of the codes: left out.

    >>> count_outcomes(np.array([0, 0, 1, -1]), 2, np.array([1, 1, 0, 1]), 2,
    ...                np.zeros(4, int), 1).tolist()
    [[[0, 2], [1, 0]]]
    """
    for codes, size in ((start, starts), (outcome, outcomes), (cohort, cohorts)):
        check_codes(codes, len(start), size)
    held = (start >= 0) & (outcome >= 0) & (cohort >= 0)
    cell = (cohort[held].astype(np.int64) * starts + start[held]) * outcomes + outcome[held]
    counts = np.bincount(cell, minlength=cohorts * starts * outcomes)
    return counts.reshape(cohorts, starts, outcomes).astype(np.int64)


def chances(counts: Integers, confidence: float = 0.95) -> Chances:
    """Of those who started in each level, the share that reached each outcome, with Wilson's
    interval (1927); where cohorts vary more than chance would have them, of as many students as
    theirs are worth then (a quasi-likelihood spread over all starts: McCullagh & Nelder 1989, 4.5).

    counts: (cohorts, starts, outcomes) as `count_outcomes` gives them. Fewer than 30 at a start,
    or of one cohort alone: not shown. It says what happened to others who started alike, not what
    will.

    >>> c = chances(np.array([[[20, 20]], [[10, 30]]]))
    >>> c.share.tolist(), c.n.tolist(), c.cohorts.tolist(), round(c.spread, 2), c.shown
    ([[0.375, 0.625]], [80], [2], 5.33, [True])
    """
    held = np.asarray(counts, np.int64)
    if held.ndim != 3 or (held < 0).any():
        raise ValueError("counts must be (cohorts, starts, outcomes), none below 0")
    total = held.sum(axis=0)
    n = total.sum(axis=1)
    spread = _spread(held)
    of = np.broadcast_to(n[:, None], total.shape)
    effective = np.asarray(of / spread, np.float64)
    share, low, high = wilson(total, of, confidence, effective)
    better = total[:, ::-1].cumsum(axis=1)[:, ::-1]
    above, above_low, above_high = wilson(better, of, confidence, effective)
    cohorts = np.count_nonzero(held.sum(axis=2), axis=0).astype(np.int64)
    shown = [
        bool(size >= FEWEST_FOR_CHANCES and several >= FEWEST_COHORTS)
        for size, several in zip(n, cohorts, strict=True)
    ]
    return Chances(
        total, n, share, low, high, above, above_low, above_high, cohorts, spread, shown
    )  # fmt: skip


def _spread(counts: Integers) -> float:
    """Pearson's statistic of cohorts by outcomes, over its degrees of freedom, all starts together;
    never below 1."""
    statistic, df = 0.0, 0
    for table in counts.transpose(1, 0, 2):
        told = table[table.sum(axis=1) > 0][:, table.sum(axis=0) > 0].astype(np.float64)
        if min(told.shape) < 2:
            continue
        expected = told.sum(axis=1, keepdims=True) * told.sum(axis=0) / told.sum()
        statistic += float(np.sum((told - expected) ** 2 / expected))
        df += (told.shape[0] - 1) * (told.shape[1] - 1)
    return max(1.0, statistic / df) if df else 1.0
