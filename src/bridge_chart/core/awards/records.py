"""Credit records made ready: what counts once, and what an estimate may stand in for."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask


@dataclass(frozen=True)
class CreditRecords:
    """One row per record, all (records,): codes of student, standard, subject, level, kind; result
    in rising order (a higher result is better); credits; banked, else estimated.

    exclusion: code of the set of standards of which one counts only, −1 = none.
    lists: name → the standards on that list.
    """

    student: Integers
    standard: Codes
    subject: Codes
    level: Codes
    kind: Codes
    result: Codes
    credits: Floats
    banked: Mask
    exclusion: Codes
    lists: dict[str, frozenset[int]]

    def __post_init__(self) -> None:
        n = len(self.student)
        named = ("standard", "subject", "level", "kind", "result", "credits", "banked", "exclusion")
        if any(len(getattr(self, name)) != n for name in named):
            raise ValueError(f"every column must have {n} records")
        if n and (np.min(self.credits) < 0 or not np.isfinite(self.credits).all()):
            raise ValueError("credits must be numbers of 0 or more")
        if n and self.student.min() < 0:
            raise ValueError("every record must have a student")


@dataclass(frozen=True)
class Match:
    """Which records a condition counts; None: any. least_result: this result or better."""

    levels: Collection[int] | None = None
    kinds: Collection[int] | None = None
    subjects: Collection[int] | None = None
    least_result: int | None = None
    on_list: str | None = None

    def rows(self, records: CreditRecords) -> Mask:
        """Truth per record. Errors: ValueError on an unknown list."""
        held = np.ones(len(records.student), bool)
        for wanted, column in (
            (self.levels, records.level), (self.kinds, records.kind),
            (self.subjects, records.subject),
        ):  # fmt: skip
            if wanted is not None:
                held &= np.isin(column, list(wanted))
        if self.least_result is not None:
            held &= records.result >= self.least_result
        if self.on_list is not None:
            if self.on_list not in records.lists:
                raise ValueError(f'there is no list "{self.on_list}"')
            held &= np.isin(records.standard, list(records.lists[self.on_list]))
        return held


def counting(records: CreditRecords, match: Match) -> Integers:
    """The records that a condition counts: matching ones, every standard once and every exclusion
    set once per student, the best of each.

    An estimate for a standard that is banked counts nowhere, whatever it hoped for. Best: banked
    before estimated, then more credits, then the better result, then the earlier row. Positions.

    >>> r = CreditRecords(*(np.array(c) for c in ([0, 0], [7, 7], [0, 0], [1, 1], [0, 0], [1, 3],
    ...     [4., 4], [True, False], [-1, -1])), {})
    >>> counting(r, Match()).tolist(), counting(r, Match(least_result=2)).tolist()
    ([0], [])
    """
    span = int(records.standard.max(initial=0)) + 1
    pair = records.student.astype(np.int64) * span + records.standard
    settled = np.isin(pair, pair[records.banked]) & ~records.banked
    rows = np.flatnonzero(match.rows(records) & ~settled)
    rows = _best(records, rows, pair[rows])
    within = np.flatnonzero(records.exclusion[rows] >= 0)
    sets = int(records.exclusion.max(initial=0)) + 1
    key = records.student[rows].astype(np.int64) * sets + records.exclusion[rows]
    kept = _best(records, rows[within], key[within])
    free = rows[records.exclusion[rows] < 0]
    return np.sort(np.concatenate([free, kept]))


def _best(records: CreditRecords, rows: Integers, key: Integers) -> Integers:
    order = np.lexsort(
        (rows, -records.result[rows], -records.credits[rows], ~records.banked[rows], key)
    )
    ordered = key[order]
    first = np.ones(len(ordered), bool)
    first[1:] = ordered[1:] != ordered[:-1]
    out: Integers = np.sort(rows[order][first])
    return out
