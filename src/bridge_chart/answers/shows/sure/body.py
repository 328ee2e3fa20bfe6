"""How sure: the same rows by every way of drawing the line, and in the years before."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from bridge_chart.terms.answer import Because, Body, Mark, RowStep, Value, Verdict


class SureModel(Value):
    """A way of working it out; `asked`: the one that was asked for."""

    key: str
    label: str
    asked: bool = False


class SureFigure(Value):
    """A row by one model, or in one year; null where it has none there."""

    span: float | None
    low: float | None
    high: float | None
    n: int
    verdict: Verdict
    because: Because | None = None


class SureRow(Mark):
    """`figures`: by the body's models, in their order; `lowest`, `highest` of them; `flips`: do
    they disagree on whether it is ahead, behind or neither. `years`: by the body's years; `mean`:
    of those, weighted by students, with its interval, which counts how rows change from year to
    year."""

    key: str
    label: str
    path: list[RowStep] = Field(default_factory=list)
    measure: int
    figures: list[SureFigure]
    lowest: float | None
    highest: float | None
    flips: bool
    years: list[SureFigure | None]
    mean: float | None = None
    mean_low: float | None = None
    mean_high: float | None = None


class SureBody(Body):
    """`years`: sittings by name, the earliest first, the asked one last; `year_to_year`: the sd by
    which a row truly changes between them. `not_tried`: models that there are no figures for, and
    why."""

    show: Literal["sure"]
    dimension: str
    unit: str
    models: list[SureModel]
    years: list[str]
    year_to_year: float | None
    rows: list[SureRow]
    not_tried: list[str]
