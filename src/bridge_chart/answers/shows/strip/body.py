"""The split strip: how far apart the groups of every characteristic are."""

from __future__ import annotations

from typing import Literal

from bridge_chart.terms.answer import Body, Value
from bridge_chart.terms.question import Dimension


class StripMark(Value):
    """One group of an entry, by its place along the strip."""

    label: str
    n: int
    value: float


class StripEntry(Value):
    """How far apart the groups of one dimension are; choosing it splits by it."""

    dimension: Dimension
    label: str
    groups: int
    kind: Literal["gap", "spread"]
    size: float | None
    low: float | None = None
    high: float | None = None
    beyond_chance: bool | None = None
    n: int
    missing: int
    marks: list[StripMark]


class StripBody(Body):
    """One entry for each dimension."""

    show: Literal["strip"]
    entries: list[StripEntry]
