"""Students as lines: every value, and in columns of their own what stands beside it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.students.body import StudentColumn, StudentsBody, Total


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
    if body.groups:
        heads.append("under")
        values.append([body.groups[at].label for at in body.in_group])
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
    columns += [none] * (bool(body.groups) + bool(body.focus))
    return [list(line) for line in zip(*columns, strict=True)]


def student_foot(body: StudentsBody) -> list[list[Any]]:
    """What the columns come to, for each heading and for all: a line for each figure of them."""
    if not any(column.total for column in body.columns):
        return []
    lines: list[list[Any]] = []
    for at, group in enumerate(body.groups):
        lines += _foot(body, group.label, [_nth(column.by_group, at) for column in body.columns])
    return lines + _foot(body, "all", [column.total for column in body.columns])


def _foot(body: StudentsBody, whose: str, totals: list[Total | None]) -> list[list[Any]]:
    lines = []
    for name, told in TOLD:
        line: list[Any] = []
        for column, total in zip(body.columns, totals, strict=True):
            line.append(None if total is None else told(total))
            line += [None] * len(_beside(column))
        if any(cell is not None for cell in line[1:]):
            lines.append([f"{whose}: {name}", *line[1:]])
    return lines


def _nth(totals: list[Total], at: int) -> Total | None:
    return totals[at] if at < len(totals) else None


def _counted(total: Total) -> str | None:
    return ", ".join(f"{one.label} {one.n}" for one in total.counts) or None


TOLD: tuple[tuple[str, Callable[[Total], Any]], ...] = (
    ("mean", lambda total: total.mean),
    ("mean, 95% from", lambda total: total.low),
    ("mean, 95% to", lambda total: total.high),
    ("median", lambda total: total.median),
    ("how many of each", _counted),
    ("at or above what each is held against", lambda total: total.met),
    ("n", lambda total: total.n),
    ("missing", lambda total: total.missing),
)
"""The lines under a list, and what each tells of a column."""


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
