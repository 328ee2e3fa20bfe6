"""Who would have to gain a step: nearest first, each by one step or as far as it takes."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from math import ceil

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers


@dataclass(frozen=True)
class Nearest:
    """order: positions of those who can gain, nearest first; steps: (students,) how many each is
    moved, 0 = none; needed: what is missing, in students (a share) or steps (a mean); reachable:
    whether so many can gain it; figure: (moved + 1,) after none, one, two … of them."""

    order: Integers
    steps: Integers
    needed: int
    reachable: bool
    figure: Floats

    @property
    def moved(self) -> int:
        return int(np.count_nonzero(self.steps))


def nearest_to_mean(
    grade: Codes, top: int, total: Fraction, wanted: Fraction, distance: Floats
) -> Nearest:
    """Who gains one step each so that the total of steps grows by what is wanted: nearest first.

    grade: (students,) places from 0, −1 = no result; top: the highest place; total: of the figure
    now over those with a result (places, or places minus what is expected); wanted: the total that
    is wanted; distance: (students,) how far from the next step, smallest first, NaN last, then by
    file order. Everybody gains the same, one step, so the fewest students are as many as steps are
    missing. Nobody passes the top. figure: the mean after each.

    >>> n = nearest_to_mean(np.array([0, 1, 2, 2]), 2, Fraction(5), Fraction(7),
    ...                     np.array([3.0, 1.0, 0.0, 0.0]))
    >>> n.moved, n.order.tolist(), n.steps.tolist(), n.reachable, n.figure.tolist()
    (2, [1, 0], [1, 1, 0, 0], True, [1.25, 1.5, 1.75])
    """
    grade = np.asarray(grade)
    n = int(np.count_nonzero(grade >= 0))
    can = np.flatnonzero((grade >= 0) & (grade < top))
    order = can[np.lexsort((can, np.nan_to_num(np.asarray(distance)[can], nan=np.inf)))]
    needed = max(0, ceil(wanted - total))
    steps = np.zeros(len(grade), np.int64)
    steps[order[:needed]] = 1
    after = (float(total) + np.arange(len(order) + 1)) / max(n, 1)
    return Nearest(order.astype(np.int64), steps, needed, needed <= len(order), after)


def nearest_to_share(grade: Codes, at: int, wanted: Fraction, distance: Floats) -> Nearest:
    """Who gains one step each so that the share at or above a place is what is wanted: those one
    step below it, nearest first. As `nearest_to_mean`; figure: the share after each.

    >>> n = nearest_to_share(np.array([0, 1, 1, 2]), 2, Fraction(1, 2), np.array([0, 9., 4, 0]))
    >>> n.moved, n.order.tolist(), n.figure.tolist()
    (1, [2, 1], [0.25, 0.5, 0.75])
    """
    grade = np.asarray(grade)
    n = int(np.count_nonzero(grade >= 0))
    have = int(np.count_nonzero(grade >= at))
    can = np.flatnonzero(grade == at - 1)
    order = can[np.lexsort((can, np.nan_to_num(np.asarray(distance)[can], nan=np.inf)))]
    needed = max(0, ceil(wanted * n) - have)
    steps = np.zeros(len(grade), np.int64)
    steps[order[:needed]] = 1
    after = (have + np.arange(len(order) + 1)) / max(n, 1)
    return Nearest(order.astype(np.int64), steps, needed, needed <= len(order), after)
