"""The grid of students by results: it goes out to a spreadsheet or a screen to type into, and
comes back through the same intake as any file."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass

import numpy as np

from bridge_chart.intake.cells.values import CODE_MEANS
from bridge_chart.intake.columns.headings import role_of
from bridge_chart.intake.said.settings import About, IntakeSettings
from bridge_chart.store.snapshot import Array, MeasureKey, Roll, Snapshot
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.grid import (
    MOST_STUDENTS,
    NAME,
    NUMBER,
    Allowed,
    Grid,
    GridColumn,
    GridRow,
    GridSpec,
)
from bridge_chart.terms.wording import amount
from bridge_chart.terms.words import spoken


@dataclass(frozen=True)
class GridFile:
    """A grid as a file of the intake: its bytes, and what is said of it."""

    name: str
    data: bytes
    said: IntakeSettings


def grid_of(snapshot: Snapshot, spec: GridSpec) -> Grid:
    """The students and what is kept of them. InvalidQuestion where nobody is on that roll."""
    title, at = _students(snapshot, spec)
    measures = [_measure(snapshot, column) for column in spec.columns]
    columns = [
        _texts(m, snapshot.values(m)[at]) if m else np.full(len(at), "", object) for m in measures
    ]
    names = [
        f"{given} {family}".strip()
        for given, family in zip(
            snapshot.given_names[at].tolist(), snapshot.family_names[at].tolist(), strict=True
        )
    ]
    order = sorted(range(len(at)), key=lambda n: (names[n].split()[-1:] or [""], names[n]))
    numbers = snapshot.numbers[at].tolist()
    rows = [
        GridRow(number=numbers[n], name=names[n], cells=[str(c[n]) for c in columns]) for n in order
    ]
    return Grid(
        title=title,
        headers=[column.header for column in spec.columns],
        allowed=[
            _allowed(snapshot, column, measure)
            for column, measure in zip(spec.columns, measures, strict=True)
        ],
        rows=rows,
    )


def _students(snapshot: Snapshot, spec: GridSpec) -> tuple[str, Array]:
    if spec.students is not None:
        return spec.title or "Students", _these(snapshot, spec.students)
    roll = snapshot.roll_at(snapshot.today) if snapshot.today else None
    if roll is None:
        raise InvalidQuestion(
            "There is no roster yet, so that a grid would have no students.",
            next_step="Bring in a roster first.",
        )
    here = np.asarray(roll.school) >= 0
    title = "All students"
    if spec.class_id is not None:
        title, here = _class(snapshot, roll, spec.class_id)
    if spec.school_id is not None:
        places = [n for n, s in enumerate(snapshot.schools) if s.id == spec.school_id]
        here = here & np.isin(roll.school, places)
        title = next((s.name for s in snapshot.schools if s.id == spec.school_id), title)
    if spec.year_level is not None:
        here = here & (roll.year_level == spec.year_level)
        title = f"{title}, {spoken().level_name(spec.year_level)}"
    at = np.flatnonzero(here)
    _check_size(at)
    return spec.title or title, at


def _these(snapshot: Snapshot, ids: list[int]) -> Array:
    at = np.flatnonzero(np.isin(snapshot.student_ids, ids))
    if len(at) < len(set(ids)):
        raise InvalidQuestion(
            f"{amount(len(set(ids)) - len(at))} of these students are not in the record.",
            next_step="Take the students from a list as it is now.",
        )
    _check_size(at)
    return at


def _check_size(at: Array) -> None:
    if not 0 < len(at) <= MOST_STUDENTS:
        raise InvalidQuestion(
            f"A grid holds 1 to {amount(MOST_STUDENTS)} students. "
            f"This one would hold {amount(len(at))}.",
            next_step=f"Choose a class, or a school and {spoken().some_year_level}.",
        )


def _class(snapshot: Snapshot, roll: Roll, class_id: int) -> tuple[str, Array]:
    place = next((n for n, c in enumerate(snapshot.classes) if c.id == class_id), None)
    if place is None:
        raise InvalidQuestion(f"There is no class {class_id}.", next_step="Choose another.")
    members = roll.members[roll.members[:, 1] == place, 0]
    here = np.zeros(snapshot.students, bool)
    here[members] = True
    return f"Class {snapshot.classes[place].name}", here


def _measure(snapshot: Snapshot, column: GridColumn) -> MeasureKey | None:
    """What is kept under the column's names; None where nothing is."""
    for m in snapshot.measures:
        named = (m.assessment.name, m.subject.name if m.subject else "", m.sitting.name)
        if named != (column.test, column.subject, column.sitting):
            continue
        if column.role in ("predicted", "target"):
            if (m.role, m.kind) == (column.role, column.kind):
                return m
        elif (m.role, m.score) == ("result", column.role):
            return m
    return None


def _texts(measure: MeasureKey, values: Array) -> Array:
    """Cells as people write them."""
    out = np.full(len(values), "", object)
    held = ~np.isnan(values)
    if measure.steps:
        names = np.array(measure.steps, object)
        out[held] = names[values[held].astype(int) - 1]
    else:
        out[held] = [f"{value:.10g}" for value in values[held].tolist()]
    return out


def _allowed(snapshot: Snapshot, column: GridColumn, measure: MeasureKey | None) -> Allowed:
    stepped = column.role in ("level", "grade")
    claimed = column.role in ("predicted", "target")
    codes = [] if claimed else sorted(CODE_MEANS)
    kinds = [column.role] if stepped else ["grade", "level"] if claimed else []
    for kind in kinds:
        scale = snapshot.tables.scale(column.test, column.subject or None, kind)
        if scale is not None:
            told = {also: step.name for step in scale.steps for also in step.synonyms}
            return Allowed(steps=[step.name for step in scale.steps], synonyms=told, codes=codes)
    if measure is not None and measure.steps:
        return Allowed(steps=list(measure.steps), codes=codes)
    bounds = {"percent": (0.0, 100.0), "raw": (0.0, None)}.get(column.role, (None, None))
    return Allowed(lowest=bounds[0], highest=bounds[1], codes=codes)


def typed(spec: GridSpec, title: str, rows: list[GridRow]) -> GridFile:
    """What was typed as a file, with everything said that a file cannot say itself."""
    headers = [NUMBER, NAME, *(column.header for column in spec.columns)]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(headers)
    for row in rows:
        writer.writerow([row.number, row.name, *row.cells])
    roles = {f"#{n + 3}": role_of(column) for n, column in enumerate(spec.columns)}
    about = {
        f"#{n + 3}": About(test=c.test, subject=c.subject, sitting=c.sitting, date=c.date)
        for n, c in enumerate(spec.columns)
    }
    said = IntakeSettings(columns={"#1": "number", "#2": "full_name", **roles}, about=about)
    name = f"{title} typed.csv".replace("/", "-")
    return GridFile(name, out.getvalue().encode(), said)
