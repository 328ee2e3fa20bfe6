"""Levels: counts and shares around the pass line."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from bridge_chart.terms.answer import Body, Mark, RowStep, Value, Verdict


class StepInfo(Value):
    """A level or grade; `passes`: it is at or above the line."""

    name: str
    passes: bool


class LevelsRow(Mark):
    """Counts of one group in each step, lowest first; shares are of `n`, those who have one.

    `at_or_above`: the share that reached the step or better. `others`: the share that passed, minus
    that of all others counted in the district, in percentage points, where the district is seen;
    `verdict`: beyond chance or not. `by_yardstick`: the share at or above each step that similar
    starters reach, targets name or the nation has, of the same students; `span`: how far the share
    that passed lies from similar starters', in percentage points, of which the verdict is then.
    `opens` opens the row, each of `bars` its count in a step;
    none where the row cannot be opened. `means`: further figures of the same
    sitting, by their score. `measure`: its place in the answer's measures; `pinned`: a reference
    row, `as_of`: of which release.
    """

    key: str
    label: str
    path: list[RowStep] = Field(default_factory=list)
    measure: int
    counts: list[int]
    bars: list[Mark] = Field(default_factory=list)
    share: list[float | None]
    at_or_above: list[float | None]
    pass_count: int | None = None
    pass_share: float | None = None
    pass_low: float | None = None
    pass_high: float | None = None
    others: float | None = None
    others_low: float | None = None
    others_high: float | None = None
    verdict: Verdict = "none"
    by_yardstick: list[float | None] = Field(default_factory=list)
    span: float | None = None
    span_low: float | None = None
    span_high: float | None = None
    means: dict[str, float | None] = Field(default_factory=dict)
    overlap: bool = False
    pinned: bool = False
    as_of: str | None = None
    undefined: str | None = None


class SteppedBody(Body):
    """Counts in steps. `against`: whose shares `by_yardstick` is, in words; none where there are
    none. `pass_at`: the first step that passes, by the scale or, where `drawn`, where the question
    draws the line. `reference`: pinned rows."""

    dimension: str
    within: str | None = None
    steps: list[StepInfo]
    pass_at: int | None
    drawn: bool
    against: str | None = None
    rows: list[LevelsRow]
    reference: list[LevelsRow]


class LevelsBody(SteppedBody):
    """Counts in levels or grades."""

    show: Literal["levels"]
