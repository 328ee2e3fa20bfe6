"""The distribution that a yardstick expects of the same students."""

from __future__ import annotations

import numpy as np
from scipy.special import ndtr

from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.what.nation import tables_for
from bridge_chart.core.arrays import Floats, Integers


def expected_above(part: Slice, mine: Integers, points: Floats) -> list[float]:
    """The share that would be at or above each score: of a start each student's expectation with
    the error of prediction around it, of the nation its mean and spread, of a target or an earlier
    sitting what it says. Nothing without a yardstick for each student.

    mine: positions of those counted; points: the scores.
    """
    held = part.out.held
    if held is None or not len(mine):
        return []
    middle = np.asarray(held.expected)[mine]
    spread = _spread(part)[mine]
    if np.isnan(middle).any() or np.isnan(spread).any():
        return []
    out = []
    for point in points.tolist():
        away = middle - point
        with np.errstate(divide="ignore", invalid="ignore"):
            chance = np.where(spread > 0, ndtr(away / spread), away >= 0)
        out.append(float(chance.mean()))
    return out


def _spread(part: Slice) -> Floats:
    """(students,) how far around it results lie: 0 where it is a figure of their own."""
    view, held = part.view, part.out.held
    assert held is not None
    if held.fit is not None:
        return np.asarray(held.fit.error)
    out = np.zeros(view.snapshot.students)
    if view.yardstick is not None and view.yardstick.kind == "nation":
        out[:] = np.nan
        for rows, table in tables_for(view.snapshot, view.measure, view.quantity.score):
            if table.sd is not None and table.sd > 0:
                out[rows] = table.sd
    return out
