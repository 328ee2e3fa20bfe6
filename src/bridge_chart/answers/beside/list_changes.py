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
    """`since`: the version it is held against, None where there is none to hold it against.
    `shifted`: further rows in which nothing but what is expected moved, as it does for everybody
    when somebody's result comes in."""

    since: int | None
    version: int
    rows: list[RowChange]
    shifted: int = 0


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
    shifted = sum(
        one in old and old[one] != cells and _changed(one, old[one], cells) is None
        for one, cells in new.items()
    )
    return ListChanges(since=since, version=version, rows=changed, shifted=shifted)


Cells = dict[str, tuple[str, str, str]]
"""By the column's key: its label, the cell in words, and what of it is the student's own."""


def _changed(student: int, before: Cells | None, now: Cells) -> RowChange | None:
    name = now["name"][1]
    if before is None:
        return RowChange(student=student, name=name, came=True)
    both = [(key, cell) for key, cell in now.items() if key in before]
    cells = [
        CellChange(column=label, before=before[key][1], now=told)
        for key, (label, told, _) in both
        if before[key][1] != told
    ]
    own = any(before[key][2] != mine for key, (_, _, mine) in both)
    return RowChange(student=student, name=name, cells=cells) if own else None


def _rows(answer: Answer) -> dict[int, Cells]:
    body = answer.body
    assert isinstance(body, StudentsBody)
    shown = [c for c in body.columns if c.key not in QUIET and not c.key.startswith("split_")]
    return {
        student: {
            column.key: (column.label or "mark", _cell(column, at), _own(column, at))
            for column in shown
        }
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


def _own(column: StudentColumn, at: int) -> str:
    """What of a cell is the student's own: not what is expected of them, which hangs on others."""
    if column.kind in ("signed", "verdict") or column.key == "expected":
        return str(column.values[at] is None)
    why = "" if column.why is None else column.why[at]
    level = "" if column.level is None else column.level[at]
    return f"{column.values[at]}, {level}, {why}"
