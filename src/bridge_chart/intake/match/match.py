"""The match: whose row is this? By student number, then by restoring lost leading zeros."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.columns.headings import Known
from bridge_chart.store.snapshot import Snapshot

NONE = -1


@dataclass(frozen=True)
class Match:
    """Per row: `student`, the position in the snapshot (−1 = none), and `repaired`."""

    student: NDArray[np.int64]
    repaired: NDArray[np.bool_]


def known_numbers(snapshot: Snapshot) -> pl.DataFrame:
    """Numbers of the students that a kept roster speaks of, with their positions."""
    listed = np.flatnonzero(snapshot.listed)
    return pl.DataFrame(
        {"number": snapshot.numbers[listed].astype(str), "at": listed.astype(np.int64)},
        schema={"number": pl.String, "at": pl.Int64},
    )


def known_names(snapshot: Snapshot) -> Known:
    """Names in use, which the name of a column may hold, and the students' numbers."""
    keys, names = snapshot.measures, snapshot.tables.names
    subjects = {m.subject.name for m in keys if m.subject} | {*names.declared("subject")}
    tests = {m.assessment.name for m in keys} | {*names.declared("test")}
    schools = [*(school.name for school in snapshot.schools), *names.declared("school")]
    return Known(
        subjects=tuple(sorted(subjects)),
        tests=tuple(sorted(tests)),
        sittings=tuple(sorted({m.sitting.name for m in keys} | {*names.sittings()})),
        schools=tuple(schools),
        numbers=known_numbers(snapshot)["number"].str.strip_chars_start("0"),
    )


def match_numbers(cells: pl.Series, known: pl.DataFrame, restore_zeros: bool) -> Match:
    """Join numbers to students.

    A number that nobody has is tried without leading zeros on both sides, and taken only
    where exactly one student fits and that student is not in the file under the full number:
    spreadsheets drop zeros, and a number that could be two people's is nobody's.
    """
    frame = pl.DataFrame({"number": cells})
    exact = frame.join(known, on="number", how="left", maintain_order="left")["at"]
    student = exact.fill_null(NONE).to_numpy().astype(np.int64)
    repaired = np.zeros(len(student), bool)
    if restore_zeros and known.height:
        bare = known.with_columns(number=pl.col("number").str.strip_chars_start("0"))
        single = bare.filter(pl.len().over("number") == 1)
        unmatched = np.flatnonzero((student == NONE) & (cells != "").to_numpy())
        tried = pl.DataFrame({"number": cells.gather(unmatched).str.strip_chars_start("0")})
        found = tried.join(single, on="number", how="left", maintain_order="left")["at"]
        at = found.fill_null(NONE).to_numpy()
        at = np.where(np.isin(at, student[student != NONE]), NONE, at)
        student[unmatched] = at
        repaired[unmatched] = at != NONE
    return Match(student, repaired)
