"""A condition with everything found: a mask over all students, and its words."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from bridge_chart.core.arrays import Mask
from bridge_chart.terms import question as q


@dataclass(frozen=True, eq=False)
class Filter:
    """One condition. Its mask is made when it is first looked at.

    asked: the condition with ids. place: it names a school, a class, a teacher, a group or a
    student. decided: makes the mask of those of whom it can be said; None: of everybody.
    """

    asked: q.Condition
    text: str
    make: Callable[[], Mask]
    place: bool = False
    decided: Callable[[], Mask] | None = None

    @cached_property
    def mask(self) -> Mask:
        """(students,) whom it holds for."""
        return self.make()

    def known(self, students: int) -> Mask:
        """(students,) of whom it can be said whether it holds."""
        return np.ones(students, bool) if self.decided is None else self.decided()


def holds(filters: Sequence[Filter], students: int) -> Mask:
    """(students,) whom every condition holds for."""
    out = np.ones(students, bool)
    for one in filters:
        out &= one.mask
    return out


def known(filters: Sequence[Filter], students: int) -> Mask:
    """(students,) of whom it can be said of every condition whether it holds."""
    out = np.ones(students, bool)
    for one in filters:
        if one.decided is not None:
            out &= one.decided()
    return out
