"""Credit records, and which of them a condition counts."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Integers, Mask


@dataclass(frozen=True)
class CreditRecords:
    """One row per record, all (records,): codes of student, standard, subject, level, kind of
    assessment and result (−1 = not said); credits in whole parts of a credit, so that sums are
    exact; banked, else estimated. parts: how many of these parts make one credit.
    """

    student: Integers
    standard: Codes
    subject: Codes
    level: Codes
    kind: Codes
    result: Codes
    credits: Integers
    banked: Mask
    parts: int = 1

    def __post_init__(self) -> None:
        n = len(self.student)
        named = ("standard", "subject", "level", "kind", "result", "credits", "banked")
        if any(len(getattr(self, name)) != n for name in named):
            raise ValueError(f"every column must have {n} records")
        if not np.issubdtype(self.credits.dtype, np.integer):
            raise ValueError(f"credits must be whole parts, not {self.credits.dtype}")
        if self.parts < 1:
            raise ValueError(f"a credit must have at least 1 part, not {self.parts}")
        if n and self.credits.min() < 0:
            raise ValueError("credits must be 0 or more")
        if n and min(self.student.min(), self.standard.min()) < 0:
            raise ValueError("every record must have a student and a standard")

    def of(self, rows: Integers | Mask) -> CreditRecords:
        """Some of the records."""
        return CreditRecords(
            self.student[rows], self.standard[rows], self.subject[rows], self.level[rows],
            self.kind[rows], self.result[rows], self.credits[rows], self.banked[rows], self.parts,
        )  # fmt: skip


@dataclass(frozen=True)
class Match:
    """Which records a condition counts, by codes; None: any."""

    levels: Collection[int] | None = None
    kinds: Collection[int] | None = None
    subjects: Collection[int] | None = None
    results: Collection[int] | None = None
    standards: Collection[int] | None = None

    def rows(self, records: CreditRecords) -> Mask:
        """(records,) whether each is counted."""
        held = np.ones(len(records.student), bool)
        for wanted, column in (
            (self.levels, records.level), (self.kinds, records.kind),
            (self.subjects, records.subject), (self.results, records.result),
            (self.standards, records.standard),
        ):  # fmt: skip
            if wanted is not None:
                held &= np.isin(column, list(wanted))
        return held
