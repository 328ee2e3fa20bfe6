"""Which tests and sittings a results file is about: known ones, new ones, near ones."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import polars as pl

from bridge_chart.intake.cells.findings import Findings
from bridge_chart.intake.cells.names import near_pairs
from bridge_chart.store.snapshot import Snapshot


@dataclass(frozen=True)
class SittingPlan:
    """A sitting that the file speaks of; `known_id` is 0 for one that keeping would create."""

    test: str
    subject: str
    name: str
    date: dt.date
    known_id: int

    @property
    def label(self) -> str:
        return f"{self.subject or self.test}, {self.name}"


def settle_sittings(
    frame: pl.DataFrame, snapshot: Snapshot, found: Findings
) -> tuple[pl.DataFrame, list[SittingPlan]]:
    """The frame with a `sitting` column (place in the list), and the list."""
    known = snapshot.measures
    frame = _settle(frame, "test", "test", {m.assessment.name for m in known}, found)
    subjects = {m.subject.name for m in known if m.subject}
    frame = _settle(frame, "subject", "subject", subjects, found)
    names = {m.sitting.name for m in known}
    frame = _settle(frame, "sitting_name", "sitting", names, found)
    keys = ["test", "subject", "sitting_name"]
    # The sitting's own date is the one that most rows have.
    dates = frame.group_by(keys).agg(pl.col("date").mode().min()).sort(*keys)
    ids = {
        (m.assessment.name, m.subject.name if m.subject else "", m.sitting.name): m for m in known
    }
    sittings = []
    for test, subject, name, date in dates.rows():
        same = ids.get((test, subject, name))
        sittings.append(
            SittingPlan(
                test, subject, name, same.date if same else date, same.sitting.id if same else 0
            )
        )
    places = dates.with_row_index("sitting").select(*keys, pl.col("sitting").cast(pl.Int32))
    frame = frame.join(places, on=keys, how="left", maintain_order="left")
    return frame.drop(keys), sittings


def _settle(
    frame: pl.DataFrame, column: str, what: str, known: set[str], found: Findings
) -> pl.DataFrame:
    """A name near an existing one stops; “the same” takes the existing name."""
    rows_of = frame[column].value_counts().rows()
    counts = {name: rows for name, rows in rows_of if name and name not in known}
    for name, other in near_pairs(counts, sorted(known), short=what == "subject"):
        rows = frame.filter(pl.col(column) == name)["index"].to_list()
        if found.near(what, name, other, rows) == "same":
            frame = frame.with_columns(pl.col(column).replace(name, other))
    return frame
