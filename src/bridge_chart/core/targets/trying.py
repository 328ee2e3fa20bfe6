"""Trying a change: what the figures would be if some results were others."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers
from bridge_chart.core.describing.describe import Moments, moments


@dataclass(frozen=True)
class Tried:
    """Groups' figures as they are, with the model held fixed, and refitted.

    changed: how many students' outcomes differ. Held fixed is the answer to the try; refitted
    shows how far the edits move the yardstick itself.
    """

    now: Moments
    held_fixed: Moments
    refitted: Moments
    changed: int


def try_edits(
    outcome: Floats,
    expected: Floats,
    rows: Integers,
    values: Floats,
    codes: Codes,
    groups: int,
    refit: Callable[[Floats], Floats],
) -> Tried:
    """Group means of outcome − expected before and after some outcomes are set to other values.

    expected: (students,) of the model as kept, not moved by the try; refit: outcome → expected, the
    same model fitted anew. Nothing is changed in place. rows: positions; values: NaN takes a
    result away. Errors: ValueError on doubled or unknown positions.

    >>> y = np.array([1., 2, 3, 4]); mean = lambda v: np.full(4, np.nanmean(v))
    >>> t = try_edits(y, mean(y), np.array([0]), np.array([5.]), np.repeat([0, 1], 2), 2, mean)
    >>> t.now.mean.tolist(), t.held_fixed.mean.tolist(), t.refitted.mean.tolist()
    ([-1.0, 1.0], [1.0, 1.0], [0.0, 0.0])
    """
    outcome, expected = np.asarray(outcome, np.float64), np.asarray(expected, np.float64)
    rows, values = np.asarray(rows, np.int64), np.asarray(values, np.float64)
    if rows.shape != values.shape or len(np.unique(rows)) != len(rows):
        raise ValueError("rows must be different students, with one value each")
    if len(rows) and (rows.min() < 0 or rows.max() >= len(outcome)):
        raise ValueError(f"rows must lie in 0 to {len(outcome) - 1}")
    edited = outcome.copy()
    edited[rows] = values
    same = (edited == outcome) | (np.isnan(edited) & np.isnan(outcome))
    return Tried(
        moments(outcome - expected, codes, groups),
        moments(edited - expected, codes, groups),
        moments(edited - np.asarray(refit(edited), np.float64), codes, groups),
        int(np.count_nonzero(~same)),
    )
