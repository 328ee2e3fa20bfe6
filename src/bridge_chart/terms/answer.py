"""The parts of an Answer that several shows share; each show's own body is in its folder.

Whatever stands for students is a `Mark`: it says how many of them are counted, and what it adds to
its question to make the list of them.
"""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.question import Open, What

Verdict = Literal["ahead", "behind", "alike", "unclear", "few", "none"]
Because = Literal["by_construction", "whole", "chosen_by_outcome", "start"]
"""Why a row has no verdict: its span is what it is by construction, there are no others, or its
students were chosen by the result itself; or why it is unclear: a mark would hang on error in the
start."""


class Value(BaseModel):
    """Answers are made by this program only, so unknown keys are programming errors."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)


class Mark(Value):
    """What stands for students. `n`: how many are counted, `missing`: how many are not, of those
    that it is about; `opens`: what it adds to its question to list them, none: it cannot."""

    n: int
    missing: int = 0
    opens: Open | None = None


class Body(Value):
    """What a show shows; `show` tells the bodies apart."""

    show: str


class Chip(Value):
    """A condition in words, removable by its path in the question."""

    path: str
    text: str


class MissingCount(Value):
    """Students who are not counted, and why."""

    reason: str
    label: str
    n: int
    opens: Open | None


class Coverage(Value):
    """`population` = `counted` + the sum of `missing`; set-aside rows are apart. `measure`: its
    place in the answer's measures."""

    measure: int
    population: int
    counted: int
    missing: list[MissingCount]
    not_entered: int
    set_aside: int = 0
    routes: list[dict[str, Any]] = Field(default_factory=list)
    opens: Open | None = None


class Cut(Value):
    """The lowest score of a step in a year level (null: any). `expected`: the step that is
    expected at that age."""

    step: str
    year_level: int | None
    lowest: float
    expected: bool = False


class MeasureInfo(Value):
    """A measure of the answer; rows name it by its place in the list. `asked`: as a question
    writes it, with ids."""

    asked: What
    label: str
    assessment: str
    subject: str | None
    sitting: str
    score: str
    unit: str
    date: str
    minimum: float | None
    maximum: float | None
    decimals: int
    cuts: list[Cut] = Field(default_factory=list)


class RowStep(Value):
    """One step of the way to a row: a group of a split, or a measure."""

    key: str
    label: str


class Row(Mark):
    """One group. `span` is what is drawn; `span_raw` is value − yardstick. `measure`: its place in
    the answer's measures; `pinned`: a reference row; `as_of`: the day of the release that such a
    row is of, where it is not of the version asked. `firmness`: how firmly a shrunken row may be
    read, by its reliability. `bound_low`, `bound_high`: the least and the most that a share could
    be, whatever the missing would have reached; `stable_value`: what is drawn, of those alone who
    were in their school from the year's first day."""

    key: str
    label: str
    path: list[RowStep] = Field(default_factory=list)
    measure: int
    pinned: bool = False
    as_of: str | None = None
    mean: float | None = None
    sd: float | None = None
    q1: float | None = None
    median: float | None = None
    q3: float | None = None
    value: float | None = None
    yardstick: float | None = None
    span_raw: float | None = None
    span: float | None = None
    low: float | None = None
    high: float | None = None
    se: float | None = None
    se_kind: str | None = None
    df: float | None = None
    p: float | None = None
    effect: float | None = None
    reliability: float | None = None
    firmness: Literal["firm", "indicative", "few"] | None = None
    rank: list[int] | None = None
    verdict: Verdict = "none"
    because: Because | None = None
    bound_low: float | None = None
    bound_high: float | None = None
    stable_n: int | None = None
    stable_value: float | None = None
    undefined: str | None = None
    overlap: bool = False
    focus: bool = False
    focus_n: int | None = None
    focus_value: float | None = None
    focus_low: float | None = None
    focus_high: float | None = None


class Reading(Value):
    kind: Verdict | Literal["chance", "list", "size", "coverage", "pass", "trust"]
    rows: list[str]
    text: str


class Method(Value):
    """How this is worked out: `says` in three lines, `facts` for whoever checks."""

    name: str
    says: list[str]
    facts: dict[str, Any]
    page: str


class Warn(Value):
    code: str
    text: str
    instead: dict[str, Any] | None = None


class Resolved(Value):
    version: int
    today: str | None
    as_of: str | None
    sittings: dict[str, str]
    tables: list[str] = Field(default_factory=list)
    basis_n: int | None = None


class ScopeText(Value):
    text: str
    opens: bool


class PageInfo(Value):
    total: int
    after: int
    size: int


class Slots(Value):
    """The words in the four slots of the sentence."""

    who: str
    what: str
    split: str
    against: str
