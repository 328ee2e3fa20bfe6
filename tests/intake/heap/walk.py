"""A file of the heap, with the fate of its every column and line, and the walk over its cells."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

import numpy as np
import sqlalchemy as sa
from tests.support import Place

from bridge_chart.intake.keep.keep import Plan
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import MeasureKey, Roll, Snapshot

Line = list[str]
Check = Callable[[Snapshot, int, str], None]
"""Whether a cell of a student (by position) is kept as it was said."""


@dataclass(frozen=True)
class Fate:
    """What becomes of a column: `check` of every kept cell, or it is left out and named so."""

    what: str
    check: Check | None = None


@dataclass(frozen=True)
class HeapFile:
    """`lines`: the file's cells as people see them, from line 1 on; `data`: the file itself;
    `columns`: the fate of each column; `rows`: what lines are that are no kept row (names, title,
    total, note, told, copy, blank, other, or “aside …” with the reason); `number`: the student of a
    row by its number's cell; `holds`: what else must be so after keeping."""

    name: str
    kind: str
    lines: list[Line]
    data: bytes
    columns: Sequence[Fate]
    rows: dict[int, str] = field(default_factory=dict)
    said: dict[str, object] = field(default_factory=dict)
    number: Callable[[str], str] = str
    at: int = 0
    before: Callable[[Place], None] | None = None
    holds: Callable[[Place, Plan], None] | None = None


# ── Fates ────────────────────────────────────────────────────────────────────
LEFT_OUT = Fate("left_out")
NUMBER = Fate("number", lambda s, at, cell: None)


def roll_of(snapshot: Snapshot) -> Roll:
    return snapshot.rolls[-1]


def same(what: str, of: Callable[[Snapshot, int], object], read: Callable[[str], object]) -> Fate:
    def check(snapshot: Snapshot, at: int, cell: str) -> None:
        assert of(snapshot, at) == read(cell), f"{what}: {of(snapshot, at)!r} for {cell!r}"

    return Fate(what, check)


def given(read: Callable[[str], object] = str) -> Fate:
    return same("given", lambda s, at: str(s.given_names[at]), read)


def family(read: Callable[[str], object] = str) -> Fate:
    return same("family", lambda s, at: str(s.family_names[at]), read)


def birth(read: Callable[[str], dt.date]) -> Fate:
    day0 = dt.date(1970, 1, 1)
    return same("birth", lambda s, at: day0 + dt.timedelta(int(s.birth_days[at])), read)


def school(read: Callable[[str], object] = str) -> Fate:
    return same("school", lambda s, at: s.schools[int(roll_of(s).school[at])].name, read)


def year(read: Callable[[str], object] = int) -> Fate:
    return same("year", lambda s, at: int(roll_of(s).year_level[at]), read)


def in_class(read: Callable[[str], object] = str) -> Fate:
    def check(snapshot: Snapshot, at: int, cell: str) -> None:
        members = np.asarray(roll_of(snapshot).members)
        names = {snapshot.classes[c].name for s, c in members.tolist() if s == at}
        assert read(cell) in names, f"class {cell!r} not in {names}"

    return Fate("class", check)


def taught_by() -> Fate:
    def check(snapshot: Snapshot, at: int, cell: str) -> None:
        members = np.asarray(roll_of(snapshot).members)
        mine = [snapshot.classes[c] for s, c in members.tolist() if s == at]
        assert cell in {snapshot.staff[t] for one in mine for t in one.teachers}

    return Fate("teacher", check)


def on_course() -> Fate:
    def check(snapshot: Snapshot, at: int, cell: str) -> None:
        members = np.asarray(roll_of(snapshot).members)
        mine = [snapshot.classes[c] for s, c in members.tolist() if s == at]
        assert cell in {course for one in mine for course in one.courses}

    return Fate("course", check)


def names_nothing() -> Fate:
    """A column that says of which school year its row is: the rows kept are of the newest roll."""
    return same("year", lambda s, at: roll_of(s).academic_year[:4], lambda cell: cell[:4])


def characteristic(name: str, read: Callable[[str], object] = str) -> Fate:
    def of(snapshot: Snapshot, at: int) -> object:
        item = next(c for c in snapshot.characteristics if c.called == name)
        code = int(roll_of(snapshot).characteristic(item.id, snapshot.students)[at])
        return item.options[code].name if code >= 0 else None

    return same(name, of, read)


def measure(
    snapshot: Snapshot, kind: str, subject: str, sitting: str, role: str = "result",
    test: str | None = None,
) -> MeasureKey:  # fmt: skip
    found = [
        m for m in snapshot.measures
        if (m.score, m.role) == (kind, role) and (m.subject.name if m.subject else "") == subject
        and m.sitting.name == sitting and test in (None, m.assessment.name)
    ]  # fmt: skip
    assert len(found) == 1, f"{len(found)} measures {kind} {subject} {sitting} {role}"
    return found[0]


Reads = Callable[[str], object]


def score(
    kind: str, sitting: str, subject: str = "", read: Reads = float, role: str = "result",
    test: str | None = None,
) -> Fate:  # fmt: skip
    """A figure, a step by its name, or the name of a status where there is no result."""

    def check(snapshot: Snapshot, at: int, cell: str) -> None:
        key = measure(snapshot, kind, subject, sitting, role, test)
        expected, value = read(cell), float(snapshot.values(key)[at])
        if expected in STATUSES:
            assert STATUSES[int(snapshot.status(key)[at])] == expected, f"{cell!r}"
            assert np.isnan(value), f"{cell!r} is counted"
        elif key.steps:
            assert key.steps[int(value) - 1] == expected, f"{cell!r}"
        else:
            assert value == expected, f"{cell!r} became {value}"

    return Fate("score", check)


def mark(question: str, sitting: str, read: Reads = int) -> Fate:
    def check(snapshot: Snapshot, at: int, cell: str) -> None:
        key = next(m for m in snapshot.measures if m.sitting.name == sitting)
        (paper,) = snapshot.marked_forms(key.sitting.id)
        place = int(np.flatnonzero(paper.at == at)[0])
        assert int(paper.marks[place, paper.questions.index(question)]) == read(cell)

    return Fate("mark", check)


def names_a(what: str, read: Callable[[str], object] = str) -> Fate:
    """A column that says which test, subject, sitting or date its row's result is of."""

    def check(snapshot: Snapshot, at: int, cell: str) -> None:
        of: dict[str, Callable[[MeasureKey], object]] = {
            "test": lambda m: m.assessment.name,
            "subject": lambda m: m.subject.name if m.subject else "",
            "sitting": lambda m: m.sitting.name, "date": lambda m: m.date,
        }  # fmt: skip
        mine = [m for m in snapshot.measures if STATUSES[int(snapshot.status(m)[at])] != "no_row"]
        assert read(cell) in {of[what](m) for m in mine}, f"{what} {cell!r}"

    return Fate(what, check)


def in_table(kind: str) -> Fate:
    """A cell of a table of reference: some row of it holds what the cell says."""

    def check(snapshot: Snapshot, at: int, cell: str) -> None:
        rows = snapshot.tables.rows(kind)
        held = {str(value) for row in rows for value in row.values() if not isinstance(value, list)}
        held |= {str(one) for row in rows for many in row.values() if isinstance(many, list)
                 for one in many}  # fmt: skip
        wanted = {cell, f"{float(cell)}"} if cell.replace(".", "").isdigit() else {cell}
        wanted |= set(cell.split("|")) if "|" in cell else set()
        assert wanted & held, f"{cell!r} is in no row of the table"

    return Fate("table", check)


# ── The walk ─────────────────────────────────────────────────────────────────
def walk(file: HeapFile, place: Place, plan: Plan) -> int:
    """Go over every cell of a file that was kept; give how many there were."""
    snapshot, shown = place.snapshot, plan.examination
    told = {line for found in shown.findings for line in found.rows}
    left = {one.header: one.n for one in shown.left_out}
    numbers = [str(n) for n in snapshot.numbers]
    aside = _aside(place)
    seen = 0
    for n, cells in enumerate(file.lines, start=1):
        fate = file.rows.get(n, "kept")
        for at, cell in enumerate(cells):
            if not cell.strip():
                continue
            seen += 1
            where = f"{file.name}, line {n}, cell {at + 1} ({cell!r}), {fate}"
            column = file.columns[at] if at < len(file.columns) else LEFT_OUT
            if fate.startswith("aside"):
                assert n in aside, f"{where}: not set aside"
                reasons, texts = aside[n]
                assert any(fate.removeprefix("aside").strip() in r for r in reasons), where
                assert cell.strip() in texts or column is LEFT_OUT, f"{where}: lost"
            elif fate in ("title", "total", "note", "names_again", "told", "copy"):
                assert n in told, f"{where}: no finding names the line"
            elif fate == "other":
                assert any(f.key in ("other_years", "left_behind") for f in shown.findings), where
            elif fate == "kept" and column is LEFT_OUT:
                header = shown.columns[at].header
                assert left.get(header, 0) > 0, f"{where}: {header!r} is not among what is left out"
            elif fate == "kept":
                number = file.number(cells[file.at].strip())
                who = numbers.index(number) if number else -1
                assert column.check is not None, where
                try:
                    column.check(snapshot, who, cell.strip())
                except AssertionError as error:
                    raise AssertionError(f"{where}: {error}") from error
    return seen


def _aside(place: Place) -> dict[int, tuple[set[str], set[str]]]:
    """Per line that is set aside: the reasons, and the texts of its cells."""
    out: dict[int, tuple[set[str], set[str]]] = {}
    with place.engine.connect() as connection:
        for line, reason, cells in connection.execute(
            sa.text("SELECT row, reason, cells FROM set_aside")
        ):
            reasons, texts = out.setdefault(line, (set(), set()))
            reasons.add(reason)
            texts |= {text for _, text in cells}
    return out
