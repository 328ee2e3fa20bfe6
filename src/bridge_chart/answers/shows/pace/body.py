"""Pace: steps made since an earlier sitting, how much a year, and where that ends."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.answer import Body, Mark, RowStep, Value


class PaceOptions(BaseModel):
    """steps: how many steps count as made."""

    model_config = ConfigDict(extra="forbid")

    steps: int = Field(default=2, ge=1, le=10)


class StepsMade(Mark):
    """How many made so many steps; the first and the last stand for so many or more."""

    steps: int
    share: float | None = None


class Told(Value):
    """A mean with its interval, of n students."""

    n: int
    mean: float | None = None
    low: float | None = None
    high: float | None = None


class PaceRow(Mark):
    """A group: n have both results, missing have not. `made`: how many of the `stepped` who
    have both levels made how many steps;
    `enough`: who made as many as asked for or more, its share with the interval; `steps`: the mean;
    `pace`: gained a year, of those with two results or more; `ends`: where that pace ends a year
    on, of those whose results span one."""

    key: str
    label: str
    path: list[RowStep] = Field(default_factory=list)
    stepped: int = 0
    made: list[StepsMade] = Field(default_factory=list)
    enough: Mark | None = None
    share: float | None = None
    low: float | None = None
    high: float | None = None
    steps: float | None = None
    pace: Told
    ends: Told
    pinned: bool = False
    overlap: bool = False
    undefined: str | None = None


class PaceBody(Body):
    """`wanted`: how many steps count as made; `first`: from which sitting on the pace is worked
    out; `lacks`: what cannot be said, and why."""

    show: Literal["pace"]
    dimension: str
    before: str
    now: str
    first: str
    wanted: int
    unit: str
    rows: list[PaceRow]
    reference: list[PaceRow]
    lacks: list[str] = Field(default_factory=list)
