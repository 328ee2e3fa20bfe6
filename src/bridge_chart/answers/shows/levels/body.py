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
    `verdict`: beyond chance or not. `opens` opens the row, each of `bars` its count in a step;
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
    means: dict[str, float | None] = Field(default_factory=dict)
    overlap: bool = False
    pinned: bool = False
    as_of: str | None = None
    undefined: str | None = None


class LevelsBody(Body):
    """`pass_at`: the first step that passes, by the scale or, where `drawn`, where the question
    draws the line. `reference`: pinned rows."""

    show: Literal["levels"]
    dimension: str
    within: str | None = None
    steps: list[StepInfo]
    pass_at: int | None
    drawn: bool
    rows: list[LevelsRow]
    reference: list[LevelsRow]
