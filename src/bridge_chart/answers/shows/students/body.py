"""Students: the people behind a mark, or of a list."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from bridge_chart.terms.answer import Body, Value
from bridge_chart.terms.question import Column, Open


class CountOf(Value):
    """How many have a value."""

    label: str
    n: int


class Total(Value):
    """A column over some students: `n` with a value, `missing` without; the mean with its interval
    (each student a draw) and the median of figures, how many have which of a few values. `met`:
    how many are at or above what they are held against."""

    n: int
    missing: int
    mean: float | None = None
    low: float | None = None
    high: float | None = None
    median: float | None = None
    counts: list[CountOf] = Field(default_factory=list)
    met: int | None = None


class StudentColumn(Value):
    """One column, a value for each row in the order shown. Beside the values may stand, for each:
    `level` (the level of the same sitting), `of` (what it is held against), `away` (how far from
    that), `tone` (−3 to 3: below or above the pass line, or steps from what it is held against),
    `sign` (“ahead”, “behind”: beyond one error of prediction; else “none”), `why` (it is blank).

    group, short: the heading above it and its own below, where several belong together. asked: the
    column as a question writes it, None for those that every list has. of_label: what `of` is.
    """

    key: str
    label: str
    kind: Literal["text", "number", "signed", "verdict"]
    group: str = ""
    short: str = ""
    decimals: int | None = None
    of_label: str = ""
    asked: Column | None = None
    values: list[Any]
    level: list[str] | None = None
    of: list[Any] | None = None
    away: list[float | None] | None = None
    tone: list[float | None] | None = None
    sign: list[str] | None = None
    why: list[str] | None = None
    total: Total | None = None
    by_group: list[Total] = Field(default_factory=list)


class FileLine(Value):
    """A line of a kept file: which batch, and the file's own line number."""

    batch_id: int
    line: int


class ListGroup(Value):
    """Students under one heading. `n`: how many; `opens`: what lists them alone."""

    key: str
    label: str
    n: int
    opens: Open | None = None


class StudentsBody(Body):
    """Columns rather than rows; `student` are opaque ids, in the order shown. `origins`: the line
    that each score came from, null where nothing was kept. `groups`: headings, where the list is
    split, and `in_group`: the place of each row's; who is in two groups stands under both.
    `focus`: who is highlighted, where somebody is."""

    show: Literal["students"]
    student: list[int]
    origins: list[FileLine | None]
    columns: list[StudentColumn]
    counted: int
    groups: list[ListGroup] = Field(default_factory=list)
    in_group: list[int] = Field(default_factory=list)
    focus: list[bool] = Field(default_factory=list)
