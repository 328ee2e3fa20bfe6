"""Students: the people behind a mark."""

from __future__ import annotations

from typing import Any, Literal

from bridge_chart.terms.answer import Body, Value


class StudentColumn(Value):
    """One column, a value for each student in the order shown."""

    key: str
    label: str
    kind: Literal["text", "number", "signed", "verdict"]
    values: list[Any]


class FileLine(Value):
    """A line of a kept file: which batch, and the file's own line number."""

    batch_id: int
    line: int


class StudentsBody(Body):
    """Columns rather than rows; `student` are opaque ids, in the order shown. `origins`: the line
    that each score came from, null where nothing was kept."""

    show: Literal["students"]
    student: list[int]
    origins: list[FileLine | None]
    columns: list[StudentColumn]
    counted: int
