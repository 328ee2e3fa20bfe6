"""How exact a test is: Cronbach's α, the error of measurement, and what its strands add."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.distributions import t_quantile
from bridge_chart.core.estimate import NAN
from bridge_chart.core.items.marks import MarkSheet

LEAST_ALPHA = 0.7


@dataclass(frozen=True)
class Reliability:
    """alpha with its interval, the error of measurement in marks; NaN where undefined."""

    alpha: float
    low: float
    high: float
    sem: float
    sd: float
    n: int
    missing: int
    questions: int
    reason: str = ""


def cronbach_alpha(
    sheet: MarkSheet, *, optional_questions: bool = False, confidence: float = 0.95
) -> Reliability:
    """α = k/(k−1)·(1 − Σ s²_question/s²_total) (Cronbach 1951), SEM = s_total·√(1 − α).

    Over students who reached every question (others are counted missing). Interval by F with
    n − 1 and (n−1)(k−1) df (Feldt 1965). Optional questions, one question, fewer than three
    students or no spread: undefined. α < 0 is shown, its error withheld.

    >>> from bridge_chart.core.items.marks import mark_sheet
    >>> s = mark_sheet(np.array([[1, 1, 1], [1, 1, 0], [1, 0, 0], [0, 0, 0]]), np.ones(3))
    >>> r = cronbach_alpha(s)
    >>> round(r.alpha, 6), round(r.sem, 6)
    (0.75, 0.645497)
    """
    table = sheet.marks[sheet.complete]
    n, k = table.shape
    missing = len(sheet.marks) - n

    def none(reason: str) -> Reliability:
        return Reliability(NAN, NAN, NAN, NAN, NAN, n, missing, k, reason)

    if optional_questions:
        return none("students answered different questions by choice")
    if k < 2 or n < 3:
        return none("fewer than two questions or three students")
    total = float(table.sum(axis=1).var(ddof=1))
    parts = float(table.var(axis=0, ddof=1).sum())
    if total <= 1e-12 * max(parts, 1e-300) or parts == 0:
        return none("the totals do not vary")
    alpha = k / (k - 1) * (1 - parts / total)
    from scipy.special import fdtri

    tail = (1 - confidence) / 2
    df = float(n - 1), float((n - 1) * (k - 1))
    low = 1 - (1 - alpha) * float(fdtri(*df, 1 - tail))
    high = 1 - (1 - alpha) * float(fdtri(*df, tail))
    sd = float(np.sqrt(total))
    if alpha < 0:
        return Reliability(alpha, low, high, NAN, sd, n, missing, k, "negative: no error given")
    return Reliability(alpha, low, high, sd * float(np.sqrt(1 - alpha)), sd, n, missing, k)


@dataclass(frozen=True)
class Strand:
    """Whether a strand's own score says more about the strand than the total does.

    gain_own, gain_total: proportional reduction of error in estimating the true strand score from
    the strand's score, and from the total (Haberman 2008). adds: own > total.
    report: "yes", "with caution" or "no".
    """

    alpha: float
    sem: float
    gain_own: float
    gain_total: float
    adds: bool
    report: str
    questions: int


def strands(sheet: MarkSheet, strand_of: Integers, count: int) -> list[Strand]:
    """Each strand: α, error, and whether it adds to the total.

    gain_own = α_s. gain_total = ρ²(true strand, true total)·α_x, with ρ² from
    cov(s, x) − the strand's error variance, which sits in both (Haberman 2008, eq. 3). Reported: it
    adds and α ≥ .7; with caution: it adds, or α ≥ .7, but not both; else no. strand_of:
    (questions,) codes, −1 = none. Students who reached every question only.

    >>> from bridge_chart.core.items.marks import mark_sheet
    >>> rng = np.random.default_rng(1); a, b = rng.normal(size=(2, 500, 1))
    >>> marks = np.hstack([a + rng.normal(size=(500, 12)), b + rng.normal(size=(500, 12))]) > 0
    >>> found = strands(mark_sheet(marks.astype(int), np.ones(24)), np.repeat([0, 1], 12), 2)
    >>> [(s.report, s.adds) for s in found]
    [('yes', True), ('yes', True)]
    """
    strand_of = np.asarray(strand_of, np.int64)
    if strand_of.shape != (sheet.marks.shape[1],) or np.any(strand_of >= count):
        raise ValueError(f"strand_of must give each question a strand below {count}, or -1")
    whole = cronbach_alpha(sheet)
    total = sheet.marks[sheet.complete].sum(axis=1)
    out = []
    for k in range(count):
        questions = np.flatnonzero(strand_of == k)
        part = sheet.chosen(questions)
        part_marks = sheet.marks[sheet.complete][:, questions]
        own = cronbach_alpha(part) if len(questions) else whole
        if not len(questions) or np.isnan(own.alpha) or not whole.alpha > 0 or own.alpha <= 0:
            alpha = own.alpha if len(questions) else NAN
            out.append(Strand(alpha, NAN, NAN, NAN, False, "no", len(questions)))
            continue
        scores = part_marks.sum(axis=1)
        variance = float(scores.var(ddof=1))
        true_s, true_x = own.alpha * variance, whole.alpha * whole.sd**2
        # The strand is part of the total: its own error is in both and is taken off.
        shared = float(np.cov(scores, total)[0, 1]) - (1 - own.alpha) * variance
        link = min(shared**2 / (true_s * true_x), 1.0)
        gain = link * whole.alpha
        adds, firm = own.alpha > gain, own.alpha >= LEAST_ALPHA
        report = "yes" if adds and firm else "with caution" if adds or firm else "no"
        out.append(Strand(own.alpha, own.sem, own.alpha, gain, adds, report, len(questions)))
    return out


@dataclass(frozen=True)
class WeakestStrand:
    """(strands,): group − everyone in share of marks, with its interval; weakest: index or −1.

    weakest is the lowest against everyone on the same questions, never the merely hardest, and
    only where its interval lies below the average of the group's other strands' differences.
    """

    difference: Floats
    low: Floats
    high: Floats
    n: int
    weakest: int


def weakest_strand(
    sheet: MarkSheet, strand_of: Integers, count: int, in_group: Floats | Integers,
    confidence: float = 0.95,
) -> WeakestStrand:  # fmt: skip
    """Where a group stands lowest against everyone on the same questions.

    Per student and strand: share of the marks reached; difference of the group's mean from
    everyone's (known: it is what they are held against), t interval by the group's own spread.
    in_group: (students,) truth. Fewer than two students: NaN and none.

    >>> from bridge_chart.core.items.marks import mark_sheet
    >>> s = mark_sheet(np.array([[1, 0], [1, 0], [1, 1], [1, 1]]), np.ones(2))
    >>> w = weakest_strand(s, np.array([0, 1]), 2, np.array([1, 1, 0, 0]))
    >>> w.difference.tolist()
    [0.0, -0.5]
    """
    group = np.asarray(in_group).astype(bool)
    share = np.full((len(sheet.marks), count), np.nan)
    for k in range(count):
        part = sheet.marks[:, strand_of == k]
        reached = ~np.isnan(part)
        with np.errstate(invalid="ignore", divide="ignore"):
            share[:, k] = np.nansum(part, axis=1) / (reached @ sheet.maxima[strand_of == k])
    mine = share[group & ~np.isnan(share).any(axis=1)]
    everyone = share[~np.isnan(share).any(axis=1)]
    n = len(mine)
    if n < 2 or count < 1:
        none = np.full(count, np.nan)
        return WeakestStrand(none, none, none, n, -1)
    apart = mine - everyone.mean(axis=0)
    difference = apart.mean(axis=0)
    times = float(t_quantile(0.5 + confidence / 2, n - 1.0)) / np.sqrt(n)
    reach = times * apart.std(axis=0, ddof=1)
    weakest = int(np.argmin(difference))
    rest = np.delete(apart, weakest, axis=1)
    found = -1
    if rest.shape[1]:
        own = apart[:, weakest] - rest.mean(axis=1)
        margin = times * own.std(ddof=1)
        found = weakest if own.mean() + margin < 0 else -1
    return WeakestStrand(difference, difference - reach, difference + reach, n, found)
