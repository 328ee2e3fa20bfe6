"""Chances: what a level on this test has meant for a later one, from cohorts that went before."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.answers.shows.levels.body import StepInfo
from bridge_chart.terms.answer import Body, Mark, Value
from bridge_chart.terms.strict import Ref


class LaterTest(BaseModel):
    """The later test, by name or id, and its subject (none: the same, or its only one)."""

    model_config = ConfigDict(extra="forbid")

    assessment: Ref
    subject: Ref | None = None


class ChancesOptions(BaseModel):
    """later: which test the chances are of; none: the one that most went on to."""

    model_config = ConfigDict(extra="forbid")

    later: LaterTest | None = None


class ChancesRow(Mark):
    """A level: n of those asked about are in it now. `past`: how many earlier students were, in
    `cohorts` years; for each outcome the share who got it, and who got it or better, with their
    intervals. `undefined`: too few, or of one cohort alone; then there are no shares. `coarse`: to
    what step shares are rounded, where the asker sees a part of the district."""

    key: str
    label: str
    past: int | None = None
    cohorts: int = 0
    share: list[float] = Field(default_factory=list)
    low: list[float] = Field(default_factory=list)
    high: list[float] = Field(default_factory=list)
    at_or_above: list[float] = Field(default_factory=list)
    above_low: list[float] = Field(default_factory=list)
    above_high: list[float] = Field(default_factory=list)
    coarse: float | None = None
    undefined: Literal["too_few", "one_cohort"] | None = None


class Cohort(Value):
    """Earlier students: from which sitting to which; how many, where the whole district is seen."""

    before: str
    later: str
    n: int | None = None


class LaterOption(Value):
    """A later test that the chances could be of."""

    assessment: int
    subject: int | None
    label: str


class ChancesBody(Body):
    """`later`: the test that they went on to; `outcomes`: its steps, from the lowest;
    `months_least`, `months_most`: how long after; `spread`: how much more cohorts differ than
    chance would have them (1: no more); `others`: tests that could be asked for."""

    show: Literal["chances"]
    dimension: str
    later: str
    outcomes: list[StepInfo]
    pass_at: int | None
    cohorts: list[Cohort]
    months_least: int
    months_most: int
    spread: float
    rows: list[ChancesRow]
    others: list[LaterOption] = Field(default_factory=list)
