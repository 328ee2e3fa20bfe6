"""Where a result stands against a target, in grade steps."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, check_codes

STATUSES = ("two or more below", "one below", "on, lower half", "on, upper half", "above")


@dataclass(frozen=True)
class TargetStatus:
    """status: (students,) index into STATUSES, −1 = no result or no target.

    steps: grades above (+) or below (−) the target; points: the same in the grades' points; both
    NaN where unknown. counts: (groups, 5); n, missing: (groups,).
    """

    status: Integers
    steps: Floats
    points: Floats
    counts: Integers
    n: Integers
    missing: Integers


def target_status(
    grade: Codes,
    target: Codes,
    points: Floats,
    codes: Codes,
    groups: int,
    upper_half: Mask | None = None,
) -> TargetStatus:
    """above; on, upper or lower half; one below; two or more below.

    grade, target: (students,) codes in rising order, −1 = none; points: (grades,). upper_half:
    (students,) whether the result lies in the upper half of its grade (finer steps); without it
    every result on target counts as lower half. Errors: ValueError on codes or points.

    >>> s = target_status(np.array([3, 2, 0, -1]), np.array([2, 2, 2, 2]), np.arange(4.) * 10,
    ...                   np.zeros(4, int), 1, np.array([False, True, False, False]))
    >>> [STATUSES[k] for k in s.status[:3]], s.points[:3].tolist(), s.missing.tolist()
    (['above', 'on, upper half', 'two or more below'], [10.0, 0.0, -20.0], [1])
    """
    worth = np.asarray(points, np.float64)
    if np.isnan(worth).any():
        raise ValueError("every grade must have points")
    check_codes(grade, len(target), len(worth))
    check_codes(target, len(grade), len(worth))
    check_codes(codes, len(grade), groups)
    known = (grade >= 0) & (target >= 0)
    steps = np.where(known, grade.astype(np.float64) - target, np.nan)
    apart = np.where(known, worth[grade] - worth[target], np.nan)
    upper = np.zeros(len(grade), bool) if upper_half is None else np.asarray(upper_half, bool)
    status = np.select([steps > 0, steps == 0, steps == -1], [4, np.where(upper, 3, 2), 1], 0)
    status = np.where(known, status, -1).astype(np.int64)
    held = known & (codes >= 0)
    cell = codes[held].astype(np.int64) * 5 + status[held]
    counts = np.bincount(cell, minlength=groups * 5).reshape(groups, 5).astype(np.int64)
    n = counts.sum(axis=1)
    every = np.bincount(codes[codes >= 0], minlength=groups)
    return TargetStatus(status, steps, apart, counts, n, every - n)
