"""Each question: how hard it was, and how well it tells students apart."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes, sums_of_rows
from bridge_chart.core.describing.shares import wilson
from bridge_chart.core.distributions import t_quantile
from bridge_chart.core.items.marks import MarkSheet


@dataclass(frozen=True)
class Facility:
    """(groups, questions): mean mark ÷ maximum with its interval; n reached it."""

    n: Integers
    missing: Integers
    facility: Floats
    low: Floats
    high: Floats


def facility(sheet: MarkSheet, codes: Codes, groups: int, confidence: float = 0.95) -> Facility:
    """Mean mark ÷ maximum of each question in each group, over those who reached it.

    Right or wrong (maximum 1, whole marks): Wilson's interval (1927); else mean ± t·s/√n, clipped
    to 0 … 1. Omitted counts 0. codes: (students,), −1 = in no group.

    >>> from bridge_chart.core.items.marks import mark_sheet
    >>> f = facility(mark_sheet(np.array([[1, 2], [0, 4]]), np.array([1., 4])), np.zeros(2, int), 1)
    >>> f.facility.tolist(), f.low.round(4).tolist()
    ([[0.5, 0.75]], [[0.0945, 0.0]])
    """
    check_codes(codes, len(sheet.marks), groups)
    reached = ~np.isnan(sheet.marks)
    marks = np.where(reached, sheet.marks, 0.0)
    n = np.rint(sums_of_rows(reached.astype(np.float64), codes, groups)).astype(np.int64)
    total, squares = (sums_of_rows(one, codes, groups) for one in (marks, marks**2))
    size = np.where(n > 0, n, np.nan).astype(np.float64)
    mean = total / size
    with np.errstate(invalid="ignore", divide="ignore"):
        spread = np.sqrt(np.maximum(squares - size * mean**2, 0.0) / (size - 1) / size)
    df = np.where(n > 1, n - 1.0, np.nan)
    reach = t_quantile(0.5 + confidence / 2, df) * spread
    low = np.clip(mean - reach, 0, sheet.maxima) / sheet.maxima
    high = np.clip(mean + reach, 0, sheet.maxima) / sheet.maxima
    whole = np.all((marks == 0) | (marks == 1), axis=0) & (sheet.maxima == 1)
    _, w_low, w_high = wilson(np.rint(total[:, whole]).astype(np.int64), n[:, whole], confidence)
    low[:, whole], high[:, whole] = w_low, w_high
    every = np.bincount(codes[codes >= 0], minlength=groups)[:, None]
    return Facility(n, every - n, mean / sheet.maxima, low, high)


def item_rest_correlation(sheet: MarkSheet) -> Floats:
    """Correlation of each question with the sum of the others, over students who reached all.

    (questions,); NaN where a question, or the rest, does not vary, or fewer than three students.

    >>> from bridge_chart.core.items.marks import mark_sheet
    >>> s = mark_sheet(np.array([[1, 1, 1], [1, 1, 0], [1, 0, 0], [0, 0, 0]]), np.ones(3))
    >>> item_rest_correlation(s).round(6).tolist()
    [0.522233, 0.707107, 0.522233]
    """
    table = sheet.marks[sheet.complete]
    if len(table) < 3:
        return np.full(sheet.marks.shape[1], np.nan)
    away = table - table.mean(axis=0)
    cross = away.T @ away
    own = np.diag(cross)
    with_rest = cross.sum(axis=1) - own
    rest = cross.sum() - 2 * cross.sum(axis=1) + own
    tiny = 1e-12 * float(np.trace(cross))
    held = (own > tiny) & (rest > tiny)
    out = np.full(len(own), np.nan)
    out[held] = with_rest[held] / np.sqrt(own[held] * rest[held])
    return out


@dataclass(frozen=True)
class OptionChoice:
    """share: (thirds, questions, options) low, middle, high third by total; n: (thirds,).

    A wrong option that the top third takes as often as the bottom third asks to be read again.
    """

    share: Floats
    counts: Integers
    n: Integers
    draws_the_best: list[tuple[int, int]]


def option_choice(options: Codes, key: Integers, totals: Floats, count: int) -> OptionChoice:
    """Share of each third (by total score) that chose each option.

    options: (students, questions) codes 0 … count − 1, −1 = none chosen (in n, in no option);
    key: (questions,) the right option; totals: (students,), NaN left out. Thirds by total, equal
    totals never split. draws_the_best: (question, wrong option) that more of the top third chose
    than of the bottom third.

    >>> o = option_choice(np.array([[0], [0], [1], [1]]), np.array([1]), np.array([1., 1, 2, 3]), 2)
    >>> o.n.tolist(), o.share[:, 0, 1].tolist()
    ([2, 1, 1], [0.0, 1.0, 1.0])
    """
    chosen, right = np.asarray(options, np.int64), np.asarray(key, np.int64)
    if chosen.ndim != 2 or right.shape != (chosen.shape[1],) or len(totals) != len(chosen):
        raise ValueError("options must be (students, questions), with one key per question")
    if chosen.size and (chosen.min() < -1 or chosen.max() >= count):
        raise ValueError(f"options must lie in -1 to {count - 1}")
    held = ~np.isnan(totals)
    t = np.asarray(totals, np.float64)[held]
    cuts = np.quantile(t, (1 / 3, 2 / 3)) if len(t) else np.zeros(2)
    third = np.searchsorted(cuts, t, side="left")
    n = np.bincount(third, minlength=3).astype(np.int64)
    questions = chosen.shape[1]
    place = third[:, None] * questions * (count + 1) + np.arange(questions) * (count + 1)
    cells = np.bincount((place + chosen[held] + 1).ravel(), minlength=3 * questions * (count + 1))
    counts = cells.reshape(3, questions, count + 1)[:, :, 1:].astype(np.int64)
    with np.errstate(invalid="ignore", divide="ignore"):
        share = counts / np.where(n > 0, n, np.nan)[:, None, None]
    better = share[2] > share[0]
    better[np.arange(questions), right] = False
    return OptionChoice(share, counts, n, [(int(q), int(o)) for q, o in np.argwhere(better)])


def grid_order(sheet: MarkSheet) -> tuple[Integers, Integers]:
    """Order of students (best first) and questions (easiest first), so that a grid of marks shows
    a staircase: what stands out against it is worth a look.

    Students by share of the marks they could reach, questions by facility; ties by file order;
    whoever reached nothing comes last.

    >>> from bridge_chart.core.items.marks import mark_sheet
    >>> rows, columns = grid_order(mark_sheet(np.array([[0, 1], [1, 1], [0, 0]]), np.ones(2)))
    >>> rows.tolist(), columns.tolist()
    ([1, 0, 2], [1, 0])
    """
    reached = ~np.isnan(sheet.marks)
    marks = np.where(reached, sheet.marks, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        student = marks.sum(axis=1) / (reached @ sheet.maxima)
        question = marks.sum(axis=0) / (reached.sum(axis=0) * sheet.maxima)
    student, question = np.nan_to_num(student, nan=-1.0), np.nan_to_num(question, nan=-1.0)
    return np.argsort(-student, kind="stable"), np.argsort(-question, kind="stable")


def borderline(totals: Floats, boundary: float, within: float) -> tuple[Integers, Integers]:
    """Students just below and just above a boundary, nearest first.

    below: boundary − within ≤ total < boundary; above: boundary ≤ total ≤ boundary + within.
    `within`: marks, best taken from the error of measurement: nearer than that they could as well
    stand on the other side. NaN in neither. Errors: ValueError where within is negative.

    >>> below, above = borderline(np.array([47., 49, 50, 52, 60]), 50, 2)
    >>> below.tolist(), above.tolist()
    ([1], [2, 3])
    """
    if within < 0:
        raise ValueError(f"within must not be negative; it is {within} instead")
    t = np.asarray(totals, np.float64)
    distance = np.abs(t - boundary)
    below = np.flatnonzero((t < boundary) & (distance <= within))
    above = np.flatnonzero((t >= boundary) & (distance <= within))
    return (
        below[np.argsort(distance[below], kind="stable")],
        above[np.argsort(distance[above], kind="stable")],
    )
