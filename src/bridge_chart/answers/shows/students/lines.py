"""Students as lines: every value, and in columns of their own what stands beside it."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.students.body import StudentColumn, StudentsBody


def student_lines(body: StudentsBody) -> Lines:
    """A line for each row."""
    heads: list[Any] = []
    values: list[list[Any]] = []
    for column in body.columns:
        heads.append(column.label or column.key)
        values.append(column.values)
        for name, cells in _beside(column):
            heads.append(f"{column.label}: {name}")
            values.append(cells)
    if body.focus:
        heads.append("highlighted")
        values.append(["yes" if one else "" for one in body.focus])
    return heads, [list(line) for line in zip(*values, strict=True)]


def student_shades(body: StudentsBody) -> list[list[float | None]]:
    """For each cell of the lines, how the screen shades it."""
    none: list[float | None] = [None] * len(body.student)
    columns: list[list[float | None]] = []
    for column in body.columns:
        columns.append(column.tone or none)
        columns += [none for _ in _beside(column)]
    if body.focus:
        columns.append(none)
    return [list(line) for line in zip(*columns, strict=True)]


def _beside(column: StudentColumn) -> list[tuple[str, list[Any]]]:
    beside = [
        ("level", column.level),
        (column.of_label.lower() or "held against", column.of),
        ("away", column.away),
        ("sign", column.sign),
        ("why blank", column.why),
    ]
    return [(name, cells) for name, cells in beside if cells is not None and any(_said(cells))]


def _said(cells: list[Any]) -> list[bool]:
    return [cell not in (None, "", "none") for cell in cells]
