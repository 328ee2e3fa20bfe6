"""Examining a table of reference: a scale, the questions of a test, national figures.

Formats of our own, one row per step, question or figure (docs/formats.md).
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import polars as pl

from bridge_chart.intake.cells import findings as f
from bridge_chart.intake.cells.marks import tidy_question
from bridge_chart.intake.cells.values import dates, numbers, year_levels
from bridge_chart.intake.columns.column_names import PATTERNS
from bridge_chart.intake.columns.columns import position_of, role_choices, understand
from bridge_chart.intake.columns.wide_tables import lengthen_table
from bridge_chart.intake.examine.award_checks import check_awards
from bridge_chart.intake.examine.cut_checks import check_cuts
from bridge_chart.intake.examine.naming import check_names
from bridge_chart.intake.examine.reach import check_reach
from bridge_chart.intake.examine.rekeying import marks_moved
from bridge_chart.intake.examine.rereading import read_again
from bridge_chart.intake.examine.start_tables import FIGURES, check_starts, plain_figures
from bridge_chart.intake.reading.sheet import KEPT, Sheet
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store.codes import SCORES
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.finding import ColumnInfo, Count, Examination
from bridge_chart.terms.wording import count
from bridge_chart.terms.words import spoken

NEEDED = {
    "scale": ("test", "step"),
    "questions": ("test", "question"),
    "national": ("test", "score", "statistic", "value"),
    "expectation": ("test", "start", "expected_value"),
    "conversion": ("test", "value", "onto", "becomes"),
    "movement": ("test", "before", "after", "credit"),
    "award": ("award", "condition"),
    "practice": ("test", "value", "standard"),
    "reliability": ("test", "score"),
    "names": ("what", "name"),
    "next_steps": ("strand", "text"),
}
NUMBERS = {
    "points", "from", "upper", "maximum", "credit", "credits", "subjects", "reliability", "error",
    "place", "page", "best", "mastered_at",
}  # fmt: skip
WORDS = {
    "scale": ("Scale", "Steps"),
    "questions": ("Questions", "Questions"),
    "national": ("National figures", "Figures"),
    "expectation": ("Expected outcomes", "Starting points"),
    "conversion": ("Conversion", "Values"),
    "movement": ("Credit for movement", "Moves"),
    "award": ("Award rules", "Conditions"),
    "practice": ("Estimates from practice", "Results"),
    "reliability": ("How exact scores are", "Scores"),
    "names": ("Names", "Names"),
    "next_steps": ("Next steps", "Steps"),
}
"""What a batch of each kind is called, and its rows."""
STATISTICS = ("n", "mean", "sd", "percentile", "share", "facility")
SAID = ("passes", "expected")
"""Columns of yes and no."""
LISTS = {"synonyms": "also", "standards": "standards"}
"""Columns of several names parted by bars, and how the record calls them."""
TOLD = {
    "national": ("value",),
    "expectation": ("expected_value", "ambitious_value"),
    "conversion": ("becomes",),
    "practice": ("title", "of_subject", "level", "kind", "result"),
    "names": ("means", "date", "holds"),
    "next_steps": ("link",),
}
"""What a row says, where its other columns say of what (figures and yes or no aside)."""
DATES = ("published", "date")
YES = ("yes", "y", "true", "1", "x", "pass")


@dataclass(frozen=True)
class TablePlan:
    """What keeping would write: one entry a row, by column, with the file's own line. `sheet`: the
    table with one figure a row."""

    examination: Examination
    lines: list[int]
    cells: list[dict[str, Any]]
    sheet: Sheet
    aside: dict[int, str] = field(default_factory=dict)


def examine_table(
    kind: str, sheet: Sheet, settings: IntakeSettings, snapshot: Snapshot, found: f.Findings
) -> TablePlan:
    """Understand and check a table; nothing is written."""
    columns = understand(kind, sheet, settings)
    file, long = sheet, lengthen_table(kind, sheet, columns)
    sheet = long.sheet
    found.lines = sheet.lines
    if long.as_shares:
        found.in_percent(long.as_shares)
    for role in NEEDED[kind]:
        if role != "test" and _lacks(role, long.columns, settings):
            raise UnreadableFile(
                f"{sheet.name} must have a column with the {_words(role)}. "
                f"Its columns are {', '.join(file.headers[:12])} instead.",
                kept=KEPT,
                next_step="docs/formats.md shows this table; or say which column it is.",
                missing_role=role,
            )
    frame = _frame(kind, sheet, long.columns, settings, found)
    _check(kind, frame, snapshot, found)
    twice = pl.struct(_telling(kind, frame)).is_duplicated()
    doubled = frame.filter(twice)["index"].to_list()
    found.must_set_aside(
        "doubled",
        f"{count(len(doubled), 'row')} that speak twice of the same thing",
        "Only one may",
        [row for row in doubled if row not in found.aside],
    )
    kept = frame.filter(~pl.col("index").is_in(list(found.aside)))
    cells = [
        {key: value for key, value in row.items() if value not in (None, "", [])}
        for row in kept.drop("index", "line").iter_rows(named=True)
    ]
    if kind == "scale":
        read_again(cells, snapshot, found)
    if kind == "questions":
        marks_moved(cells, snapshot, found)
    named = "name" if kind == "names" else NEEDED[kind][0]
    about = kept[named].unique(maintain_order=True).to_list()
    examination = Examination(
        kind=kind,
        title=f"{WORDS[kind][0]} of {' and '.join(about[:3]) or sheet.name}",
        version=snapshot.version,
        columns=columns,
        roles=role_choices(kind),
        defaults=[],
        picture=None,
        findings=found.all,
        counts=_counts(kind, kept, snapshot),
        creates=[],
        first_look=[],
        rows_in_file=sheet.cells.height,
        rows_kept=kept.height,
        rows_set_aside=len(found.aside),
        rows_copies=0,
    )
    return TablePlan(examination, kept["line"].to_list(), cells, sheet, found.aside)


def _telling(kind: str, frame: pl.DataFrame) -> list[str]:
    """The columns that say what a row is about: two rows that agree in them speak of one thing."""
    if kind == "award":
        told_apart = ("award", "grade", "condition", "school_year", "year_level")
        return [c for c in frame.columns if c in told_apart]
    told = {"index", "line", *NUMBERS, *SAID, *LISTS.values(), *TOLD.get(kind, ())}
    return [c for c in frame.columns if c not in told]


def _lacks(role: str, columns: list[ColumnInfo], settings: IntakeSettings) -> bool:
    """Whether neither a column nor a person says what each row must have."""
    said = role == "score" and settings.score is not None
    return position_of(columns, role) is None and not said


def _check(kind: str, frame: pl.DataFrame, snapshot: Snapshot, found: f.Findings) -> None:
    """What a table of its kind must not hold is found."""
    _needed(kind, frame, found)
    of_kind = {"national": _statistics, "scale": check_cuts, "movement": _shares,
               "reliability": _exactness, "questions": _enough, "award": check_awards}  # fmt: skip
    if kind in of_kind:
        of_kind[kind](frame, found)
    if kind in FIGURES:
        check_starts(kind, frame, found)
    if kind == "names":
        check_names(frame, snapshot, found)
    elif "test" in frame.columns:
        check_reach(frame, snapshot, found)
    _scores(kind, frame, found)


def _frame(
    kind: str, sheet: Sheet, columns: list[ColumnInfo], settings: IntakeSettings, found: f.Findings
) -> pl.DataFrame:
    height = sheet.cells.height
    out: dict[str, Any] = {
        "index": pl.int_range(height, eager=True),
        "line": pl.Series(sheet.lines),
    }
    for column in columns:
        role, cells = column.role, sheet.column(column.index)
        if role == "ignore":
            continue
        if role in NUMBERS or (kind == "national" and role == "value"):
            out[role] = numbers(cells, found.number_style(role, cells))
            found.unread(role, role, cells, out[role])
        elif role == "year_level":
            out[role] = year_levels(cells)
            found.unread(role, spoken().year_level, cells, out[role])
        elif role in DATES:
            read = dates(cells, settings.date_order)
            found.unread(role, "date", cells, read.values)
            out[role] = read.values.cast(pl.String)
        elif role in SAID:
            out[role] = cells.str.to_lowercase().is_in(YES)
        elif kind == "questions" and role == "question":
            out[role] = pl.Series(
                [tidy_question(cell) for cell in cells.to_list()], dtype=pl.String
            )
        elif role in LISTS:
            names = cells.str.split("|").list.eval(pl.element().str.strip_chars())
            out[LISTS[role]] = names.list.eval(pl.element().filter(pl.element() != ""))
        else:
            out[role] = plain_figures(kind, role, cells, found)
    _said_of_all(kind, out, settings, height)
    return pl.DataFrame(out)


def _said_of_all(kind: str, out: dict[str, Any], settings: IntakeSettings, height: int) -> None:
    """What a person says of the whole table fills what its rows leave blank."""
    needed = "test" in NEEDED[kind]
    for name in ("test", "subject", "sitting", "score"):
        said = getattr(settings, name) or ""
        if name not in PATTERNS[kind] or not (said or (needed and name in ("test", "subject"))):
            continue
        blank = pl.Series([said], dtype=pl.String).new_from_index(0, height)
        out[name] = out[name].replace("", said) if name in out else blank


def _needed(kind: str, frame: pl.DataFrame, found: f.Findings) -> None:
    for role in NEEDED[kind]:
        cells = frame[role]
        blank = cells.is_null() if cells.dtype != pl.String else cells == ""
        found.must_set_aside(
            f"no_{role}",
            f"{count(int(blank.sum()), 'row')} without a {_words(role)}",
            "Each row must have one",
            frame["index"].filter(blank).to_list(),
        )


def _statistics(frame: pl.DataFrame, found: f.Findings) -> None:
    said = frame["statistic"].str.to_lowercase()
    unknown = (~said.is_in(STATISTICS)) & (said != "")
    found.must_set_aside(
        "unknown_statistic",
        f"{count(int(unknown.sum()), 'row')} with an unknown statistic",
        f"Known are {', '.join(STATISTICS)}; there is {f.some(said.filter(unknown).to_list())}",
        frame["index"].filter(unknown).to_list(),
    )


def _scores(kind: str, frame: pl.DataFrame, found: f.Findings) -> None:
    if "score" not in frame.columns:
        return
    known = ("level", "grade") if kind == "scale" else SCORES
    unknown = ~frame["score"].is_in(known) & (frame["score"] != "")
    found.must_set_aside(
        "unknown_score",
        f"{count(int(unknown.sum()), 'row')} with an unknown kind of score",
        f"Known are {', '.join(known)}; "
        f"there is {f.some(frame['score'].filter(unknown).to_list())}",
        frame["index"].filter(unknown).to_list(),
    )


def _counts(kind: str, kept: pl.DataFrame, snapshot: Snapshot) -> list[Count]:
    rows = Count(key="rows", label=WORDS[kind][1], n=kept.height)
    if "test" not in kept.columns:
        return [rows]
    known = {m.assessment.name.casefold() for m in snapshot.measures}
    tests = {name.casefold() for name in kept["test"].to_list()}
    return [
        rows,
        Count(key="tests_known", label="Tests with results already", n=len(tests & known)),
        Count(key="tests_to_come", label="Tests still to come", n=len(tests - known)),
    ]


def _shares(frame: pl.DataFrame, found: f.Findings) -> None:
    """Credit for a move is a share from none to full."""
    out = frame.filter((pl.col("credit") < 0) | (pl.col("credit") > 1))
    found.must_set_aside(
        "credit_outside",
        f"{count(out.height, 'row')} with a credit that is no share",
        "It lies between 0 (none) and 1 (full)",
        out["index"].to_list(),
    )


def _enough(frame: pl.DataFrame, found: f.Findings) -> None:
    if "mastered_at" not in frame.columns:
        return
    wrong = frame.filter((pl.col("mastered_at") <= 0) | (pl.col("mastered_at") > 1))
    found.must_set_aside(
        "mastered_outside", f"{count(wrong.height, 'row')} mastered at what is no share",
        "A standard is mastered at a share of its marks: 0.8, or 80%", wrong["index"].to_list(),
    )  # fmt: skip


def _exactness(frame: pl.DataFrame, found: f.Findings) -> None:
    """A reliability is a share above none; an error of measurement is above none; one is needed."""
    nothing = pl.lit(None, pl.Float64)
    rho = pl.col("reliability") if "reliability" in frame.columns else nothing
    error = pl.col("error") if "error" in frame.columns else nothing
    outside = frame.filter(((rho <= 0) | (rho > 1)) | (error < 0))
    found.must_set_aside(
        "reliability_outside",
        f"{count(outside.height, 'row')} with a reliability or error that cannot be",
        "A reliability lies above 0 and up to 1, an error of measurement is not below 0",
        outside["index"].to_list(),
    )
    neither = frame.filter(rho.is_null() & error.is_null())
    found.must_set_aside(
        "no_reliability",
        f"{count(neither.height, 'row')} without a reliability and without an error",
        "Each row must have one of them",
        neither["index"].to_list(),
    )


def _words(role: str) -> str:
    return role.replace("_", " ")
