"""Over time: one line for each group, a point for each sitting."""

from __future__ import annotations

from typing import Literal

from bridge_chart.terms.answer import Body, Mark, Value, Verdict


class TimePoint(Mark):
    """A group at one sitting. `change`: from the sitting before, of the same students; `moved`:
    beyond chance, over all groups; `verdict`: held against what the others moved. `measure`: its
    place in the answer's measures."""

    measure: int
    label: str
    date: str
    value: float | None
    low: float | None
    high: float | None
    change: float | None = None
    change_low: float | None = None
    change_high: float | None = None
    change_n: int = 0
    moved: bool = False
    verdict: Verdict = "none"
    undefined: str | None = None


class Series(Value):
    """A group's points, earliest first; it may lack a sitting. `apart`: it moved more or less than
    the others did, beyond chance, at some sitting: its place among those that did, the furthest
    from them first, or, for who sees a part of the district, the largest change first."""

    key: str
    label: str
    apart: int | None = None
    points: list[TimePoint]


class TimeBody(Body):
    """`what`: what the points are."""

    show: Literal["over_time"]
    dimension: str
    unit: str
    what: str
    series: list[Series]
