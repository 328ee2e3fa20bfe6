"""Spread: histogram, box and share at or above, on one axis."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.answer import Body, Mark, Value


class Curve(Mark):
    """One group's distribution: counts per bin, the share at or above each score, the box;
    `expected`: the share that the yardstick would have at or above each score, of the same
    students. Shares are left out where there are too many groups for curves. `measure`: its place
    in the answer's measures; `pinned`: a reference, not a group."""

    key: str
    label: str
    measure: int
    counts: list[int]
    at: list[float]
    share: list[float]
    low: list[float]
    high: list[float]
    expected: list[float] = Field(default_factory=list)
    mean: float | None = None
    sd: float | None = None
    minimum: float | None = None
    p10: float | None = None
    q1: float | None = None
    median: float | None = None
    q3: float | None = None
    p90: float | None = None
    maximum: float | None = None
    undefined: str | None = None
    pinned: bool = False


class CutLine(Value):
    """A boundary or cut score; half: where the upper half of a level begins."""

    label: str
    at: float
    half: bool = False


class SpreadOptions(BaseModel):
    """within: how far from a boundary somebody is near it, in the score's own unit; none: as far as
    another sitting could have moved them. halves: whether levels are parted into halves."""

    model_config = ConfigDict(extra="forbid")

    within: float | None = Field(default=None, gt=0, le=1000)
    halves: bool = False


class NearOne(Value):
    """A boundary, and who is near it: short of it, and on it or just above."""

    label: str
    below: Mark
    above: Mark


class Near(Value):
    """Who is within `within` of each boundary; `because`: where that number is from, in words."""

    within: float
    because: str
    boundaries: list[NearOne]


class SpreadBody(Body):
    """Every curve has the same bins and the same scores. `curves_drawn`: there are few enough of
    them for curves on one axis; else they are boxes, or small pictures side by side. `together`:
    everybody in some group, counted once for each measure, in the same bins. `near`: who stands
    near a boundary, where one measure with boundaries is looked at."""

    show: Literal["spread"]
    dimension: str
    unit: str
    edges: list[float]
    together: list[int]
    curves: list[Curve]
    cuts: list[CutLine]
    curves_drawn: bool
    near: Near | None = None
