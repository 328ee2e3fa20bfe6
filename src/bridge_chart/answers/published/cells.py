"""Cells: which figures of a wider population a narrower role may see.

A cell is the district × one year level × at most one value of one characteristic, at a sitting, as
of a release. It is published to a scope where at least FEWEST students in at least FEWEST_SCHOOLS
schools are behind it, and among those whom the scope does not see itself again as many students,
not all of one school. What is held back within a year level is never the one part that is missing
from a sum: the smallest others are held back with it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bridge_chart.access.since import FEWEST
from bridge_chart.core.arrays import Codes, Mask

FEWEST_SCHOOLS = 3
FEWEST_OTHER_SCHOOLS = 2


@dataclass(frozen=True)
class Crowd:
    """The students of a district, as far as it matters for hiding.

    school: (students,) −1 = in none; known: whose results the asker sees anyway.
    """

    school: Codes
    known: Mask

    def hides(self, behind: Mask) -> bool:
        """Whether a figure of these students tells nobody's."""
        others = behind & ~self.known
        if not others.any():
            return True
        return (
            int(np.count_nonzero(behind)) >= FEWEST
            and _schools(self.school[behind]) >= FEWEST_SCHOOLS
            and int(np.count_nonzero(others)) >= FEWEST
            and _schools(self.school[others]) >= FEWEST_OTHER_SCHOOLS
        )

    def apart(self, one: Mask, other: Mask) -> bool:
        """Whether two sets of students are the same or so different that their figures, taken
        from each other, tell nobody's."""
        left = [one & ~other & ~self.known, other & ~one & ~self.known]
        return all(not some.any() or int(np.count_nonzero(some)) >= FEWEST for some in left)


def _schools(school: Codes) -> int:
    return len(np.unique(school[school >= 0]))


def shown_values(crowd: Crowd, behind: Mask, value: Codes) -> set[int]:
    """Which values of a characteristic have a published cell within one year level, whose own
    cell is published: what is held back may not be worked out from it.

    behind: (students,) in the year level's cell; value: (students,) −1 = not known, a value too.
    """
    size = {int(v): int(np.count_nonzero(behind & (value == v))) for v in np.unique(value[behind])}
    shown = {v for v in size if crowd.hides(behind & (value == v))}
    while True:
        left = behind & ~np.isin(value, sorted(shown))
        if not left.any() or crowd.hides(left) or not shown:
            return shown
        shown.remove(min(shown, key=lambda v: (size[v], v)))


def shown_set(crowd: Crowd, sets: Sequence[Mask], asked: Mask) -> bool:
    """Whether the figures of one of a sitting's sets of students may be shown, though those of
    others are: with a score, with a target, with an earlier result. sets: in the order in which
    they are considered; asked: the one that is meant."""
    held: list[Mask] = []
    for one in sets:
        fits = all(crowd.apart(one, other) for other in held)
        if np.array_equal(one, asked):
            return fits
        if fits:
            held.append(one)
    return False
