"""Keys that may be wrong: the best students agree on another option."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import stats

from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.items.questions import option_choice
from bridge_chart.core.trust.discoveries import discoveries

FEWEST = 30
"""Students of the best third who chose either option, at least."""


@dataclass(frozen=True)
class DoubtfulKey:
    """A question whose key may be wrong: the best third chose `option` `chose` times and what the
    key says `keyed` times; p: how often as far apart a split would come by chance."""

    question: int
    option: int
    chose: int
    keyed: int
    p: float


def doubtful_keys(options: Codes, right: Mask, totals: Floats, count: int) -> list[DoubtfulKey]:
    """Questions of which more of the best third chose one wrong option than what the key says.

    options: (students, questions) codes 0 … count − 1, −1 = none; right: (questions, count) what
    the key says is right, questions without any are passed over; totals: (students,), NaN left out.
    The option must be chosen more often by the best third than by the lowest, and more often than
    the key within the best third, beyond chance (exact sign test, false discoveries over the
    questions held to 5%), with 30 or more choosing either.

    >>> chosen, totals = np.array([[0]] * 60 + [[1]] * 60), np.arange(120.0)
    >>> [d.option for d in doubtful_keys(chosen, np.array([[True, False]]), totals, 2)]
    [1]
    >>> doubtful_keys(chosen, np.array([[False, True]]), totals, 2)
    []
    """
    keyed = right.any(axis=1)
    found = option_choice(options, right.argmax(axis=1), totals, count)
    low, high = found.counts[0], found.counts[2]
    share_low, share_high = found.share[0], found.share[2]
    key_count = (high * right).sum(axis=1)
    wrong = np.where(right, -1, high)
    best = wrong.argmax(axis=1)
    every = np.arange(len(best))
    chose = wrong[every, best]
    rises = share_high[every, best] > share_low[every, best]
    asked = keyed & (chose + key_count >= FEWEST) & rises & (low.sum(axis=1) > 0)
    p = np.full(len(best), np.nan)
    for n in np.flatnonzero(asked):
        either = int(chose[n] + key_count[n])
        p[n] = stats.binomtest(int(chose[n]), either, 0.5, alternative="greater").pvalue
    stands = discoveries(p)
    return [
        DoubtfulKey(int(n), int(best[n]), int(chose[n]), int(key_count[n]), float(p[n]))
        for n in np.flatnonzero(stands)
    ]
