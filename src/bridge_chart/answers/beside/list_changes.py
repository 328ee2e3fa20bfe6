"""What changed in a list between two versions: who came, who went, which values are others."""

from __future__ import annotations

from pydantic import Field

from bridge_chart.answers.asking.answer import Answer
from bridge_chart.answers.shows.students.body import StudentColumn, StudentsBody
from bridge_chart.terms.answer import Value

QUIET = ("origin",)
"""Columns whose values may be others without anything being told by it."""


class CellChange(Value):
    column: str
    before: str
    now: str


class RowChange(Value):
    """A student of the list. `came`, `went`: not in it before, no longer in it."""

    student: int
    name: str
    came: bool = False
    went: bool = False
    cells: list[CellChange] = Field(default_factory=list)


class ListChanges(Value):
    """`since`: the version it is held against, None where there is none to hold it against."""

    since: int | None
    version: int
    rows: list[RowChange]


def changes_between(
    before: Answer | None, now: Answer, since: int | None, version: int
) -> ListChanges:
    """The changes of a list's rows; a column that only one of both has is left out."""
    if before is None:
        return ListChanges(since=since, version=version, rows=[])
    old, new = _rows(before), _rows(now)
    rows: list[RowChange | None] = [
        _changed(one, old.get(one), cells) for one, cells in new.items()
    ]
    rows += [
        RowChange(student=one, name=cells["name"][1], went=True)
        for one, cells in old.items()
        if one not in new
    ]
    changed = [row for row in rows if row is not None]
    return ListChanges(since=since, version=version, rows=changed)


Cells = dict[str, tuple[str, str]]
"""By the column's key: its label, and the cell in words."""


def _changed(student: int, before: Cells | None, now: Cells) -> RowChange | None:
    name = now["name"][1]
    if before is None:
        return RowChange(student=student, name=name, came=True)
    cells = [
        CellChange(column=label, before=before[key][1], now=cell)
        for key, (label, cell) in now.items()
        if key in before and before[key][1] != cell
    ]
    return RowChange(student=student, name=name, cells=cells) if cells else None


def _rows(answer: Answer) -> dict[int, Cells]:
    body = answer.body
    assert isinstance(body, StudentsBody)
    shown = [c for c in body.columns if c.key not in QUIET and not c.key.startswith("split_")]
    return {
        student: {column.key: (column.label or "mark", _cell(column, at)) for column in shown}
        for at, student in enumerate(body.student)
    }


def _cell(column: StudentColumn, at: int) -> str:
    value = column.values[at]
    beside = [
        cells[at]
        for cells in (column.level, column.of, column.away, column.why)
        if cells is not None
    ]
    told = [f"{v:.4g}" if isinstance(v, float) else str(v) for v in (value, *beside) if v]
    return ", ".join(told)
