"""What students answered, question by question, as columns: one table for each form of a sitting.

Several files may bring marks of one form (a paper each, or letters beside marks); they become one
table. Where the key of a question is known, its letters are marked by it, so that a key that is
corrected later moves every mark of it.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Any, Protocol

import numpy as np
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.core.items.best import best_of
from bridge_chart.store.bulk import read_out
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.reference_tables import QuestionInfo, same

Array = NDArray[Any]
BLANK, NOTHING = -1, -2
"""In a table of marks: the student left it blank; nothing says a mark of this student."""


class Facts(Protocol):
    """One sitting's facts, as `measure_build` reads them."""

    builder: Any
    sitting: dict[str, Any]
    sitting_id: int
    sitting_ids: list[int]
    listed: str
    batches: list[int]

    def attempted(self, what: str) -> Array: ...


@dataclass(frozen=True)
class _Table:
    """at: positions of the students; marks, choices: (students, questions); options: what the
    choices are places in."""

    at: Array
    marks: Array
    choices: Array | None


def marked_forms(facts: Facts) -> list[dict[str, Any]]:
    """The manifest's part about a sitting: its forms with their questions and files."""
    listed = ",".join(map(str, facts.batches))
    found: dict[int, _Form] = {}
    for table, marked in (("mark_sheet", True), ("choice_sheet", False)):
        query = sa.text(
            f"SELECT DISTINCT paper.id, form_id, questions FROM paper JOIN {table} "
            f"ON paper_id = paper.id WHERE {table}.sitting_id IN ({facts.listed}) "
            f"AND batch_id IN ({listed}) ORDER BY paper.id"
        )
        for paper in facts.builder.connection.execute(query):
            form = found.setdefault(paper.form_id, _Form(facts, paper.form_id))
            form.add(int(paper.id), list(paper.questions), marked)
    return [found[form].described() for form in sorted(found)]


def totals(facts: Facts, forms: list[dict[str, Any]]) -> Array:
    """(students,) marks added up; NaN where nothing says one. Of a set of which some questions
    count, the best do."""
    out = np.full(len(facts.builder.ids), np.nan)
    for item in forms:
        at, marks = (np.asarray(facts.builder.columns.read(item["files"][name]))
                     for name in ("at", "marks"))  # fmt: skip
        infos = _infos(facts, item["form"], item["questions"])
        out[at] = added_up(marks, infos)
    return out


def counted_sets(facts: Facts, forms: list[dict[str, Any]]) -> list[Any]:
    """Which questions of each form are chosen among, and how many count."""
    return [
        [(info.choice, info.best) if info and info.choice else None
         for info in _infos(facts, item["form"], item["questions"])]
        for item in forms
    ]  # fmt: skip


def added_up(marks: Array, infos: list[QuestionInfo | None]) -> Array:
    """(students,) each student's marks, −1 and −2 counting none; NaN without any."""
    sets = [info.choice if info else "" for info in infos]
    held = np.where(marks >= 0, marks, 0).astype(np.float64)
    total = held[:, [n for n, name in enumerate(sets) if not name]].sum(axis=1)
    for name in sorted(set(sets) - {""}):
        of = [n for n, one in enumerate(sets) if one == name]
        count = next((i.best for n in of if (i := infos[n]) and i.best), len(of))
        total += best_of(held[:, of], count)
    return np.asarray(np.where((marks >= BLANK).any(axis=1), total, np.nan))


def _infos(facts: Facts, form: int, questions: list[str]) -> list[QuestionInfo | None]:
    about = facts.sitting
    named = about["forms"].get(str(form), about["forms"].get(form))
    known = facts.builder.tables.questions(
        about["assessment"], about["subject"], about["name"], named
    )
    return [known.get(same(name)) for name in questions]


class _Form:
    """A form of a sitting: the questions of all its files, in the order in which they came."""

    def __init__(self, facts: Facts, form: int) -> None:
        self.facts, self.form = facts, form
        self.places: dict[str, int] = {}
        self.questions: list[str] = []
        self.papers: dict[int, Array] = {}
        self.marked: list[int] = []
        self.chosen: list[int] = []

    def add(self, paper: int, questions: list[str], marked: bool) -> None:
        for name in questions:
            if same(name) not in self.places:
                self.places[same(name)] = len(self.questions)
                self.questions.append(name)
        self.papers[paper] = np.array([self.places[same(name)] for name in questions], np.int64)
        (self.marked if marked else self.chosen).append(paper)

    def described(self) -> dict[str, Any]:
        infos = _infos(self.facts, self.form, self.questions)
        keys = [(i.key, i.maximum) if i and i.key else None for i in infos] if self.chosen else []
        origin = [*self.facts.sitting_ids, self.form, self.questions, self.marked, self.chosen]
        files = {
            "at": self._file("marked", origin, lambda: self.table.at),
            "marks": self._file("marks", [*origin, keys], lambda: self.marks(infos)),
        }
        if self.chosen:
            files["choices"] = self._file("choices", origin, self._choices)
        written = _Texts(self)
        if written.any:
            files |= {name: self._file(name, origin, make) for name, make in written.files.items()}
        return {"form": self.form, "questions": self.questions, "options": self.options,
                "files": files}  # fmt: skip

    def _file(self, what: str, origin: list[Any], make: Any) -> str:
        facts = self.facts
        name = f"{what.replace('_', '')}-{facts.sitting_id}"
        return str(facts.builder.column(name, facts.batches, origin, make))

    def _choices(self) -> Array:
        assert self.table.choices is not None
        return self.table.choices

    @cached_property
    def _lists(self) -> dict[int, list[str]]:
        listed = ",".join(map(str, self.chosen)) or "0"
        query = sa.text(
            "SELECT DISTINCT option_list.id, names FROM option_list JOIN choice_sheet "
            f"ON options_id = option_list.id WHERE paper_id IN ({listed}) "
            f"AND batch_id IN ({','.join(map(str, self.facts.batches))}) ORDER BY option_list.id"
        )
        rows = self.facts.builder.connection.execute(query) if self.chosen else []
        return {int(row.id): list(row.names) for row in rows}

    @cached_property
    def options(self) -> list[str]:
        """Every option that somebody chose, once, whatever its case."""
        names: dict[str, str] = {}
        for held in self._lists.values():
            for name in held:
                names.setdefault(same(name), name)
        return sorted(names.values(), key=str.casefold)

    def marks(self, infos: list[QuestionInfo | None]) -> Array:
        """Marks as given, and of letters by the key that holds."""
        table = self.table
        marks = table.marks.copy()
        if table.choices is None:
            return marks
        for n, info in enumerate(infos):
            chosen = table.choices[:, n]
            if info is None or not info.key or not (chosen >= 0).any():
                continue
            worth = int(info.maximum or 1)
            won = np.array([worth if info.right(name) else 0 for name in self.options], np.int16)
            marks[:, n] = np.where(chosen >= 0, won[np.maximum(chosen, 0)], marks[:, n])
        return marks

    @cached_property
    def table(self) -> _Table:
        """All files of the form as one: a later one stands over an earlier where it says a mark."""
        marks = [(paper, self._read("mark_sheet", "marks", paper)) for paper in self.marked]
        chosen = [(paper, self._read("choice_sheet", "choices", paper)) for paper in self.chosen]
        both = [rows["at"] for _, rows in (*marks, *chosen)]
        students = np.unique(np.concatenate([*both, np.zeros(0, np.int32)]))
        out = np.full((len(students), len(self.questions)), NOTHING, np.int16)
        for paper, rows in marks:
            at, new = self._laid_out(rows, students, paper, "mark")
            before = out[np.ix_(at, self.papers[paper])]
            kept = (new == NOTHING) | ((new == BLANK) & (before >= 0))
            out[np.ix_(at, self.papers[paper])] = np.where(kept, before, new)
        choices = None
        if self.chosen:
            choices = np.full(out.shape, -1, np.int16)
            for paper, rows in chosen:
                self._choose(rows, students, paper, choices, out)
        stays = self._still_sat(students)
        return _Table(
            students[stays].astype(np.int32), out[stays],
            None if choices is None else choices[stays],
        )  # fmt: skip

    def _choose(
        self, rows: Array, students: Array, paper: int, choices: Array, marks: Array
    ) -> None:
        """Lay the choices of a file over those of earlier ones; a question that has options and was
        left without one is blank. In lists of options a blank is 0."""
        place = {same(name): n for n, name in enumerate(self.options)}
        coded = np.full(len(rows), -1, np.int16)
        for number, names in self._lists.items():
            code = np.array([-1, *(place[same(name)] for name in names)], np.int16)
            mine = rows["list"] == number
            coded[mine] = code[rows["mark"][mine] + 1]
        rows = rows.copy()
        rows["mark"] = coded
        at, new = self._laid_out(rows, students, paper, "mark")
        of = np.ix_(at, self.papers[paper])
        choices[of] = np.where(new >= 0, new, choices[of])
        asked = (new >= 0).any(axis=0)
        marks[of] = np.where((new == BLANK) & (marks[of] == NOTHING) & asked, BLANK, marks[of])

    def _laid_out(
        self, rows: Array, students: Array, paper: int, field: str
    ) -> tuple[Array, Array]:
        """Places in `students`, and (them, questions of the paper): −2 where there is no row. Rows
        come oldest batch first, so a later sheet overwrites an earlier one."""
        own = np.unique(rows["at"])
        new = np.full((len(own), len(self.papers[paper])), NOTHING, np.int16)
        new[np.searchsorted(own, rows["at"]), rows["place"] - 1] = rows[field]
        return np.searchsorted(students, own), new

    def _read(self, table: str, column: str, paper: int) -> Array:
        facts = self.facts
        listed = ",".join(map(str, facts.batches))
        told = "options_id" if table == "choice_sheet" else "0"
        rows = read_out(
            facts.builder.connection,
            f"SELECT batch_id, {table}.student_id AS at, place, mark, {told} AS list FROM {table}, "
            f"unnest(CASE WHEN paper_id = {paper} THEN {column} END) "
            f"WITH ORDINALITY AS m(mark, place) WHERE sitting_id IN ({facts.listed}) "
            f"AND batch_id IN ({listed})",
            np.dtype([("batch_id", np.int32), ("at", np.int32), ("place", np.int64),
                      ("mark", np.int16), ("list", np.int32)]),
        )  # fmt: skip
        rows = rows[np.argsort(rows["batch_id"], kind="stable")]
        rows["at"] = np.searchsorted(facts.builder.ids, rows["at"])
        return rows

    def _still_sat(self, students: Array) -> Array:
        """A newer attempt that was not sat takes the sheet away."""
        return np.asarray(self.facts.attempted("status")[students] == STATUSES.index("sat"))


class _Texts:
    """What students wrote about the questions of a form."""

    def __init__(self, form: _Form) -> None:
        self.form = form
        facts = form.facts
        self.where = (
            f"FROM written WHERE sitting_id IN ({facts.listed}) AND form_id = {form.form} "
            f"AND batch_id IN ({','.join(map(str, facts.batches))})"
        )

    @property
    def any(self) -> bool:
        query = sa.text(f"SELECT EXISTS (SELECT 1 {self.where})")
        return bool(self.form.facts.builder.connection.scalar(query))

    @property
    def files(self) -> dict[str, Any]:
        return {
            "written_at": lambda: self._told[0],
            "written_question": lambda: self._told[1],
            "ends": lambda: self._told[2],
            "bytes": lambda: self._told[3],
        }

    @cached_property
    def _told(self) -> tuple[Array, Array, Array, Array]:
        """The newest text of each student and question, by student."""
        facts = self.form.facts
        query = sa.text(f"SELECT student_id, question, text {self.where} ORDER BY batch_id, row")
        newest: dict[tuple[int, int], bytes] = {}
        for student, question, text in facts.builder.connection.execute(query):
            place = self.form.places.get(same(question))
            if place is not None:
                newest[int(student), place] = text.encode()
        keys = sorted(newest)
        at = np.searchsorted(facts.builder.ids, np.array([key[0] for key in keys], np.int32))
        ends = np.cumsum([len(newest[key]) for key in keys], dtype=np.int64)
        held = np.frombuffer(b"".join(newest[key] for key in keys), np.uint8)
        return at.astype(np.int32), np.array([key[1] for key in keys], np.int32), ends, held
