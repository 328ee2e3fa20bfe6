"""Start to now: prior against outcome, with what is expected."""

from __future__ import annotations

from typing import Literal

from bridge_chart.terms.answer import Body, RowStep, Value
from bridge_chart.terms.question import Open


class Dots(Value):
    """Students as columns: start, outcome, group; `student` is an opaque id, and with it in
    `students` of the body's `opens` a dot opens its student."""

    student: list[int]
    x: list[float]
    y: list[float]
    group: list[int]
    focus: list[bool]


class Density(Value):
    """Counts of students in cells of a grid, where there are too many for dots."""

    x_edges: list[float]
    y_edges: list[float]
    counts: list[list[int]]


class ExpectedLine(Value):
    """What similar starters reach, for one year level, over the range of its starts."""

    label: str
    n: int
    x: list[float]
    y: list[float]


class StartBody(Body):
    """`n`: those drawn, who have both scores; `missing`: those who lack one; `opens`: those who
    have a start, of whom the ones that are counted are drawn."""

    show: Literal["start_to_now"]
    n: int
    missing: int
    opens: Open | None
    x_label: str
    y_label: str
    groups: list[RowStep]
    correlation: float | None
    dots: Dots | None
    density: Density | None
    lines: list[ExpectedLine]
