"""Reading a snapshot: columns of NumPy arrays aligned on students, memory-mapped.

A snapshot belongs to one version and never changes; workers share it through the page cache.
`store.snapshot_build` writes it. What somebody with a scope gets is another snapshot, that holds
nothing else than their students (`access.scoped`); whoever reads one never asks whose it is.
"""

from __future__ import annotations

import datetime as dt
import hashlib
from copy import copy
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bridge_chart.store.codes import CLASS_KINDS
from bridge_chart.store.columns import Columns, Mend, Seal
from bridge_chart.store.reference_tables import ReferenceTables
from bridge_chart.terms.calendar import school_year_of
from bridge_chart.terms.people import Scope
from bridge_chart.terms.words import spoken

Array = NDArray[Any]
NOBODY = -1
UNKNOWN_DAY = int(np.iinfo(np.int32).min)
"""A birth day that is not known."""


@dataclass(frozen=True)
class Erased:
    """Students who were erased after a version, and the sittings in which they had results."""

    students: int
    sittings: frozenset[int]


@dataclass(frozen=True)
class Named:
    """An identity in use: a school, a class, a characteristic's option … `also`: other ids that
    mean the same, as the district declared."""

    id: int
    name: str
    also: tuple[int, ...] = ()

    @property
    def ids(self) -> tuple[int, ...]:
        return (self.id, *self.also)


@dataclass(frozen=True)
class Characteristic:
    """called: as the first roster wrote it; by that it is found again in every file. holds: groups,
    ordered, or text (`same_names.HOLDS`); also: as of `Named`."""

    id: int
    called: str
    options: tuple[Named, ...]
    holds: str = "groups"
    also: tuple[int, ...] = ()

    @property
    def name(self) -> str:
        """As the district calls it."""
        return spoken().characteristics.get(self.id, self.called)


@dataclass(frozen=True)
class SchoolClass:
    """A class of one school year. `teachers`: positions in `Snapshot.staff`; `courses`: the
    subjects that it is taught, where a roster says so; `kinds`: as of `codes.CLASS_KINDS`."""

    id: int
    name: str
    school_id: int
    academic_year: str
    teachers: tuple[int, ...]
    courses: tuple[str, ...] = ()
    also: tuple[int, ...] = ()
    kinds: tuple[str, ...] = ()


@dataclass(frozen=True)
class MeasureKey:
    """One sitting of one assessment (in one subject) in one kind of score."""

    key: str
    assessment: Named
    subject: Named | None
    sitting: Named
    date: dt.date
    academic_year: str
    score: str
    steps: tuple[str, ...]
    decimals: int
    set_aside: int
    role: str = "result"
    kind: str = ""
    points: tuple[float | None, ...] = ()
    pass_at: int | None = None
    forms: tuple[Named, ...] = ()

    @property
    def about(self) -> str:
        """The subject, or the test's name where it has none."""
        return self.subject.name if self.subject else self.assessment.name

    @property
    def label(self) -> str:
        """As people say it: “Mathematics, spring 2026”, “Reading, June 2026, floor target”."""
        claimed = "" if self.role == "result" else f", {f'{self.kind} {self.role}'.strip()}"
        return f"{self.about}, {self.sitting.name}{claimed}"


@dataclass(frozen=True)
class MarkedForm:
    """What students answered on one form (None: the test has none), question by question. `at`:
    positions of the students, ascending; `marks`: (students, questions) int16, −1 = left blank,
    −2 = nothing says a mark; `choices`: int16 place in `options`, −1 = none, None: no question has
    options; `written`: (texts,) row of the student, question, and where its text is."""

    form: int | None
    questions: tuple[str, ...]
    at: Array
    marks: Array
    choices: Array | None = None
    options: tuple[str, ...] = ()
    written: Written | None = None


@dataclass(frozen=True)
class Written:
    """Texts of students: whose (positions of the snapshot), about which question, and the texts one
    after the other in UTF-8, each up to its end."""

    at: Array
    question: Array
    ends: Array
    bytes: Array

    def text(self, n: int) -> str:
        first = int(self.ends[n - 1]) if n else 0
        return bytes(self.bytes[first : int(self.ends[n])]).decode()


@dataclass(frozen=True)
class KeptCredits:
    """Credit records, ascending by student, all (records,): position of the student; places in
    `names` of standard, title, subject, level, kind and result (−1 = not said); credits in whole
    parts (`parts` of them make one); banked, else estimated; days since 1970; batch and line."""

    student: Array
    codes: dict[str, Array]
    credits: Array
    banked: Array
    day: Array
    batch: Array
    line: Array
    names: dict[str, tuple[str, ...]]
    parts: int

    def of(self, rows: Array, student: Array) -> KeptCredits:
        """Some of the records, of students under other positions."""
        codes = {name: column[rows] for name, column in self.codes.items()}
        return KeptCredits(
            student, codes, self.credits[rows], self.banked[rows], self.day[rows],
            self.batch[rows], self.line[rows], self.names, self.parts,
        )  # fmt: skip


class Roll:
    """Who was where: the rosters of one school year as they stood from one date on.

    Arrays are (students,) and hold positions in the snapshot's lists, −1 = none or unknown.
    """

    def __init__(self, columns: Columns, spec: dict[str, Any]) -> None:
        self._columns = columns
        self._spec = spec
        self.academic_year: str = spec["year"]
        self.since = dt.date.fromisoformat(spec["since"])
        self.key: str = f"{spec['year']}@{spec['since']}"

    def _load(self, name: str) -> Array:
        return self._columns.read(name)

    @cached_property
    def school(self) -> Array:
        return self._load(self._spec["school"])

    @cached_property
    def year_level(self) -> Array:
        return self._load(self._spec["year_level"])

    @cached_property
    def members(self) -> Array:
        """(memberships, 2): student position, class position; sorted by student."""
        return self._load(self._spec["members"])

    @cached_property
    def somewhere(self) -> Array:
        """(students,) bool: on roll in some school then, whether or not that school may be seen."""
        return np.asarray(self.school >= 0)

    def characteristic(self, characteristic_id: int, students: int) -> Array:
        """Option positions (students,); −1 everywhere where the rosters never had it."""
        name = self._spec["characteristics"].get(str(characteristic_id))
        return self._load(name) if name else np.full(students, NOBODY, np.int16)


@dataclass(frozen=True)
class Edits:
    """Results that are tried: the values of some students (by id, ascending) in one measure.
    `refit`: whether what is fitted on the district is fitted on them too."""

    measure: str
    students: tuple[int, ...]
    values: tuple[float, ...]
    refit: bool = False

    @cached_property
    def key(self) -> str:
        told = repr((self.measure, self.students, self.values, self.refit))
        return hashlib.sha256(told.encode()).hexdigest()[:24]

    def made_on(self, kept: Array, ids: Array) -> Array:
        """A column with the tried values; a student who is not there, or has none, stays so."""
        out = np.array(kept, np.float64)
        told = np.array(self.students)
        at = np.minimum(np.searchsorted(ids, told), len(ids) - 1)
        there = (ids[at] == told) & ~np.isnan(out[at])
        out[at[there]] = np.array(self.values)[there]
        return out


class Snapshot:
    """Everything that is known at one version. `scope`: whose students it holds; `paired`: which
    classes of others (ids of a sitting and of a class) stand beside the asker's own;
    `names_hidden`: whether nothing that may hold a name is shown; `key`: what it is called where
    figures of it are kept. `credit_years`: of each school year with credit records the credits
    banked until then, a measure but no test, so not among `measures`."""

    scope: Scope = Scope(None)
    edits: Edits | None = None
    untried: Snapshot
    paired: frozenset[tuple[int, int]] = frozenset()
    names_hidden: bool = False

    @property
    def whose(self) -> str:
        """Whose students it holds, in words."""
        if self.scope.whole:
            return "the whole district"
        taught = {name for _, name in self.scope.teachers}
        named = [
            school.name for school in self.schools if {*school.ids} & (self.scope.schools or set())
        ]
        classes = [f"the classes of {name}" for name in sorted(taught)]
        return " and ".join([*named, *classes]) or "no school"

    def __init__(self, folder: Path, spec: dict[str, Any], mend: Mend | None = None) -> None:
        self.folder = folder
        self.version: int = spec["version"]
        self.identity: str = spec["identity"]
        self.key = self.identity
        self._spec = spec
        self._columns = Columns(folder, seals_of(spec), mend)
        self.students: int = spec["students"]
        self.today = dt.date.fromisoformat(spec["today"]) if spec["today"] else None
        self.schools = [_named(school) for school in spec["schools"]]
        self.staff: list[str] = spec["staff"]
        self.classes = [
            SchoolClass(
                **{
                    **item,
                    "teachers": tuple(item["teachers"]),
                    "courses": tuple(item["courses"]),
                    "also": tuple(item["also"]),
                    "kinds": tuple(CLASS_KINDS[kind] for kind in item["kinds"]),
                }
            )
            for item in spec["classes"]
        ]
        self.characteristics = [
            Characteristic(
                c["id"], c["name"], tuple(map(_named, c["options"])), c["holds"], tuple(c["also"])
            )
            for c in spec["characteristics"]
        ]
        self.measures = [_measure(item) for item in spec["measures"]]
        self.credit_years = [_measure(item) for item in spec["credit_years"]]
        self.rolls = [Roll(self._columns, roll) for roll in spec["rolls"]]
        self.tables = ReferenceTables(spec["tables"])
        self.erased = [
            Erased(one["students"], frozenset(one["sittings"])) for one in spec["erased"]
        ]
        self.files: dict[int, str] = {int(key): name for key, name in spec["files"].items()}

    def column(self, name: str) -> Array:
        return self._columns.read(name)

    @cached_property
    def student_ids(self) -> Array:
        return self.column(self._spec["student_ids"])

    @cached_property
    def numbers(self) -> Array:
        return self.column(self._spec["numbers"])

    @cached_property
    def given_names(self) -> Array:
        return self.column(self._spec["given_names"])

    @cached_property
    def family_names(self) -> Array:
        return self.column(self._spec["family_names"])

    @cached_property
    def birth_days(self) -> Array:
        """(students,) int32 days since 1970-01-01, UNKNOWN_DAY = not known."""
        return self.column(self._spec["birth_days"])

    @cached_property
    def aliases(self) -> dict[str, int]:
        """What files wrote instead of a number, as accepted by a person → position."""
        told: dict[str, int] = self._spec["aliases"]
        at = np.searchsorted(self.student_ids, np.array(list(told.values()), np.int64))
        return dict(zip(told, at.tolist(), strict=True))

    @cached_property
    def listed(self) -> Array:
        """Whether any kept roster speaks of the student (bool)."""
        return self.column(self._spec["listed"])

    def values(self, measure: MeasureKey) -> Array:
        """(students,) float64; NaN where there is none; the step's position for levels."""
        kept = self._values(measure)
        if self.edits is None or self.edits.measure != measure.key:
            return kept
        return self.edits.made_on(kept, np.asarray(self.student_ids))

    def _values(self, measure: MeasureKey) -> Array:
        return self.column(self._measure_files(measure)["value"])

    def tried(self, edits: Edits) -> Snapshot:
        """The same record with some results as they are tried, under a key of its own; nothing of
        it is kept. `untried` gives back what is."""
        made = copy(self)
        made.edits, made.untried = edits, self
        made.key = f"{self.key}, tried {edits.key}"
        return made

    def seen(self, measure: MeasureKey) -> Array:
        """(students,) bool: whose result in a measure may be seen; here everybody's."""
        del measure
        return np.ones(self.students, bool)

    def order(self, measure: MeasureKey) -> Array:
        """Positions of the students with a value, ascending by value."""
        if self.edits is not None and self.edits.measure == measure.key:
            values = np.asarray(self.values(measure))
            held = np.flatnonzero(~np.isnan(values))
            return np.asarray(held[np.argsort(values[held], kind="stable")], np.int32)
        return self._order(measure)

    def _order(self, measure: MeasureKey) -> Array:
        return self.column(self._measure_files(measure)["order"])

    def status(self, measure: MeasureKey) -> Array:
        """(students,) index into `store.codes.STATUSES`."""
        return self.column(self._measure_files(measure)["status"])

    def tested_year_level(self, measure: MeasureKey) -> Array:
        """(students,) as the file said, −1 where it did not."""
        return self.column(self._measure_files(measure)["tested_year_level"])

    def form(self, measure: MeasureKey) -> Array:
        """(students,) id of the form that was sat, 0 = none or not said."""
        return self.column(self._measure_files(measure)["form"])

    def marked_forms(self, sitting_id: int) -> list[MarkedForm]:
        """The forms of a sitting of which is known how each question was answered."""
        held = self._spec.get("marked_forms", {}).get(str(sitting_id), [])
        return [self._marked_form(item) for item in held]

    def _marked_form(self, item: dict[str, Any]) -> MarkedForm:
        files: dict[str, str] = item["files"]
        written = None
        if "ends" in files:
            told = ("written_at", "written_question", "ends", "bytes")
            written = Written(*(self.column(files[name]) for name in told))
        return MarkedForm(
            item["form"] or None, tuple(item["questions"]), self.column(files["at"]),
            self.column(files["marks"]),
            self.column(files["choices"]) if "choices" in files else None,
            tuple(item["options"]), written,
        )  # fmt: skip

    @cached_property
    def credits(self) -> KeptCredits | None:
        """The credit records that hold; None where there are none."""
        told = self._spec["credits"]
        if told is None:
            return None
        held = {name: self.column(file) for name, file in told["files"].items()}
        names = {name: tuple(texts) for name, texts in told["names"].items()}
        return KeptCredits(
            held["student"], {name: held[name] for name in names}, held["credits"],
            held["banked"], held["day"], held["batch"], held["line"], names, told["parts"],
        )  # fmt: skip

    def origin(self, measure: MeasureKey) -> tuple[Array, Array]:
        """Batch and the file's own line of each student's row, (students,); 0 = none."""
        files = self._measure_files(measure)
        return self.column(files["batch"]), self.column(files["line"])

    def _measure_files(self, measure: MeasureKey) -> dict[str, str]:
        files: dict[str, str] = self._spec["measure_files"][measure.key]
        return files

    def roll_at(self, date: dt.date) -> Roll | None:
        """The roll that held on a date: the newest roster of its school year that had come by
        then, or that year's first one if the date is earlier; None without a roster."""
        same_year = [r for r in self.rolls if r.academic_year == school_year_of(date)]
        return next((r for r in reversed(same_year) if r.since <= date), None) or next(
            iter(same_year), None
        )


def seals_of(manifest: dict[str, Any]) -> dict[str, Seal]:
    """What a manifest says that its columns must be."""
    return {name: Seal(*sealed) for name, sealed in manifest["seals"].items()}


def _named(item: dict[str, Any]) -> Named:
    return Named(item["id"], item["name"], tuple(item["also"]))


def _measure(item: dict[str, Any]) -> MeasureKey:
    return MeasureKey(
        key=item["key"],
        assessment=_named(item["assessment"]),
        subject=_named(item["subject"]) if item["subject"] else None,
        sitting=_named(item["sitting"]),
        date=dt.date.fromisoformat(item["date"]),
        academic_year=item["academic_year"],
        score=item["score"],
        steps=tuple(item["steps"]),
        decimals=item["decimals"],
        set_aside=item["set_aside"],
        role=item["role"],
        kind=item["kind"],
        points=tuple(item["points"]),
        pass_at=item["pass_at"],
        forms=tuple(Named(int(k), v) for k, v in item["forms"].items()),
    )
