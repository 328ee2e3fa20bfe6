"""A try: what it would take, who is nearest, and what would be then. Never mixed with results."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.answer import Body, Mark, RowStep, Value, Verdict
from bridge_chart.terms.question import Move


class TrialOptions(BaseModel):
    """figure: the mean of steps (of their distance, where there is a yardstick), or the share at or
    above `at` (none: the pass line). wanted: a figure, level with the yardstick, or what
    everyone has. each: one step each, or as many as it takes; fewest: students, or steps in all.
    None: the usual, a mean level with the yardstick, else the share that everyone has."""

    model_config = ConfigDict(extra="forbid")

    figure: Literal["mean", "share"] | None = None
    at: str | None = None
    wanted: float | Literal["yardstick", "everyone"] | None = None
    each: Literal["one", "any"] = "one"
    fewest: Literal["students", "steps"] = "students"


class NearStudent(Value):
    """A student who could gain a step: where they stand, where they are tried, how far from the
    next step (`distance`, in the unit that the body says), and of earlier students who stood there
    the share who gained a step."""

    student: int
    now: str
    tried: str
    by: int
    distance: float | None = None
    chance: float | None = None


class Before(Value):
    """Where groups like this finish, did their students as earlier ones who stood where they stand:
    the mean over `cohorts` years, and where nineteen in twenty groups of this size lie."""

    low: float
    high: float
    mean: float
    cohorts: int
    later: str


class TriedRow(Mark):
    """A group without and with the try: mean (or share), its interval, and how it is judged."""

    key: str
    label: str
    path: list[RowStep] = Field(default_factory=list)
    moved: int = 0
    now: float | None = None
    tried: float | None = None
    low: float | None = None
    high: float | None = None
    verdict_now: Verdict = "none"
    verdict: Verdict = "none"
    undefined: str | None = None


class Happened(Value):
    """What then happened to those who are moved: of those with a later result how many reached the
    step that they are tried at, and how many fell below where they stood."""

    later: str
    have: int
    reached: int
    fell: int


class TrialBody(Body):
    """`group`: whose figure it is, n with a result (a mark). `now`, `with_try`: the figure without
    and with the try; `wanted`, in words `wanted_words`; `needed`: how many students, or steps, are
    missing; `reachable`: whether so many can gain one. `curve`: the figure after none, one, two …
    gain a step, nearest first. `by_hand`: the moves are the question's own, not the nearest.
    `moves`: as `plan` of a question takes them. `near`: the moved, then who is next. `refit`: the
    figure with the try where the expectation is fitted on it too. `any_*`: fewest students and
    steps where each may gain as many as it takes."""

    show: Literal["trial"]
    dimension: str
    figure: Literal["mean", "share"]
    unit: str
    step: str
    group: Mark
    now: float | None
    with_try: float | None
    wanted: float | None
    wanted_words: str
    needed: int
    reachable: bool
    any_students: int | None = None
    any_steps: int | None = None
    moved: int
    steps: int
    by_hand: bool
    moves: list[Move]
    movers: Mark
    curve: list[float]
    near: list[NearStudent]
    distance_words: str = ""
    chance_words: str = ""
    before: Before | None = None
    before_because: str = ""
    refit: float | None = None
    rows: list[TriedRow]
    happened: Happened | None = None
