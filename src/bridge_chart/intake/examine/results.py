"""Examining results: a row per student and test, with one or several scores each."""

from __future__ import annotations

import datetime as dt
import re
from dataclasses import dataclass
from pathlib import PurePath
from typing import Literal

import numpy as np
import polars as pl

from bridge_chart.intake.cells import findings as f
from bridge_chart.intake.cells.marks import ABOUT_A_QUESTION, MarkGrid, without_told
from bridge_chart.intake.cells.people import written_by_spreadsheet
from bridge_chart.intake.cells.terms import TERMS, day_of_term, day_read, day_said
from bridge_chart.intake.cells.values import Range, dates, year_levels
from bridge_chart.intake.columns.answer_rows import answers_as_sheet
from bridge_chart.intake.columns.columns import need_number, position_of, role_choices, understand
from bridge_chart.intake.columns.shapes import Long, holds_result, lengthen, one_result_a_row
from bridge_chart.intake.examine.doubles import DoubledRows, settle_doubles
from bridge_chart.intake.examine.result_report import ResultReport, title_of
from bridge_chart.intake.examine.scores import CLAIMS, Claim, Scores, read_scores
from bridge_chart.intake.examine.sittings import SittingPlan, settle_sittings
from bridge_chart.intake.match.match import known_names
from bridge_chart.intake.match.offers import matched, who_columns
from bridge_chart.intake.reading.sheet import KEPT, Sheet
from bridge_chart.intake.said.settings import IntakeSettings, within_year
from bridge_chart.store.reference_tables import QuestionInfo, Scale
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.finding import Choice, ColumnInfo, DefaultUsed, Examination
from bridge_chart.terms.grid import read_header
from bridge_chart.terms.wording import count, plain
from bridge_chart.terms.words import spoken

SAID = "as you said"


@dataclass(frozen=True)
class ResultsPlan:
    """What keeping would write. `rows`: index, line, student (position), sitting (place in
    `sittings`), date, year_level, status, and a column per score kind ("raw" …, NaN = none;
    steps hold their position from 1), `form`, and “claim 0” … for `claims`. `columns`: score kind
    → the column of `long`; `grid`: marks question by question, its rows by `index`; `aside`:
    rows of `long` → why; `accepted`: numbers said to be a student's → position."""

    examination: Examination
    sittings: list[SittingPlan]
    rows: pl.DataFrame
    columns: dict[str, int]
    levels: dict[str, list[str]]
    aside: dict[int, str]
    aside_sittings: dict[int, int]
    claims: list[Claim]
    grid: MarkGrid | None
    long: Long
    accepted: dict[str, int]

    @property
    def sheet(self) -> Sheet:
        """The file with one result a row."""
        return self.long.sheet


def examine_results(
    sheet: Sheet,
    settings: IntakeSettings,
    snapshot: Snapshot,
    today: dt.date,
    found: f.Findings,
) -> ResultsPlan:
    """Understand, match and check a results file; nothing is written."""
    found.progress.at("understand")
    columns = understand("results", sheet, settings, known_names(snapshot))
    need_number(sheet, columns)
    held = {c.role.split(":")[0] for c in columns}
    if not held & {"score", "strand", *ABOUT_A_QUESTION, *CLAIMS}:
        raise UnreadableFile(
            f"{sheet.name} must have a column with scores. "
            f"Its columns are {', '.join(sheet.headers[:12])} instead.",
            kept=KEPT,
            next_step="Say which column holds a score.",
            missing_role="score:raw",
        )
    if not snapshot.listed.any():
        raise UnreadableFile(
            "There is no roster yet, so no result can be matched to a student.",
            kept=KEPT,
            next_step="Bring in the roster first, then this file.",
        )
    return _ResultsExamination(sheet, settings, snapshot, today, columns, found).plan()


class _ResultsExamination:
    def __init__(
        self,
        sheet: Sheet,
        settings: IntakeSettings,
        snapshot: Snapshot,
        today: dt.date,
        columns: list[ColumnInfo],
        found: f.Findings,
    ) -> None:
        self.settings, self.snapshot = settings, snapshot
        self.lines_in_file = sheet.cells.height
        sheet = without_told(sheet, columns, found)
        self.file, self.file_columns = sheet, columns
        sheet, columns = answers_as_sheet(sheet, columns, found)
        self.headers = [c.header for c in columns]
        self.blanks = settings.decisions.get("blank_cells") or _blanks_of(columns)
        self.long = lengthen(sheet, columns, self.blanks == "not_sat")
        self.sheet, self.columns = self.long.sheet, self.long.columns
        self.found = found
        self.found.lines = self.sheet.lines
        self.defaults: list[DefaultUsed] = settings.taken_over()
        self.undated: set[str] = set()
        self.year = settings.year(snapshot.today or today)
        self.today = within_year(today, self.year)

    def plan(self) -> ResultsPlan:
        self._blank_cells()
        wide = len(self.long.origin) > 1
        self.found.progress.at("check")
        silent = wide and self.blanks != "not_sat"
        scores = read_scores(
            self.long,
            self.headers,
            self.found,
            self._scale_of,
            self._range_of,
            blanks_say_nothing=silent,
            questions=self._questions(),
        )
        above = [] if scores.grid is None else list(scores.grid.told)
        self.above = above
        frame, sittings = self._frame(scores)
        self.sittings = sittings
        if above:
            self.found.about_questions(above)
            frame = frame.filter(~pl.col("index").is_in(above))
        self.found.progress.at("match")
        frame = self._matched(frame)
        total = frame.height
        frame = self._one_row_each(frame, scores)
        self._impossible(frame, scores)
        frame = frame.filter(~pl.col("index").is_in(list(self.found.aside)))
        self.found.progress.at("compare")
        report = ResultReport(self.snapshot, sittings, frame, scores, self.found, self.undated)
        examination = Examination(
            kind="results",
            title=title_of(sittings),
            version=self.snapshot.version,
            columns=self.file_columns,
            roles=role_choices("results"),
            defaults=self.defaults,
            picture=report.picture(self.sheet.cells.height - len(above), total, self.by_hand),
            findings=self.found.all,
            counts=report.counts(),
            changes=report.against.changes.listed,
            change_groups=report.against.changes.groups(),
            creates=report.creates(),
            first_look=report.first_look(),
            lines_in_file=self.lines_in_file,
            rows_in_file=self.sheet.cells.height,
            rows_kept=frame.height,
            rows_set_aside=len(self.found.aside),
            rows_copies=self.found.count("copies") + self.found.count("alike"),
        )
        places = dict(zip(self.place_of_row["index"], self.place_of_row["sitting"], strict=True))
        aside_sittings = {row: places[row] for row in self.found.aside if row in places}
        return ResultsPlan(
            examination, sittings, frame, scores.columns, scores.levels, self.found.aside,
            aside_sittings, scores.claims, scores.grid, self.long, self.accepted,
        )  # fmt: skip

    def _blank_cells(self) -> None:
        """In a sheet with a column per subject, a blank cell mostly means: does not take it; in
        one with a single result, that there is none."""
        if not self.long.blank:
            return
        says = {"leave": "says nothing", "not_sat": "is read as not sat; none counts as zero"}
        several = "has a column per result" if len(self.long.origin) > 1 else "has one result a row"
        self.found.add(
            "blank_cells", "ask", f"{count(self.long.blank, 'cell')} without a result",
            f"The sheet {several}; a blank one {says[_blanks_of(self.file_columns)]}", [],
            [Choice(key="leave", label="No result"),
             Choice(key="not_sat", label="Read as not sat")],
            _blanks_of(self.file_columns), n=self.long.blank,
        )  # fmt: skip

    def _scale_of(self, kind: str) -> Scale | None:
        """The declared scale, where all tests and subjects of the file have the same one."""
        tests = self._names("test", self._test()[0])
        subjects = self._names("subject", self.settings.subject)
        tables = self.snapshot.tables
        scales = [tables.scale(test, name, kind) for test in tests for name in subjects]
        return scales[0] if scales and all(s == scales[0] for s in scales) else None

    def _range_of(self, kind: str) -> Range | None:
        """Where figures of a kind lie: as kept of the file's tests, and what a percent can be."""
        if kind == "percent":
            return 0.0, 100.0
        tests = set(self._names("test", self._test()[0]))
        ends = [
            (values[order[0]], values[order[-1]])
            for m in self.snapshot.measures
            if m.assessment.name in tests and m.score == kind and m.role == "result"
            for values, order in [(self.snapshot.values(m), self.snapshot.order(m))]
            if len(order)
        ]
        if not ends:
            return None
        low, high = float(min(e[0] for e in ends)), float(max(e[1] for e in ends))
        return low - (high - low), high + (high - low)

    def _questions(self) -> dict[str, QuestionInfo]:
        """What is known of the questions, where all rows are of one test and form."""
        told = [self._names("test", self._test()[0]), self._names("subject", self.settings.subject),
                self._names("sitting", self.settings.sitting or self.year)]  # fmt: skip
        form_at = position_of(self.columns, "form")
        forms = [""] if form_at is None else self.sheet.column(form_at).unique().to_list()
        if any(len(names) != 1 for names in told):
            return {}
        (test,), (subject,), (sitting,) = told
        tables = [self.snapshot.tables.questions(test, subject, sitting, form) for form in forms]
        return tables[0] if tables and all(one == tables[0] for one in tables) else {}

    def _test(self) -> tuple[str, str]:
        """The test's name where no column says it, and why that one."""
        if self.settings.test:
            return self.settings.test, SAID
        if self.settings.together:
            return self.settings.together, "the archive's name; its files share no students"
        return PurePath(self.sheet.name).stem, "the file's name"

    def _names(self, role: str, default: str) -> list[str]:
        at = position_of(self.columns, role)
        cells = self.sheet.column(at).unique().to_list() if at is not None else [""]
        means = self.snapshot.tables.names.means
        return sorted({means(role, cell or default) for cell in cells})

    def _text(self, role: str, default: str, why: str) -> pl.Series:
        """A column's texts, its blanks and its absence filled by the default, which is said."""
        at = position_of(self.columns, role)
        cells = self._cells(at) if at is not None else None
        if cells is None or (cells == "").any():
            if default:
                self._assume(DefaultUsed(key=role, value=default, why=why))
            height = self.sheet.cells.height
            if cells is None:
                return pl.Series([default], dtype=pl.String).new_from_index(0, height)
            return cells.replace("", default)
        return cells

    def _frame(self, scores: Scores) -> tuple[pl.DataFrame, list[SittingPlan]]:
        test = self._text("test", *self._test())
        subject = self._text("subject", self.settings.subject, SAID)
        sitting = self._text("sitting", self.settings.sitting or self.year,
                             SAID if self.settings.sitting else "the school year")  # fmt: skip
        test, subject, sitting = self._declared(test, subject, sitting)
        date = self._dates(sitting)
        number_at = need_number(self.sheet, self.columns)
        year_at = position_of(self.columns, "year_level")
        height = self.sheet.cells.height
        names, births = who_columns(self.sheet, self.columns, self.settings.date_order)
        said = self.settings.year_level
        blank = pl.Series([said], dtype=pl.String).new_from_index(0, height)
        written = self.sheet.column(year_at).replace("", said) if year_at is not None else blank
        levels = year_levels(written)
        self.found.unread("year_level", spoken().year_level, written, levels)
        frame = pl.DataFrame(
            {
                "index": pl.int_range(height, eager=True),
                "line": pl.Series(self.sheet.lines),
                "number": written_by_spreadsheet(self.sheet.column(number_at)),
                "name": names,
                "birth": births,
                "test": test,
                "subject": subject,
                "sitting_name": sitting,
                "date": date,
                "year_level": levels.fill_null(-1),
                "status": scores.status,
                "form": self._form(),
                **scores.values,
                **{f"claim {n}": claim.values for n, claim in enumerate(scores.claims)},
            }
        )
        frame, sittings = settle_sittings(frame, self.snapshot, self.found, self._dated())
        self.place_of_row = frame.select("index", "sitting")
        frame = frame.filter(~pl.col("index").is_in(list(self.found.aside)))
        return frame, sittings

    def _declared(
        self, test: pl.Series, subject: pl.Series, sitting: pl.Series
    ) -> tuple[pl.Series, pl.Series, pl.Series]:
        """Tests, subjects and sittings by what their names mean."""
        names, found = self.snapshot.tables.names, self.found
        test = found.declared("test", test, names.declared("test"))
        subject = found.declared("subject", subject, names.declared("subject"))
        for one in test.unique().to_list() if names.sittings() else ():
            told = names.declared("sitting", one)
            read = found.declared(f"sitting of {one}", sitting.filter(test == one), told)
            sitting = sitting.scatter((test == one).arg_true(), read)
        return test, subject, sitting

    def _cells(self, at: int) -> pl.Series:
        """A column in which a row that tells of the questions is as the first student's: it is of
        no test, sitting or day of its own."""
        cells = self.sheet.column(at)
        first = next((row for row in range(len(cells)) if row not in self.above), None)
        if not self.above or first is None:
            return cells
        told = pl.int_range(len(cells), eager=True).is_in(self.above)
        return cells.zip_with(~told, pl.Series([cells[first]]).new_from_index(0, len(cells)))

    def _form(self) -> pl.Series:
        at = position_of(self.columns, "form")
        if at is not None:
            return self._cells(at)
        return pl.Series([""], dtype=pl.String).new_from_index(0, self.sheet.cells.height)

    def _assume(self, used: DefaultUsed) -> None:
        """List what was assumed; what a person said is none of it."""
        if used.why != SAID:
            self.defaults.append(used)

    def _dates(self, sitting: pl.Series) -> pl.Series:
        """Each row's date: as the file has it, else as somebody said, else as the sitting's or the
        file's name says; a person answers where none does."""
        at = position_of(self.columns, "date")
        if at is None:
            given = pl.Series([None], dtype=pl.Date).new_from_index(0, len(sitting))
        else:
            cells = self._cells(at)
            order = self.settings.decisions.get("date_order") or self.settings.date_order
            read = dates(cells, order)
            self.found.unread("date", "date", cells, read.values)
            self.found.date_order(read, cells)
            given = read.values
        if not given.null_count():
            return given
        open_ = sitting.filter(given.is_null()).unique(maintain_order=True).to_list()
        said = {name: self._day_of(name) for name in open_}
        filled = sitting.replace_strict(said, default=None, return_dtype=pl.Date)
        return given.zip_with(given.is_not_null(), filled)

    def _dated(self) -> Literal["", "file", "person"]:
        """Who says the dates."""
        if position_of(self.columns, "date") is not None:
            return "file"
        return "person" if self.settings.date else ""

    def _day_of(self, sitting: str) -> dt.date:
        """The date of a sitting whose rows have none."""
        if self.settings.date:
            return self.settings.date
        tests = self._names("test", self._test()[0])
        kept = {
            m.date
            for m in self.snapshot.measures
            if m.sitting.name == sitting and m.assessment.name in tests
        }
        if len(kept) == 1:
            return kept.pop()
        named = (
            (sitting, "the sitting"),
            (self._test()[0], "the test"),
            (self.file.name, "the file"),
        )
        for text, what in named:
            day_ = day_said(text, self.year)
            if day_ is not None:
                why = f"{what} is called “{text}”; the middle of that time"
                self._assume(DefaultUsed(key="date", value=str(day_), why=why))
                return day_
        several = position_of(self.columns, "sitting") is not None
        key = f"date:{sitting}" if several else "date"
        said = self.settings.decisions.get(key, "")
        if re.fullmatch(r"\d{4}-\d{2}-\d{2}", said):
            return day_read(said)
        choices = [Choice(key=t, label=f"In the {t} term of {self.year}") for t in TERMS]
        term = self.found.add(
            key, "stop", f"When was {sitting}?" if several else "When was this?",
            "Nothing says the date; it decides who was on roll, and what was earlier", [], choices,
        )  # fmt: skip
        if term is None:
            self.undated.add(sitting)
            return self.today
        return day_of_term(term, self.year)

    def _matched(self, frame: pl.DataFrame) -> pl.DataFrame:
        frame, whose = matched(frame, self.snapshot, self.settings.decisions, self.found, "result")
        self.accepted, self.by_hand = whose.accepted, whose.by_hand
        return frame

    def _one_row_each(self, frame: pl.DataFrame, scores: Scores) -> pl.DataFrame:
        """One row per student and sitting; copies count once, two different scores stop."""
        key = ["student", "sitting"]
        claims = [f"claim {n}" for n in range(len(scores.claims))]
        telling = [*key, "status", "form", *scores.values, *claims]
        doubled = frame.filter(pl.struct(key).is_duplicated())
        if not doubled.height:
            return frame
        if scores.grid is not None:
            told = scores.grid.told_by(doubled["index"].to_numpy())
            doubled = doubled.with_columns(marks=pl.Series(told))
            telling.append("marks")
        copies = self.found.repeated(
            self._in_file(doubled), telling, self.file, self._beside_results()
        )
        frame = frame.filter(~pl.col("index").is_in(copies))
        double = frame.filter(pl.struct(key).is_duplicated())
        kept = settle_doubles(
            "two_scores", "result", "there twice, with different scores",
            "Same student, same sitting", self._doubled(double, key, list(scores.values)),
            self.found,
        )  # fmt: skip
        lost = double.filter(~pl.col("index").is_in(kept))["index"].to_list()
        self.found.put_aside(lost, "two different scores")
        return frame.filter(~pl.col("index").is_in(lost))

    def _in_file(self, frame: pl.DataFrame) -> pl.DataFrame:
        """The frame with the place of each row in the file."""
        lines = frame["line"].to_numpy()
        return frame.with_columns(line_index=pl.Series(np.searchsorted(self.file.lines, lines)))

    def _beside_results(self) -> list[int]:
        """What of the file a copy must share beside what is told: of a wide sheet the columns that
        nobody reads, for the others hold other results."""
        wide = len(self.long.origin) > 1
        return [c.index for c in self.file_columns if not wide or c.role == "ignore"]

    def _doubled(self, double: pl.DataFrame, key: list[str], best: list[str]) -> DoubledRows:
        """The doubled rows, each named by student and sitting, with the results as written."""
        whose = dict(zip(double["index"], double["student"], strict=True))
        place = dict(zip(double["index"], double["sitting"], strict=True))
        date = dict(zip(double["index"], double["date"], strict=True))
        several = len(self.sittings) > 1
        told = [c.index for c in self.columns if holds_result(c) or c.role == "status"]

        def name(index: int) -> str:
            sitting = self.sittings[place[index]]
            number = str(self.snapshot.numbers[whose[index]])
            # A file about one sitting keeps its decisions when that is given another name.
            about = (sitting.test, sitting.subject, sitting.name) if several else ()
            return ", ".join(part for part in (number, *dict.fromkeys(about)) if part)

        def person(index: int) -> str:
            at = whose[index]
            return f"{self.snapshot.given_names[at]} {self.snapshot.family_names[at]}".strip()

        def says(index: int) -> str:
            cells = [self.sheet.cells[index, at] for at in told]
            return f"{', '.join(cell for cell in cells if cell) or 'blank'} ({date[index]})"

        return DoubledRows(double, key, name, says, best, person)

    def _impossible(self, frame: pl.DataFrame, scores: Scores) -> None:
        """Scores that the kind of score cannot have."""
        for kind, low, high in (("percent", 0.0, 100.0), ("raw", 0.0, float("inf"))):
            if kind not in scores.values:
                continue
            out = frame.filter((pl.col(kind) < low) | (pl.col(kind) > high))
            if out.height:
                rows = out["index"].to_list()
                title = f"{count(out.height, 'score')} outside what {kind} can be"
                detail = f.some([plain(value) for value in out[kind].to_list()])
                self.found.must_set_aside(f"outside_{kind}", title, detail, rows)


def _blanks_of(columns: list[ColumnInfo]) -> str:
    """What a blank cell of a sheet that names its results in its heads means, unless it is said.
    In a grid that went out from here only what is filled says something."""
    ours = any(read_header(c.header) for c in columns if holds_result(c))
    return "not_sat" if one_result_a_row(columns) and not ours else "leave"
