"""Start to now: prior against outcome, with what is expected."""

from __future__ import annotations

from typing import Literal

from bridge_chart.terms.answer import Body, Mark, RowStep, Value
from bridge_chart.terms.question import Open


class Dots(Value):
    """Students as columns: start, outcome, group (−1: in none), whether in focus; `beyond`: the
    outcome minus what is expected, empty where nothing is. A mark opens its student."""

    marks: list[Mark]
    x: list[float]
    y: list[float]
    beyond: list[float | None]
    group: list[int]
    focus: list[bool]


class Cells(Value):
    """Cells over start and outcome, or over start and what is beyond the expected: (x, y)."""

    x_edges: list[float]
    y_edges: list[float]
    counts: list[list[int]]


class Region(Value):
    """The cells of the grid where the half of a group lies that is closest together, numbered
    through column after column; `beyond`: the same on the grid of what is beyond the expected."""

    group: int
    n: int
    cells: list[int]
    beyond: list[int]


class ExpectedLine(Value):
    """What similar starters reach, for one year level, over the range of its starts."""

    label: str
    n: int
    x: list[float]
    y: list[float]


class StartBody(Body):
    """`n`: those drawn, who have both scores; `missing`: those who lack one; `opens`: those who
    have a start, of whom the ones that are counted are drawn. `dots` are left out where there are
    too many; `grid` counts everybody; `beyond` likewise, where something is expected."""

    show: Literal["start_to_now"]
    n: int
    missing: int
    opens: Open | None
    x_label: str
    y_label: str
    unit: str
    groups: list[RowStep]
    correlation: float | None
    dots: Dots | None
    grid: Cells
    beyond: Cells | None
    regions: list[Region]
    lines: list[ExpectedLine]
