"""Which tests and sittings a results file is about: known ones, new ones, near ones."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from typing import Literal

import polars as pl

from bridge_chart.intake.cells.findings import Findings
from bridge_chart.intake.cells.names import near_pairs
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.finding import Choice
from bridge_chart.terms.wording import day


@dataclass(frozen=True)
class SittingPlan:
    """A sitting that the file speaks of; `known_id` is 0 for one that keeping would create;
    `corrects`: its date is another than the one that is kept."""

    test: str
    subject: str
    name: str
    date: dt.date
    known_id: int
    corrects: bool = False

    @property
    def label(self) -> str:
        return f"{self.subject or self.test}, {self.name}"


def settle_sittings(
    frame: pl.DataFrame, snapshot: Snapshot, found: Findings, dated: Literal["", "file", "person"]
) -> tuple[pl.DataFrame, list[SittingPlan]]:
    """The frame with a `sitting` column (place in the list), and the list. dated: who said the
    dates; where nobody did, a known sitting keeps its own."""
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
        if same is None:
            sittings.append(SittingPlan(test, subject, name, date, 0))
        else:
            corrects = dated != "" and date != same.date and _corrects(same, date, found, dated)
            own = date if corrects else same.date
            sittings.append(SittingPlan(test, subject, name, own, same.sitting.id, corrects))
    places = dates.with_row_index("sitting").select(*keys, pl.col("sitting").cast(pl.Int32))
    frame = frame.join(places, on=keys, how="left", maintain_order="left")
    return frame.drop(keys), sittings


def _corrects(
    kept: MeasureKey, date: dt.date, found: Findings, dated: Literal["", "file", "person"]
) -> bool:
    """Whether a known sitting gets the file's date: where a person said it, unless they choose
    otherwise; a column may be of those who sat it later."""
    chosen = found.add(
        f"sitting_date:{kept.label}", "ask", f"{kept.label} is kept as of {day(kept.date)}",
        f"Here it is of {day(date)}; who was on roll and what was earlier follow from it", [],
        [Choice(key="keep", label=f"It was on {day(kept.date)}"),
         Choice(key="correct", label=f"It was on {day(date)}")],
        "correct" if dated == "person" else "keep", n=1,
    )  # fmt: skip
    return chosen == "correct"


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
