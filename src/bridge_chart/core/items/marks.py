"""A mark sheet made ready: students by questions, with what was omitted and not reached."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bridge_chart.core.arrays import Floats, Integers, Mask

OMITTED, NOT_REACHED = -1, -2


@dataclass(frozen=True)
class MarkSheet:
    """marks: (students, questions), omitted = 0, not reached = NaN; maxima: (questions,).

    omitted, not_reached: (questions,) students.
    """

    marks: Floats
    maxima: Floats
    omitted: Integers
    not_reached: Integers

    @property
    def complete(self) -> Mask:
        """Students who reached every question."""
        return np.asarray(~np.isnan(self.marks).any(axis=1))

    def chosen(self, questions: Integers) -> MarkSheet:
        """The same students on some questions only."""
        return MarkSheet(
            self.marks[:, questions], self.maxima[questions], self.omitted[questions],
            self.not_reached[questions],
        )  # fmt: skip


def mark_sheet(marks: NDArray[np.number], maxima: Floats) -> MarkSheet:
    """Marks with −1 for omitted (counts 0) and −2 or NaN for not reached (missing).

    marks: (students, questions), maxima: (questions,) > 0. Errors: ValueError on shapes, or a
    mark that is neither a code nor in 0 … maximum.

    >>> s = mark_sheet(np.array([[1, -1], [0, -2]]), np.array([1., 2]))
    >>> s.marks.tolist(), s.omitted.tolist(), s.not_reached.tolist()
    ([[1.0, 0.0], [0.0, nan]], [0, 1], [0, 1])
    """
    table, top = np.asarray(marks, np.float64), np.asarray(maxima, np.float64)
    if table.ndim != 2 or top.shape != (table.shape[1],) or not np.all(top > 0):
        raise ValueError("marks must be (students, questions), with one maximum above 0 each")
    omitted = table == OMITTED
    unreached = (table == NOT_REACHED) | np.isnan(table)
    given = ~omitted & ~unreached
    with np.errstate(invalid="ignore"):
        wrong = given & ((table < 0) | (table > top))
    if wrong.any():
        row, question = np.argwhere(wrong)[0]
        raise ValueError(
            f"a mark must lie in 0 to the question's maximum; student {row}, question {question} "
            f"has {table[row, question]:g} of {top[question]:g} instead"
        )
    filled = np.where(unreached, np.nan, np.where(omitted, 0.0, table))
    return MarkSheet(
        filled, top, omitted.sum(axis=0).astype(np.int64), unreached.sum(axis=0).astype(np.int64)
    )
