"""What it would take: the fewest students, or the fewest steps, to reach a wanted figure."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise
from math import ceil, lcm

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes

NOT_REACHABLE = "not reachable"
MOST_CELLS = 60_000_000


@dataclass(frozen=True)
class Reach:
    """An answer: students to move, by how many steps each (0 = none), and the figure then.

    reachable False: even with everyone at the top the figure stays below what is wanted, or
    nobody has a result. moved: how many students; steps_total: how many steps altogether.
    """

    reachable: bool
    moved: int
    steps_total: int
    steps: Integers
    figure_now: Fraction | None
    figure_then: Fraction | None
    reason: str = ""


def _none(n: int, now: Fraction | None, reason: str = NOT_REACHABLE) -> Reach:
    return Reach(False, 0, 0, np.zeros(n, np.int64), now, None, reason)


def reach_share(grade: Codes, at_least: int, wanted: Fraction, distance: Floats) -> Reach:
    """Fewest students to bring to a grade so that the share at or above it is at least `wanted`.

    The number needed is ⌈wanted·n⌉ in exact fractions (never in floats: .7·10 is not 7 there). Who:
    those nearest below, by fewest steps, then by smallest `distance` (points or marks missing;
    then file order). For a share these are also the fewest steps. grade: (students,), −1 = no
    result (not in n, cannot count). Errors: ValueError where wanted is not in 0 … 1.

    >>> r = reach_share(np.array([0, 1, 1, 2, 3]), 2, Fraction(3, 5), np.array([9., 4, 2, 0, 0]))
    >>> r.moved, r.steps.tolist(), r.figure_then
    (1, [0, 0, 1, 0, 0], Fraction(3, 5))
    """
    if not isinstance(wanted, Fraction) or not 0 <= wanted <= 1:
        raise ValueError("wanted must be a fraction in 0 to 1")
    grade = np.asarray(grade)
    known = grade >= 0
    n = int(np.count_nonzero(known))
    if n == 0:
        return _none(len(grade), None, "nobody has a result")
    have = int(np.count_nonzero(known & (grade >= at_least)))
    need = max(0, ceil(wanted * n) - have)
    below = np.flatnonzero(known & (grade < at_least))
    order = below[np.lexsort((below, np.asarray(distance)[below], -grade[below]))]
    chosen = order[:need]
    steps = np.zeros(len(grade), np.int64)
    steps[chosen] = at_least - grade[chosen]
    now, then = Fraction(have, n), Fraction(have + need, n)
    return Reach(True, need, int(steps.sum()), steps, now, then)


def _gains(grade: Codes, points: list[Fraction]) -> tuple[Integers, list[int], int]:
    """Students per grade, points as integers on one footing, and that footing."""
    footing = lcm(*[p.denominator for p in points])
    whole = [int(p * footing) for p in points]
    if any(b <= a for a, b in pairwise(whole)):
        raise ValueError("points must rise strictly from grade to grade")
    held = np.asarray(grade)[np.asarray(grade) >= 0]
    return np.bincount(held, minlength=len(points)).astype(np.int64), whole, footing


def reach_mean_fewest_students(grade: Codes, points: list[Fraction], wanted: Fraction) -> Reach:
    """Fewest students to move so that the mean of points is at least `wanted`; nobody passes the
    top grade. Those who can gain most go first (to the top), the last one only as far as needed:
    exact, since only how much each student can gain matters. grade: −1 = no result (not in n).

    >>> r = reach_mean_fewest_students(np.array([0, 1, 2]), [Fraction(k) for k in range(4)],
    ...                                Fraction(2))
    >>> r.moved, r.steps.tolist(), r.figure_then
    (1, [3, 0, 0], Fraction(2, 1))
    """
    counts, whole, footing = _gains(grade, points)
    grade = np.asarray(grade)
    check_codes(grade, len(grade), len(points))
    n = int(counts.sum())
    if n == 0:
        return _none(len(grade), None, "nobody has a result")
    total = sum(int(c) * w for c, w in zip(counts, whole, strict=True))
    need = ceil(wanted * n * footing) - total
    now = Fraction(total, n * footing)
    steps = np.zeros(len(grade), np.int64)
    if need > n * whole[-1] - total:
        return _none(len(grade), now)
    order = np.flatnonzero(grade >= 0)
    order = order[np.argsort(grade[order], kind="stable")]
    got, moved = 0, 0
    while got < need:
        student = order[moved]
        at = int(grade[student])
        far = len(whole) - 1
        while far - 1 > at and got + whole[far - 1] - whole[at] >= need:
            far -= 1
        steps[student] = far - at
        got += whole[far] - whole[at]
        moved += 1
    return Reach(True, moved, int(steps.sum()), steps, now, Fraction(total + got, n * footing))


def reach_mean_fewest_steps(grade: Codes, points: list[Fraction], wanted: Fraction) -> Reach:
    """Fewest grade steps, over all students, so that the mean of points is at least `wanted`.

    Exact for any points: the best gain that exactly s steps can bring, first for one student of
    each grade, then for all of that grade, then for all grades (max-plus convolution). Of equal
    answers the one that moves students nearest the top. Errors: ValueError where points do not
    rise, or the problem is too large (steps² × grades beyond 6·10⁷).

    >>> r = reach_mean_fewest_steps(np.array([0, 0, 1]), [Fraction(0), Fraction(1), Fraction(5)],
    ...                             Fraction(2))
    >>> r.steps_total, r.steps.tolist(), r.figure_then
    (2, [1, 0, 1], Fraction(2, 1))
    """
    counts, whole, footing = _gains(grade, points)
    grade = np.asarray(grade)
    n = int(counts.sum())
    if n == 0:
        return _none(len(grade), None, "nobody has a result")
    top = len(whole) - 1
    total = sum(int(c) * w for c, w in zip(counts, whole, strict=True))
    need = max(0, ceil(wanted * n * footing) - total)
    now = Fraction(total, n * footing)
    if need > n * whole[-1] - total:
        return _none(len(grade), now)
    least = min(b - a for a, b in pairwise(whole))
    most = min(-(-need // least), sum(int(c) * (top - g) for g, c in enumerate(counts)))
    if (most + 1) ** 2 * (top + 1) > MOST_CELLS:
        raise ValueError("too many students and steps to search exactly: ask for one group")
    best = np.full(most + 1, -1, np.int64)
    best[0] = 0
    tables: list[tuple[int, list[Integers]]] = []
    for g in range(top - 1, -1, -1):
        single = np.array([whole[k] - whole[g] for k in range(g, top + 1)], np.int64)[: most + 1]
        layers = [best]
        for _ in range(int(min(counts[g], most))):  # over students of a grade who may move
            best = _convolved(best, single)
            layers.append(best)
            if np.array_equal(layers[-1], layers[-2]):
                break
        tables.append((g, layers))
    enough = np.flatnonzero(best >= need)
    used = int(enough[0])
    got = int(best[used])
    steps = _traced(grade, tables, whole, used, got)
    return Reach(
        True, int(np.count_nonzero(steps)), used, steps, now, Fraction(total + got, n * footing)
    )


def _convolved(best: Integers, single: Integers) -> Integers:
    """Best gain of s steps when one more student may take 0 … len(single) − 1 of them."""
    out = best.copy()
    for k in range(1, len(single)):
        shifted = best[:-k]
        tried = np.where(shifted >= 0, shifted + single[k], -1)
        out[k:] = np.maximum(out[k:], tried)
    return out


def _traced(
    grade: Codes, tables: list[tuple[int, list[Integers]]], whole: list[int], used: int, got: int
) -> Integers:
    """Back from the answer to who takes how many steps."""
    steps = np.zeros(len(grade), np.int64)
    for g, layers in reversed(tables):
        students = iter(np.flatnonzero(grade == g))
        for before in layers[-2::-1]:
            for k in range(min(used, len(whole) - 1 - g) + 1):
                if before[used - k] >= 0 and before[used - k] + whole[g + k] - whole[g] == got:
                    if k:
                        steps[next(students)] = k
                    used, got = used - k, got - (whole[g + k] - whole[g])
                    break
    return steps
