"""Questions of which students answer some: the best of each student's count."""

from __future__ import annotations

import numpy as np

from bridge_chart.core.arrays import Floats


def best_of(marks: Floats, count: int) -> Floats:
    """(students,) sum of each student's `count` highest marks of a set.

    marks: (students, questions of the set), none NaN; what was not answered counts 0. A count above
    the number of questions takes all. Errors: ValueError for a count below one.

    >>> best_of(np.array([[3., 0, 5], [1, 1, 1]]), 2).tolist()
    [8.0, 2.0]
    """
    held = np.asarray(marks, np.float64)
    if held.ndim != 2 or count < 1:
        raise ValueError("marks must be (students, questions), and at least one of them counts")
    if count >= held.shape[1]:
        return np.asarray(held.sum(axis=1))
    return np.asarray(-np.sort(-held, axis=1)[:, :count].sum(axis=1))
