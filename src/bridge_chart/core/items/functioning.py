"""Differential functioning: whether a question is harder for one group among equal totals."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, sums_of_rows
from bridge_chart.core.distributions import normal_quantile
from bridge_chart.core.estimate import NAN
from bridge_chart.core.items.marks import MarkSheet
from bridge_chart.core.trust.discoveries import discoveries

FEWEST_PER_GROUP = 100
DELTA = -2.35


@dataclass(frozen=True)
class Functioning:
    """One question. Right or wrong: delta = −2.35·ln(odds ratio), negative: harder for the focal
    group. difference: the matched mean difference in marks, with its error; delta is NaN where
    there are several marks. se: of what is judged, delta or else the difference.

    category: "A" slight or none, "B" moderate, "C" large, "" where not judged; stands: after
    false-discovery control over all questions.
    """

    delta: float
    difference: float
    difference_se: float
    se: float
    p: float
    category: str
    stands: bool
    flagged_in_matching: bool


@dataclass(frozen=True)
class FunctioningOfTest:
    """All questions; n_reference, n_focal: students who reached all of them."""

    questions: list[Functioning]
    n_reference: int
    n_focal: int
    missing: int
    reason: str = ""


def differential_functioning(sheet: MarkSheet, focal: Codes) -> FunctioningOfTest:
    """Whether students with equal totals do unequally on a question, by group.

    Right or wrong: Mantel & Haenszel (1959) over total scores, variance by Robins, Breslow &
    Greenland (1986). Several marks: matched mean difference, focal weights (Dorans & Schmitt
    1991). Matching is on the total with the studied question in it; questions flagged (B or C) in
    the first pass leave the total in the second, except while they are studied. Strata without both
    groups are merged with the neighbour below (the first with the one above). Categories
    (Zieky 1993): A |Δ| < 1 or not different from 0 at 5%; C |Δ| ≥ 1.5 and |Δ| − 1.645·SE > 1;
    else B. Several marks: the same with |difference| ÷ maximum, .05 and .10 in place of 1 and 1.5.

    focal: (students,) 1 focal, 0 reference, −1 neither. Fewer than 100 students a group: not
    judged, with the reason.

    >>> from bridge_chart.core.items.marks import mark_sheet
    >>> sheet = mark_sheet(np.ones((50, 3)), np.ones(3))
    >>> differential_functioning(sheet, np.repeat([0, 1], 25)).reason
    'fewer than 100 students in a group'
    """
    focal = np.asarray(focal)
    if focal.shape != (len(sheet.marks),) or np.any((focal < -1) | (focal > 1)):
        raise ValueError("focal must hold one 1, 0 or -1 per student")
    rows = sheet.complete & (focal >= 0)
    marks, group = sheet.marks[rows], focal[rows] == 1
    missing = int(np.count_nonzero(focal >= 0)) - len(marks)
    n_focal, n_reference = int(group.sum()), int((~group).sum())
    if min(n_focal, n_reference) < FEWEST_PER_GROUP:
        said = f"fewer than {FEWEST_PER_GROUP} students in a group"
        return FunctioningOfTest([], n_reference, n_focal, missing, said)
    every = np.arange(marks.shape[1])
    right_or_wrong = np.all((marks == 0) | (marks == 1), axis=0) & (sheet.maxima == 1)
    flagged = np.zeros(len(every), bool)
    found: list[tuple[float, float, float, float]] = []
    spread: list[float] = []
    for _ in range(2):
        kept = marks[:, ~flagged].sum(axis=1)
        shared = _counted(marks, merged_strata(kept, group), group)
        both = []
        for q in range(len(every)):
            # A question that counts is in the total already; one that was removed comes back.
            held, at = shared, q
            if flagged[q]:
                own = marks[:, [q]]
                held, at = _counted(own, merged_strata(kept + own[:, 0], group), group), 0
            both.append(_one(held, at, bool(right_or_wrong[q]), sheet.maxima[q]))
        found, spread = [figures for figures, _ in both], [error for _, error in both]
        categories = [_category(*figures, sheet.maxima[q]) for q, figures in enumerate(found)]
        before, flagged = flagged, np.array([c in ("B", "C") for c in categories])
        if flagged.all():
            flagged = before
            break
    stands = discoveries(np.array([figures[3] for figures in found]))
    questions = [
        Functioning(delta, difference, spread[q], se, p, category, bool(stands[q]), bool(before[q]))
        for q, ((delta, difference, se, p), category) in enumerate(
            zip(found, categories, strict=True)
        )
    ]
    return FunctioningOfTest(questions, n_reference, n_focal, missing)


@dataclass(frozen=True)
class _Counted:
    """n: (strata, reference and focal); total, squares: (strata, both, questions) Σ of marks and of
    their squares."""

    n: Floats
    total: Floats
    squares: Floats


def _counted(marks: Floats, stratum: Integers, focal: Mask) -> _Counted:
    """All questions at once."""
    strata, code = int(stratum.max()) + 1, 2 * stratum + focal
    n = np.bincount(code, minlength=2 * strata).astype(np.float64).reshape(strata, 2)
    shape = (strata, 2, marks.shape[1])
    total, squares = (
        sums_of_rows(one, code, 2 * strata).reshape(shape) for one in (marks, marks**2)
    )
    return _Counted(n, total, squares)


def _one(
    held: _Counted, at: int, right_or_wrong: bool, maximum: float
) -> tuple[tuple[float, float, float, float], float]:
    """Δ, difference, SE (of Δ, or of the difference) and p; and the SE of the difference."""
    total, squares = held.total[:, :, at], held.squares[:, :, at]
    delta, se = _mantel_haenszel(held.n, total) if right_or_wrong else (NAN, NAN)
    difference, spread = _matched_difference(held.n, total, squares)
    error = se if right_or_wrong else spread
    size = delta if right_or_wrong else difference
    p = 2 * _upper_tail(abs(size / error)) if error > 0 else NAN
    return (delta, difference, error, p), spread


def _upper_tail(z: float) -> float:
    from scipy.special import ndtr

    return float(ndtr(-z))


def merged_strata(total: Floats, focal: Mask) -> Integers:
    """Strata of equal total, those without both groups merged with the one below.

    >>> merged_strata(np.array([1., 1, 2, 3, 3]), np.array([True, False, True, True, False]))
    array([0, 0, 0, 1, 1])
    """
    values, place = np.unique(total, return_inverse=True)
    there = np.bincount(place[focal], minlength=len(values))
    away = np.bincount(place[~focal], minlength=len(values))
    joined = np.zeros(len(values), np.int64)
    current, has = 0, [0, 0]
    for k in range(len(values)):  # over distinct totals
        mine = [int(there[k]), int(away[k])]
        if k and min(has) > 0 and min(mine) > 0:
            current, has = current + 1, [0, 0]
        joined[k] = current
        has = [has[0] + mine[0], has[1] + mine[1]]
    out: Integers = joined[place]
    return out


def _mantel_haenszel(sizes: Floats, right: Floats) -> tuple[float, float]:
    """Δ = −2.35·ln α and its error; α: odds of the reference group over the focal. Both (strata,
    reference and focal): how many there are, and how many are right."""
    (a, c), (b, d) = right.T, (sizes - right).T
    n = a + b + c + d
    r, s = a * d / n, b * c / n
    top, bottom = float(r.sum()), float(s.sum())
    if not (top > 0 and bottom > 0):
        return NAN, NAN
    p, q = (a + d) / n, (b + c) / n
    variance = (
        float(p @ r) / (2 * top**2)
        + float(p @ s + q @ r) / (2 * top * bottom)
        + float(q @ s) / (2 * bottom**2)
    )
    return DELTA * float(np.log(top / bottom)), abs(DELTA) * float(np.sqrt(variance))


def _matched_difference(n: Floats, total: Floats, squares: Floats) -> tuple[float, float]:
    """Σ w_k (x̄_focal − x̄_reference), w_k the focal group's share in stratum k, and its error."""
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = total / n
        variance = np.maximum(squares - n * mean**2, 0.0) / np.maximum(n - 1, 1) / n
    w = n[:, 1] / n[:, 1].sum()
    both = (n > 0).all(axis=1)
    value = float(np.sum(w[both] * (mean[both, 1] - mean[both, 0])))
    error = float(np.sqrt(np.sum(w[both] ** 2 * variance[both].sum(axis=1))))
    return value, error


def _category(delta: float, difference: float, se: float, p: float, maximum: float) -> str:
    firm = normal_quantile(0.95)
    if np.isnan(p):
        return ""
    if np.isnan(delta):
        size = abs(difference) / maximum
        small, large, error = 0.05, 0.10, se / maximum
        beyond = size - firm * error > small
    else:
        size, small, large = abs(delta), 1.0, 1.5
        beyond = size - firm * se > small
    if size < small or p > 0.05:
        return "A"
    return "C" if size >= large and beyond else "B"
