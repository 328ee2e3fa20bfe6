"""Awards: who has met each condition, who is on course, who is not yet there."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.answers.shows.levels.body import SteppedBody
from bridge_chart.terms.answer import Mark, Value


class AwardsOptions(BaseModel):
    """condition: of which condition the students are listed who are near it; None: of none."""

    model_config = ConfigDict(extra="forbid")

    condition: str | None = None


class AwardCondition(Mark):
    """A condition, or the award as a whole (`whole`), of n students with records: what it asks in
    words, how much of which unit it needs, how many stand where (as the body's `steps`; none where
    too few), a mark for each. `close`: of those not yet there, who lacks one of its unit or less
    even with what is estimated (None: it needs no more than that); `unestimated`: who has no
    estimate that counts towards it."""

    measure: int
    name: str
    says: str
    needed: float
    unit: str
    whole: bool = False
    counts: list[int] = Field(default_factory=list)
    bars: list[Mark] = Field(default_factory=list)
    close: int | None = None
    unestimated: int | None = None
    undefined: str | None = None


class Estimates(Value):
    """How estimates have come out: of those of earlier school years in one subject (blank: in all)
    how many have an outcome, and how many reached or bettered what was estimated, with the interval
    of that share; None where too few."""

    subject: str
    estimates: int
    outcomes: int
    reached: int | None = None
    low: float | None = None
    high: float | None = None


class NearAward(Value):
    """A student near a condition: banked, and with what counts beside, in its unit; short of it by
    so much; how they stand to it and to each other condition (places in `steps`)."""

    student: int
    banked: float
    with_estimates: float
    short: float
    state: int
    others: list[int]


class Reached(Value):
    """A mean or share with its interval."""

    value: float
    low: float
    high: float


class InSubject(Value):
    """What counts towards a condition in one subject, over all n who are asked about, of whom
    `having` have something there: mean credits, or of a condition on subjects the share who have
    enough."""

    subject: str
    n: int
    having: int
    banked: Reached
    with_estimates: Reached


class AwardRead(Mark):
    """One award that is asked about, n students with records: its rule as sentences. `rests`: how
    many estimates those on course rest on, on average; `lower`: how many of them would not meet it
    if each estimate came out one result lower (None: no order of results is known); `but_one`: who
    meets all but one condition; `apart`: who meets each by itself, but not all by one choice of
    records."""

    measure: int
    name: str
    says: list[str]
    conditions: int
    met: int
    course: int
    rests: float | None = None
    lower: int | None = None
    but_one: Mark
    apart: Mark


class AwardsBody(SteppedBody):
    """`rows`: as of Levels, by group. `conditions`: of every award, its whole last. `near`: of the
    condition that the options name, nearest first, with the other conditions called `beside`;
    `by_subject`: what counts for it."""

    show: Literal["awards"]
    school_year: str
    counting: str
    awards: list[AwardRead]
    conditions: list[AwardCondition]
    estimates: list[Estimates]
    condition: str | None = None
    condition_at: int | None = None
    near: list[NearAward] = Field(default_factory=list)
    near_all: int = 0
    beside: list[str] = Field(default_factory=list)
    by_subject: list[InSubject] = Field(default_factory=list)
