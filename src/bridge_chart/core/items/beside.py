"""Groups beside others on each question: how far apart, as sure as students and classes allow."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, sums_of_rows
from bridge_chart.core.distributions import t_quantile, t_two_sided


@dataclass(frozen=True)
class Spread:
    """(questions,): variance within a class and between classes; df: of the one within."""

    within: Floats
    between: Floats
    df: Floats


@dataclass(frozen=True)
class Beside:
    """(groups, questions): the group's mean minus that of its rest, with interval and p; rest: that
    mean; n and rest_n reached the question. NaN where either has nobody, or nothing varies."""

    n: Integers
    rest_n: Integers
    rest: Floats
    span: Floats
    low: Floats
    high: Floats
    p: Floats


def spread_of(share: Floats, classes: Codes) -> Spread:
    """How marks vary within and between classes, for each question by itself.

    share: (students, questions) mark ÷ maximum, NaN = not reached; classes: (students,) −1 =
    unknown. One-way analysis of variance by moments (Searle, Casella & McCulloch 1992, ch. 3):
    between = (mean square between − within) / n₀, never below 0. Whoever has no known class is a
    class of their own together: they say something of the variance within, nothing of the other.

    >>> s = spread_of(np.array([[0.], [1], [1], [1]]), np.array([0, 0, 1, 1]))
    >>> s.within.tolist(), s.between.tolist(), s.df.tolist()
    ([0.25], [0.0], [2.0])
    """
    there = ~np.isnan(share)
    values = np.where(there, share, 0.0)
    known = int(classes.max(initial=-1)) + 1
    place = np.where(classes < 0, known, classes)
    count = known + 1
    n = sums_of_rows(there.astype(np.float64), place, count)
    total = sums_of_rows(values, place, count)
    inside = (values**2).sum(axis=0) - (total**2 / np.where(n > 0, n, 1)).sum(axis=0)
    filled = (n > 0).sum(axis=0)
    size = n.sum(axis=0)
    with np.errstate(invalid="ignore", divide="ignore"):
        df = size - filled
        within = np.maximum(inside, 0.0) / np.where(df > 0, df, np.nan)
        nk, tk = n[:known], total[:known]
        k, all_n = (nk > 0).sum(axis=0), nk.sum(axis=0)
        mean = tk.sum(axis=0) / all_n
        square = (nk * (tk / np.where(nk > 0, nk, 1) - mean) ** 2).sum(axis=0) / (k - 1)
        typical = (all_n - (nk**2).sum(axis=0) / all_n) / (k - 1)
        between = np.maximum((square - within) / typical, 0.0)
    return Spread(within, np.where(k > 1, between, 0.0), df.astype(np.float64))


def beside_rest(
    share: Floats, members: Mask, others: Mask, classes: Codes, *, confidence: float = 0.95
) -> Beside:
    """Each group minus those of `others` who are not in it, question by question.

    share: (students, questions) mark ÷ maximum, NaN = not reached; members: (groups, students);
    others: (students,); classes: (students,) −1 = unknown. The variance of a difference is
    within·(1/n + 1/m) + between·Σ w²: w is by how much more of the group than of its rest is in a
    class. Who is judged is fixed: where a whole group is in one class, that class is no draw.
    Interval and p by Student's t. Errors: ValueError on shapes.

    >>> share = np.repeat([[1.], [0], [1], [0]], 10, axis=0)[[*range(10), *range(30)]]
    >>> members = np.arange(40)[None, :] < 20
    >>> b = beside_rest(share, members, np.ones(40, bool), np.full(40, -1))
    >>> b.n.tolist(), b.rest_n.tolist(), b.span.tolist(), round(float(b.p[0, 0]), 3)
    ([[20]], [[20]], [[0.5]], 0.001)
    """
    if members.shape[1:] != others.shape or len(share) != len(others):
        raise ValueError("members must be (groups, students), with others and marks for each")
    used = others | members.any(axis=0)
    spread = spread_of(share[used], classes[used])
    everyone = _Held.of(share, others, classes)
    squares = (everyone.by_class**2).sum(axis=0)
    shape = (len(members), share.shape[1])
    n, rest_n = np.zeros(shape, np.int64), np.zeros(shape, np.int64)
    rest, span, variance = (np.full(shape, np.nan) for _ in range(3))
    owns = _each(share, members, classes)
    within = not (members & ~others).any()
    both = owns if within else _each(share, members & others, classes)
    for at, (own, shared) in enumerate(zip(owns, both, strict=True)):
        n[at], rest_n[at] = own.n, everyone.n - shared.n
        with np.errstate(invalid="ignore", divide="ignore"):
            rest[at] = (everyone.sum - shared.sum) / rest_n[at]
            span[at] = own.sum / own.n - rest[at]
            students = spread.within * (1 / own.n + 1 / rest_n[at])
            leaning = _leaning(own, shared, everyone, squares)
        variance[at] = students + spread.between * leaning
    with np.errstate(invalid="ignore", divide="ignore"):
        error = np.sqrt(np.where(variance > 0, variance, np.nan))
        reach = t_quantile(0.5 + confidence / 2, np.where(spread.df > 0, spread.df, np.nan)) * error
        p = t_two_sided(span / error, spread.df)
    return Beside(
        n, rest_n, rest, span, np.clip(span - reach, -1, 1), np.clip(span + reach, -1, 1), p
    )  # fmt: skip


@dataclass(frozen=True)
class _Held:
    """(questions,) n and sum of some students; classes: those that they are in; by_class:
    (classes, questions) how many of them are in each."""

    n: Floats
    sum: Floats
    classes: Codes
    by_class: Floats

    @classmethod
    def of(cls, share: Floats, mask: Mask, classes: Codes) -> _Held:
        values = share[mask]
        there = ~np.isnan(values)
        place = classes[mask]
        found, code = np.unique(place, return_inverse=True)
        counts = sums_of_rows(there.astype(np.float64), code, len(found))
        known = found >= 0
        return cls(
            there.sum(axis=0), np.where(there, values, 0.0).sum(axis=0), found[known],
            counts[known],
        )  # fmt: skip


def _each(share: Floats, members: Mask, classes: Codes) -> list[_Held]:
    """Of each group; groups that share nobody are gone through at once, by group and class."""
    if (members.sum(axis=0) > 1).any():
        return [_Held.of(share, mine, classes) for mine in members]
    held = members.any(axis=0)
    size = int(classes.max(initial=-1)) + 2
    key = members.argmax(axis=0)[held] * size + classes[held] + 1
    found, code = np.unique(key, return_inverse=True)
    values = share[held]
    there = ~np.isnan(values)
    counts = sums_of_rows(there.astype(np.float64), code, len(found))
    sums = sums_of_rows(np.where(there, values, 0.0), code, len(found))
    ends = np.searchsorted(found, np.arange(len(members) + 1) * size)
    out = []
    for first, last in zip(ends[:-1].tolist(), ends[1:].tolist(), strict=True):
        own = found[first:last] % size - 1
        n, known = counts[first:last], own >= 0
        out.append(
            _Held(n.sum(axis=0), sums[first:last].sum(axis=0), own[known], n[known])
        )  # fmt: skip
    return out


def _leaning(own: _Held, shared: _Held, everyone: _Held, squares: Floats) -> Floats:
    """Σ w² over the classes. Only a group's own classes differ from those of everyone's rest."""
    rest_n = everyone.n - shared.n
    of_all = _in_classes(everyone, own.classes)
    total = squares / rest_n**2 - ((of_all / rest_n) ** 2).sum(axis=0)
    if len(own.classes) > 1:
        lean = own.by_class / own.n - (of_all - _in_classes(shared, own.classes)) / rest_n
        total = total + (lean**2).sum(axis=0)
    return np.asarray(np.maximum(total, 0.0), np.float64)


def _in_classes(held: _Held, classes: Codes) -> Floats:
    """(classes, questions) how many of some students are in each of the classes."""
    at = np.minimum(np.searchsorted(held.classes, classes), max(len(held.classes) - 1, 0))
    if not len(held.classes):
        return np.zeros((len(classes), len(held.n)))
    there = held.classes[at] == classes
    return np.asarray(np.where(there[:, None], held.by_class[at], 0.0))
