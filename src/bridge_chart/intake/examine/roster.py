"""Examining a roster: a row per student (or per student and class) of one school year."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import numpy as np
import polars as pl

from bridge_chart.intake.cells import findings as f
from bridge_chart.intake.cells.names import near_pairs
from bridge_chart.intake.cells.people import written_by_spreadsheet
from bridge_chart.intake.cells.values import dates, year_levels
from bridge_chart.intake.columns.columns import need_number, position_of, role_choices, understand
from bridge_chart.intake.examine.changes import Changes, roster_changes
from bridge_chart.intake.examine.classes import TAUGHT, memberships_of
from bridge_chart.intake.examine.doubles import DoubledRows, settle_doubles
from bridge_chart.intake.examine.roster_years import of_year, years_in
from bridge_chart.intake.examine.school_of_file import school_of_file
from bridge_chart.intake.match.match import NONE, known_names
from bridge_chart.intake.match.offers import Matching, who_columns
from bridge_chart.intake.reading.sheet import KEPT, Sheet
from bridge_chart.intake.said.settings import IntakeSettings, within_year
from bridge_chart.store.codes import CLASS_KINDS
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.finding import (
    ColumnInfo,
    Count,
    Creation,
    DefaultUsed,
    Examination,
    Picture,
)
from bridge_chart.terms.wording import count, day
from bridge_chart.terms.words import spoken

TEXTS = ("given_name", "family_name", "full_name", "school", *TAUGHT)


@dataclass(frozen=True)
class RosterPlan:
    """What keeping would write. `rows`: line, number, student (position or −1), given_name,
    family_name, birth_date, school, year_level, and a column per characteristic ("x:Name");
    `memberships`: line, number, school, kind, class, teacher, course; `aside`: index → reason."""

    examination: Examination
    academic_year: str
    effective_date: dt.date
    covers: list[str]
    rows: pl.DataFrame
    memberships: pl.DataFrame
    sheet: Sheet
    aside: dict[int, str]
    accepted: dict[str, int]


def examine_roster(
    sheet: Sheet,
    settings: IntakeSettings,
    snapshot: Snapshot,
    today: dt.date,
    found: f.Findings,
) -> RosterPlan:
    """Understand, match and check a roster; nothing is written."""
    found.progress.at("understand")
    columns = understand("roster", sheet, settings, known_names(snapshot))
    need_number(sheet, columns)
    if position_of(columns, "school") is None and not settings.school:
        settings = settings.model_copy(update={"school": school_of_file(sheet, snapshot, found)})
    return _RosterExamination(sheet, settings, snapshot, today, columns, found).plan()


class _RosterExamination:
    def __init__(
        self,
        sheet: Sheet,
        settings: IntakeSettings,
        snapshot: Snapshot,
        today: dt.date,
        columns: list[ColumnInfo],
        found: f.Findings,
    ) -> None:
        self.settings, self.snapshot, self.columns = settings, snapshot, columns
        self.found = found
        self.said_years = years_in(sheet, columns)
        own = len(self.said_years) == 1 and not settings.academic_year
        self.year = self.said_years[0] if own else settings.year(snapshot.today or today)
        self.sheet, self.lines_in_file = (
            of_year(sheet, columns, self.year, found),
            sheet.cells.height,
        )
        found.lines = self.sheet.lines
        self.first = self._first_of_its_schools()
        assumed = within_year(dt.date.min if self.first else today, self.year)
        self.effective = settings.as_of or assumed
        if within_year(self.effective, self.year) != self.effective:
            raise InvalidQuestion(
                f"The roster's date must lie in the school year {self.year}. "
                f"It is {day(self.effective)} instead.",
                kept=KEPT,
            )
        self.characteristics = [
            c.role.split(":", 1)[1] for c in columns if c.role.startswith("characteristic:")
        ]

    def _first_of_its_schools(self) -> bool:
        """Whether no school of the file has a roster in this year yet."""
        at = position_of(self.columns, "school")
        named = {self.settings.school} - {""}
        named |= set(self.sheet.column(at).unique().to_list()) - {""} if at is not None else set()
        named = {self.snapshot.tables.names.means("school", name) for name in named}
        held: set[str] = set()
        for roll in self.snapshot.rolls:
            if roll.academic_year == self.year:
                places = np.unique(roll.school).tolist()
                held |= {self.snapshot.schools[n].name for n in places if n >= 0}
        return not named & held

    def plan(self) -> RosterPlan:
        frame = self._frame()
        frame = frame.filter(~pl.col("index").is_in(list(self.found.aside)))
        frame = self._without_number_or_school(frame)
        self.found.progress.at("match")
        frame = self._repaired(frame)
        frame = self._named_alike(frame)
        self.found.progress.at("check")
        memberships = memberships_of(frame)
        rows = self._one_row_each(frame)
        memberships = memberships.join(rows.select("number", "school"), on=["number", "school"])
        memberships = memberships.unique(
            ["number", "school", "kind", "class", "teacher", "course"],
            keep="first",
            maintain_order=True,
        )
        # Rows settled later say nothing about who else is at their school.
        named = self.settings.covers or sorted(rows["school"].unique().to_list())
        covers = [] if self.settings.settles else named
        self.found.progress.at("compare")
        examination = self._examination(rows, memberships, covers)
        return RosterPlan(
            examination, self.year, self.effective, covers, rows, memberships, self.sheet,
            self.found.aside, self.accepted,
        )  # fmt: skip

    def _frame(self) -> pl.DataFrame:
        """The file with our own column names; unread years and dates are findings."""
        sheet = self.sheet
        out: dict[str, pl.Series] = {
            "index": pl.Series(range(sheet.cells.height), dtype=pl.Int64),
            "line": pl.Series(sheet.lines),
        }
        blank = pl.Series([""] * sheet.cells.height, dtype=pl.String)
        for role in ("number", "year_level", "birth_date", *TEXTS):
            at = position_of(self.columns, role)
            out[role] = blank if at is None else sheet.column(at)
        for role in ("school", "year_level"):
            out[role] = out[role].replace("", getattr(self.settings, role))
        out["number"] = written_by_spreadsheet(out["number"])
        for column in self.columns:
            if column.role.startswith("characteristic:"):
                out["x:" + column.role.split(":", 1)[1]] = sheet.column(column.index)
        levels = year_levels(out["year_level"])
        self.found.unread("year_level", spoken().year_level, out["year_level"], levels)
        out["year_level"] = levels.fill_null(-1)
        births = dates(out["birth_date"], self.settings.date_order)
        self.found.unread("birth_date", "birth date", out["birth_date"], births.values)
        self.found.date_order(births, out["birth_date"])
        out["birth_date"] = births.values
        out["family_name"] = pl.Series(
            np.where(
                (out["family_name"] == "").to_numpy(),
                out["full_name"].to_numpy(),
                out["family_name"].to_numpy(),
            ),
            dtype=pl.String,
        )
        return pl.DataFrame(out).drop("full_name")

    def _without_number_or_school(self, frame: pl.DataFrame) -> pl.DataFrame:
        for role, label in (("number", "student number"), ("school", "school")):
            lacking = frame.filter(pl.col(role) == "")["index"].to_list()
            self.found.must_set_aside(
                f"no_{role}",
                f"{count(len(lacking), 'row')} without a {label}",
                "A student cannot be placed without it",
                lacking,
            )
            frame = frame.filter(pl.col(role) != "")
        return frame

    def _repaired(self, frame: pl.DataFrame) -> pl.DataFrame:
        """Known students under their own numbers: restored zeros, remembered and accepted ones."""
        names, births = who_columns(self.sheet, self.columns, self.settings.date_order)
        at = frame["index"].to_list()
        who = frame.select("index", "number").with_columns(name=names[at], birth=births[at])
        decisions = self.settings.decisions
        whose = Matching(who, self.snapshot, decisions, self.found, roster=True).whose()
        self.accepted, self.by_hand = whose.accepted, whose.by_hand
        known = whose.student != NONE
        numbers = frame["number"].to_numpy().copy()
        numbers[known] = self.snapshot.numbers[whose.student[known]]
        frame = frame.with_columns(
            number=pl.Series(numbers, dtype=pl.String), student=pl.Series(whose.student)
        )
        return frame.filter(~pl.col("index").is_in(list(self.found.aside)))

    def _named_alike(self, frame: pl.DataFrame) -> pl.DataFrame:
        """Names that are declared mean what they were said to; a school or characteristic near an
        existing name stops."""
        frame = self._declared(frame)
        known = [s.name for s in self.snapshot.schools]
        frame = self._settle_names(frame, "school", "school", known)
        for name in list(self.characteristics):
            # The district's own word for one means it; a word near either is asked about.
            called = {c.name: c.called for c in self.snapshot.characteristics}
            called |= {c.called: c.called for c in self.snapshot.characteristics}
            same = called.get(name)
            for new, other in near_pairs({name: frame.height}, list(called)):
                if self.found.near("characteristic", new, other) == "same":
                    same = called[other]
            if same is not None and same not in self.characteristics:
                self.characteristics[self.characteristics.index(name)] = same
                frame = frame.rename({f"x:{name}": f"x:{same}"})
        return frame

    def _declared(self, frame: pl.DataFrame) -> pl.DataFrame:
        """Schools, courses, characteristics and their values by what their names mean."""
        names, found = self.snapshot.tables.names, self.found
        for at, name in enumerate(self.characteristics):
            then = names.means("characteristic", name)
            if then not in self.characteristics:
                self.characteristics[at] = then
                frame = frame.rename({f"x:{name}": f"x:{then}"})
        read = {
            "school": found.declared("school", frame["school"], names.declared("school")),
            "course": found.declared("course", frame["course"], names.declared("subject")),
        }
        for name in self.characteristics:
            told = names.declared("value", name)
            read[f"x:{name}"] = found.declared(name, frame[f"x:{name}"], told)
        return frame.with_columns(**read)

    def _settle_names(
        self, frame: pl.DataFrame, column: str, what: str, known: list[str]
    ) -> pl.DataFrame:
        counts = {n: c for n, c in frame[column].value_counts().rows() if n not in known}
        for new, other in near_pairs(counts, known):
            held = frame.filter(pl.col(column) == new)["index"].to_list()
            choice = self.found.near(what, new, other, held)
            if choice == "same":
                frame = frame.with_columns(
                    pl.when(pl.col(column) == new)
                    .then(pl.lit(other))
                    .otherwise(pl.col(column))
                    .alias(column)
                )
            elif choice == "set_aside":
                frame = frame.filter(pl.col(column) != new)
        return frame

    def _one_row_each(self, frame: pl.DataFrame) -> pl.DataFrame:
        """Exact copies count once; rows that differ in the class only are memberships; rows
        that contradict each other stop."""
        telling = [c for c in frame.columns if c not in ("index", "line", *TAUGHT)]
        everything = [*telling, *TAUGHT]
        placed = frame.with_columns(line_index=pl.col("index"))
        copies = self.found.repeated(placed, everything, self.sheet, range(len(self.columns)))
        self._copies = len(copies)
        single = frame.unique(telling, keep="first", maintain_order=True)
        double = single.filter(pl.col("number").is_duplicated())
        kept = settle_doubles(
            "two_rows", "student", "with rows that contradict each other",
            f"Two schools, {spoken().year_levels} or characteristics for one number",
            _contradicting(double, telling), self.found,
        )  # fmt: skip
        lost = double.filter(~pl.col("index").is_in(kept))
        # Where no row counts, the rows with further classes go with them; a copy stays a copy.
        nobody = set(double["number"]) - set(double.filter(pl.col("index").is_in(kept))["number"])
        theirs = frame.filter(pl.col("number").is_in(list(nobody)))["index"].to_list()
        every = sorted(set(theirs) - set(copies))
        gone = dict.fromkeys([*lost["index"].to_list(), *every])
        self.found.put_aside(list(gone), "contradicted by another row")
        return single.filter(~pl.col("index").is_in(list(gone)))

    def _examination(
        self, rows: pl.DataFrame, memberships: pl.DataFrame, covers: list[str]
    ) -> Examination:
        snapshot = self.snapshot
        names = [s.name for s in snapshot.schools]
        unknown = [s for s in self.settings.covers if s not in [*names, *rows["school"].unique()]]
        if unknown:
            raise InvalidQuestion(
                f"The roster is said to cover “{unknown[0]}”, a school that nobody knows.",
                kept=KEPT,
            )
        note, there = self._standing()
        held = {c.role for c in self.columns}
        kinds = [kind for kind in CLASS_KINDS if kind in held]
        changes = roster_changes(
            snapshot, snapshot.roll_at(self.effective), rows, covers, memberships, kinds
        )
        counts = self._counts(changes, rows.height)
        counted = changes.counts
        matched = rows.height - counted.get("new", 0)
        repaired = self.found.count("zeros")
        picture = Picture(
            left="Students known so far",
            left_note=note,
            left_total=there,
            left_unmatched=counted.get("gone", 0),
            right=f"Roster {self.year}",
            right_note=f"as of {self.effective}",
            right_total=self.sheet.cells.height,
            right_unmatched=counted.get("new", 0),
            matched=matched,
            by_number=max(matched - repaired - self.by_hand, 0),
            by_repair=repaired,
            by_hand=self.by_hand,
            doubled=self._copies + self.found.count("two_rows"),
        )
        return Examination(
            kind="roster",
            title=f"Roster {self.year}",
            version=snapshot.version,
            columns=self.columns,
            roles=role_choices("roster"),
            defaults=self._defaults(covers),
            picture=picture,
            findings=self.found.all,
            counts=counts,
            creates=self._creates(rows, memberships),
            changes=changes.listed,
            change_groups=changes.groups(),
            first_look=[],
            lines_in_file=self.lines_in_file,
            rows_in_file=self.sheet.cells.height,
            rows_kept=self.sheet.cells.height - len(self.found.aside) - self._copies,
            rows_set_aside=len(self.found.aside),
            rows_copies=self._copies,
        )

    def _counts(self, changes: Changes, height: int) -> list[Count]:
        counted = changes.counts
        return [
            Count(key="students", label="Students on this roster", n=height),
            Count(key="new", label="Not seen before", n=counted.get("new", 0)),
            Count(key="moved", label="Changed school", n=counted.get("moved", 0)),
            Count(key="changed", label="Changed otherwise", n=changes.otherwise),
            Count(key="gone", label="No longer on roll", n=counted.get("gone", 0)),
            Count(key="set_aside", label="Set aside, nothing lost", n=len(self.found.aside)),
        ]

    def _standing(self) -> tuple[str, int]:
        """What the left side of the match shows: who was on roll before, in words and number."""
        roll = self.snapshot.roll_at(self.effective)
        if roll is None:
            return f"no roster of {self.year} yet", 0
        return f"on roll in {self.year}", int(np.count_nonzero(roll.school >= 0))

    def _defaults(self, covers: list[str]) -> list[DefaultUsed]:
        used = self.settings.taken_over()
        if not self.settings.academic_year:
            why = "as its column says" if self.year in self.said_years else "not given"
            used.append(DefaultUsed(key="academic_year", value=self.year, why=why))
        if not self.settings.as_of:
            first = "not given; a school's first roster of a year counts from its first day"
            why = first if self.first else "not given; today, for there is an earlier one"
            used.append(DefaultUsed(key="as_of", value=str(self.effective), why=why))
        if not self.settings.covers and not self.settings.settles:
            why = "the schools in the file; nobody of another school is taken to have left"
            used.append(DefaultUsed(key="covers", value=", ".join(covers), why=why))
        return used

    def _creates(self, rows: pl.DataFrame, memberships: pl.DataFrame) -> list[Creation]:
        snapshot = self.snapshot
        schools = {s.name for s in snapshot.schools}
        place = {s.id: s.name for s in snapshot.schools}
        classes = {
            (place.get(c.school_id), c.name)
            for c in snapshot.classes
            if c.academic_year == self.year
        }
        pairs = memberships.select("school", "class").unique().sort("school", "class").rows()
        characteristics = {c.called for c in snapshot.characteristics}
        made = {
            "schools": sorted(set(rows["school"].to_list()) - schools),
            "characteristics": [c for c in self.characteristics if c not in characteristics],
            "classes": [f"{s}: {c}" for s, c in pairs if (s, c) not in classes],
            "teachers": sorted(set(memberships["teacher"].to_list()) - set(snapshot.staff) - {""}),
        }
        return [Creation(kind=kind, names=names) for kind, names in made.items() if names]


def _contradicting(double: pl.DataFrame, telling: list[str]) -> DoubledRows:
    """Rows of one number that differ, each saying what it says differently."""
    shown = [c for c in telling if c not in ("number", "student")]
    rows = {row["index"]: row for row in double.iter_rows(named=True)}
    differs = double.group_by("number").agg(pl.col(shown).n_unique() > 1)
    other = {row["number"]: [c for c in shown if row[c]] for row in differs.iter_rows(named=True)}

    def says(index: int) -> str:
        row = rows[index]
        cells = [
            f"{c.removeprefix('x:').replace('_', ' ')} {row[c] or 'blank'}"
            for c in other[row["number"]]
        ]
        return ", ".join(cells)

    return DoubledRows(double, ["number"], lambda index: str(rows[index]["number"]), says)
