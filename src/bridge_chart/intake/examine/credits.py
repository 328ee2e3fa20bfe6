"""Examining credit records: a row per student and standard, banked or estimated."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np
import polars as pl

from bridge_chart.intake.cells import findings as f
from bridge_chart.intake.cells.people import written_by_spreadsheet
from bridge_chart.intake.cells.values import dates, numbers
from bridge_chart.intake.columns.columns import need_number, position_of, role_choices, understand
from bridge_chart.intake.columns.wide_tables import lengthen_table
from bridge_chart.intake.examine.doubles import DoubledRows, settle_doubles
from bridge_chart.intake.match.match import known_names
from bridge_chart.intake.match.offers import matched, who_columns
from bridge_chart.intake.reading.sheet import KEPT, Sheet
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.finding import ColumnInfo, Count, DefaultUsed, Examination, Picture
from bridge_chart.terms.wording import count

TEXTS = ("standard", "title", "subject", "level", "kind", "result")
ESTIMATED = (
    "yes",
    "y",
    "true",
    "1",
    "estimated",
    "estimate",
    "est",
    "e",
    "provisional",
    "predicted",
)
BANKED = ("", "no", "n", "false", "0", "banked", "earned", "gained", "final", "b", "achieved")
MOST_CREDITS = 240
"""More than any standard or course is worth; a larger figure is something else."""


@dataclass(frozen=True)
class CreditsPlan:
    """What keeping would write. `rows`: index, line, student (position), the TEXTS, credits,
    estimated, date. `aside`: rows of `sheet` → why; `accepted`: numbers said to be a student's."""

    examination: Examination
    rows: pl.DataFrame
    sheet: Sheet
    aside: dict[int, str]
    accepted: dict[str, int]


def examine_credits(
    sheet: Sheet,
    settings: IntakeSettings,
    snapshot: Snapshot,
    today: dt.date,
    found: f.Findings,
) -> CreditsPlan:
    """Understand, match and check a file of credit records; nothing is written."""
    found.progress.at("understand")
    file_columns = understand("credits", sheet, settings, known_names(snapshot))
    need_number(sheet, file_columns)
    long = lengthen_table("credits", sheet, file_columns)
    sheet, columns = long.sheet, long.columns
    found.lines = sheet.lines
    for role in ("standard", "credits"):
        if position_of(columns, role) is None:
            raise UnreadableFile(
                f"{sheet.name} must have a column with the {role}. "
                f"Its columns are {', '.join(sheet.headers[:12])} instead.",
                kept=KEPT,
                next_step="Say which column it is.",
                missing_role=role,
            )
    if not snapshot.listed.any():
        raise UnreadableFile(
            "There is no roster yet, so no record can be matched to a student.",
            kept=KEPT,
            next_step="Bring in the roster first, then this file.",
        )
    found.progress.at("check")
    defaults = settings.taken_over()
    frame = _frame(sheet, columns, settings, found, today, defaults)
    found.progress.at("match")
    frame, whose = matched(frame, snapshot, settings.decisions, found, "record")
    there = frame.height
    frame = _one_each(frame, sheet, snapshot, found)
    shown = Examination(
        kind="credits",
        title=_title(frame, sheet.name),
        version=snapshot.version,
        columns=file_columns,
        roles=role_choices("credits"),
        defaults=defaults,
        picture=_picture(sheet, snapshot, frame, there, found, whose.by_hand),
        findings=found.all,
        counts=_counts(frame, found),
        creates=[],
        first_look=[],
        rows_in_file=sheet.cells.height,
        rows_kept=frame.height,
        rows_set_aside=len(found.aside),
        rows_copies=found.count("copies") + found.count("alike"),
    )
    return CreditsPlan(shown, frame, sheet, found.aside, whose.accepted)


def _frame(
    sheet: Sheet,
    columns: list[ColumnInfo],
    settings: IntakeSettings,
    found: f.Findings,
    today: dt.date,
    defaults: list[DefaultUsed],
) -> pl.DataFrame:
    """The file under our own column names; what cannot be read is set aside."""
    height = sheet.cells.height
    blank = pl.Series([""], dtype=pl.String).new_from_index(0, height)

    def cells(role: str) -> pl.Series:
        at = position_of(columns, role)
        return blank if at is None else sheet.column(at)

    names, births = who_columns(sheet, columns, settings.date_order)
    worth = numbers(cells("credits"), found.number_style("credits", cells("credits")))
    odd = worth.is_null() | ~worth.is_between(0, MOST_CREDITS)
    found.must_set_aside(
        "bad_credits",
        f"{count(int(odd.sum()), 'row')} whose credits cannot be read",
        f"{f.some(cells('credits').filter(odd).to_list())}: no number of credits",
        odd.arg_true().to_list(),
    )
    lacking = (cells("standard") == "").arg_true().to_list()
    found.must_set_aside(
        "no_standard", f"{count(len(lacking), 'row')} without a standard",
        "A record says of which standard it is", lacking,
    )  # fmt: skip
    said = cells("estimated").str.to_lowercase()
    unknown = ~said.is_in([*ESTIMATED, *BANKED])
    found.must_set_aside(
        "unknown_standing",
        f"{count(int(unknown.sum()), 'row')} neither banked nor estimated",
        f.some(cells("estimated").filter(unknown).to_list()),
        unknown.arg_true().to_list(),
    )
    read = dates(cells("date"), settings.decisions.get("date_order") or settings.date_order)
    found.unread("date", "date", cells("date"), read.values)
    found.date_order(read, cells("date"))
    day = settings.date or today
    if read.values.null_count() and settings.date is None:
        defaults.append(DefaultUsed(key="date", value=str(day), why="today"))
    frame = pl.DataFrame(
        {
            "index": pl.int_range(height, eager=True),
            "line": pl.Series(sheet.lines),
            "number": written_by_spreadsheet(sheet.column(need_number(sheet, columns))),
            "name": names,
            "birth": births,
            **{role: cells(role) for role in TEXTS},
            "credits": worth,
            "estimated": said.is_in(ESTIMATED),
            "date": read.values.fill_null(day),
        }
    )
    return frame.filter(~pl.col("index").is_in(list(found.aside)))


def _one_each(
    frame: pl.DataFrame, sheet: Sheet, snapshot: Snapshot, found: f.Findings
) -> pl.DataFrame:
    """One record of a student and standard on one day, banked and estimated apart: a standard may
    be sat again."""
    key = ["student", "standard", "estimated", "date"]
    telling = [*key, "credits", "result", "level"]
    placed = frame.with_columns(line_index=pl.col("index"))
    copies = found.repeated(placed, telling, sheet, range(len(sheet.headers)))
    frame = frame.filter(~pl.col("index").is_in(copies))
    double = frame.filter(pl.struct(key).is_duplicated())
    rows = {row["index"]: row for row in double.iter_rows(named=True)}

    def name(index: int) -> str:
        row = rows[index]
        standing = ", estimated" if row["estimated"] else ""
        return f"{snapshot.numbers[row['student']]}, {row['standard']}{standing}"

    def says(index: int) -> str:
        row = rows[index]
        told = [f"{row['credits']:g} credits", row["result"], f"({row['date']})"]
        return ", ".join(part for part in told[:2] if part) + f" {told[2]}"

    kept = settle_doubles(
        "two_records", "record", "there twice, saying different things",
        "Same student, same standard, same day",
        DoubledRows(double, key, name, says, ["credits"]), found,
    )  # fmt: skip
    lost = double.filter(~pl.col("index").is_in(kept))["index"].to_list()
    found.put_aside(lost, "two records of one standard")
    return frame.filter(~pl.col("index").is_in(lost))


def _title(frame: pl.DataFrame, file: str) -> str:
    subjects = [s for s in frame["subject"].unique(maintain_order=True).to_list() if s]
    return f"Credits in {' and '.join(subjects[:3])}" if subjects else f"Credits of {file}"


def _counts(frame: pl.DataFrame, found: f.Findings) -> list[Count]:
    worth, banked = frame["credits"].to_numpy(), ~frame["estimated"].to_numpy()
    return [
        Count(key="records", label="Records", n=frame.height),
        Count(key="students", label="Students with a record", n=frame["student"].n_unique()),
        Count(key="standards", label="Standards", n=frame["standard"].n_unique()),
        Count(key="banked", label="Credits banked", n=round(float(worth[banked].sum()))),
        Count(key="estimated", label="Credits estimated",
              n=round(float(worth[~banked].sum()))),
        Count(key="set_aside", label="Set aside, nothing lost", n=len(found.aside)),
    ]  # fmt: skip


def _picture(
    sheet: Sheet,
    snapshot: Snapshot,
    frame: pl.DataFrame,
    there: int,
    found: f.Findings,
    by_hand: int,
) -> Picture:
    roll = snapshot.roll_at(snapshot.today) if snapshot.today else None
    on_roll = 0 if roll is None else int(np.count_nonzero(roll.school >= 0))
    repaired = found.count("zeros")
    held = frame["student"].n_unique()
    return Picture(
        left="Students on roll",
        left_note="of the newest roster",
        left_total=on_roll,
        left_unmatched=max(on_roll - held, 0),
        right=_title(frame, sheet.name),
        right_note="records in the file",
        right_total=sheet.cells.height,
        right_unmatched=sheet.cells.height - there,
        matched=frame.height,
        by_number=max(frame.height - repaired - by_hand, 0),
        by_repair=min(repaired, frame.height),
        by_hand=min(by_hand, frame.height),
        doubled=there - frame.height,
    )
