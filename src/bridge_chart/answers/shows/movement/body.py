"""Movement: levels then and now, and the credit that a rule gives for the way between."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.answer import Body, Mark, RowStep, Value, Verdict


class MovementOptions(BaseModel):
    """rule: by its name; none: the district's newest, else that of a rise."""

    model_config = ConfigDict(extra="forbid")

    rule: str | None = None


class LevelThen(Mark):
    """A level with those who were in it then, or are in it now; `passes`: it is at or above the
    pass line."""

    name: str
    passes: bool = False


class Flow(Mark):
    """Who was in one level and is in another (or the same); `credit`: what the rule gives for it,
    0 to 1."""

    before: int
    now: int
    credit: float


class CreditPart(Mark):
    """How many earned full credit, a part of it, or none; share of those with both results, with
    Wilson's 95% interval."""

    share: float | None = None
    low: float | None = None
    high: float | None = None


class MovementRow(Mark):
    """A group: n have both results, missing have not. `credit`: the mean, with the interval; what
    similar starters earn (`similar`) and how far the group is from it (`span`), all as shares;
    `alone`: the credit that error of measurement alone would give; `few`: too few to show."""

    key: str
    label: str
    path: list[RowStep] = Field(default_factory=list)
    full: CreditPart
    part: CreditPart
    none: CreditPart
    credit: float | None = None
    low: float | None = None
    high: float | None = None
    similar: float | None = None
    span: float | None = None
    span_low: float | None = None
    span_high: float | None = None
    alone: float | None = None
    verdict: Verdict = "none"
    pinned: bool = False
    overlap: bool = False
    undefined: str | None = None


class RuleTold(Value):
    """A rule that can be asked for, and what everybody here earns by it: shares of full and of
    part credit, and the mean."""

    name: str
    full: float | None = None
    part: float | None = None
    credit: float | None = None


class MovementBody(Body):
    """`before`, `now`: the two sittings; `then_in`, `now_in`: how many were and are in each level,
    of those with both; `rule`: the one that counts, of all `rules`; `rises`: without credit tables
    every rise counts. `alone_because`: why what error alone would give cannot be said."""

    show: Literal["movement"]
    dimension: str
    before: str
    now: str
    then_in: list[LevelThen]
    now_in: list[LevelThen]
    flows: list[Flow]
    rule: str
    rules: list[RuleTold]
    up: Mark
    same: Mark
    down: Mark
    rows: list[MovementRow]
    reference: list[MovementRow]
    alone_because: str = ""
