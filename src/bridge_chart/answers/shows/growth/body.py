"""Growth: beside those who started alike, beside a table, beside the nation."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.answer import Body, Mark, RowStep, Verdict


class GrowthOptions(BaseModel):
    """priors: how many earlier sittings growth percentiles stand on, the newest first."""

    model_config = ConfigDict(extra="forbid")

    priors: int = Field(default=1, ge=1, le=3)


class Met(Mark):
    """How many met a growth of the table; share of those with both results and a start in the
    table (`of`), with its interval."""

    goal: Literal["expected", "ambitious"]
    of: int
    share: float | None = None
    low: float | None = None
    high: float | None = None


class Fell(Mark):
    """How many fell in the nation though their score rose, of those ranked at both sittings (`of`);
    the share, and the share that error alone would give; `beyond`: whose fall is beyond error, and
    how many error alone would put there."""

    of: int
    share: float | None = None
    alone: float | None = None
    beyond: Mark
    beyond_alone: float | None = None


class GrowthRow(Mark):
    """A group: n have both results, missing have not. `median`: of the growth percentiles of
    `ranked` students (30 at least), with its interval, beside their mean; `change`: of the score,
    with its interval; `then_rank`, `now_rank`: mean national percentile ranks of those who have
    both; `span`: the distance from similar starters, which `verdict` is of."""

    key: str
    label: str
    path: list[RowStep] = Field(default_factory=list)
    ranked: int = 0
    median: float | None = None
    median_low: float | None = None
    median_high: float | None = None
    mean: float | None = None
    then_score: float | None = None
    now_score: float | None = None
    change: float | None = None
    change_low: float | None = None
    change_high: float | None = None
    then_rank: float | None = None
    now_rank: float | None = None
    met: list[Met] = Field(default_factory=list)
    fell: Fell | None = None
    span: float | None = None
    low: float | None = None
    high: float | None = None
    verdict: Verdict = "none"
    pinned: bool = False
    overlap: bool = False
    undefined: str | None = None


class GrowthBody(Body):
    """`before`, `now`: the two sittings; `priors`: on which results growth percentiles stand;
    `goals`: which the table has; `lacks`: what cannot be said here, and why."""

    show: Literal["growth"]
    dimension: str
    before: str
    now: str
    unit: str
    priors: list[str]
    goals: list[Literal["expected", "ambitious"]]
    rows: list[GrowthRow]
    reference: list[GrowthRow]
    lacks: list[str] = Field(default_factory=list)
