"""The Answer, format 1: what every question is given, on screen, command line and HTTP alike.

Bodies of shows that are not built yet are reserved by name in docs/question.md.
Every mark, missing count and row carries `narrow`: the conditions that open its students.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.question import Condition, Dimension, Question

Verdict = Literal["ahead", "behind", "alike", "unclear", "few", "none"]


class Value(BaseModel):
    """Answers are made by this program only, so unknown keys are programming errors."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)


class Chip(Value):
    """A condition in words, removable by its path in the question."""

    path: str
    text: str


class MissingCount(Value):
    reason: str
    label: str
    n: int
    narrow: list[Condition]


class Coverage(Value):
    """`population` = `counted` + the sum of `missing`; set-aside rows are apart."""

    measure: str
    population: int
    counted: int
    missing: list[MissingCount]
    not_entered: int = 0
    set_aside: int = 0
    routes: list[dict[str, Any]] = Field(default_factory=list)


class MeasureInfo(Value):
    key: str
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


class Row(Value):
    """One group. `span` is what is drawn; `span_raw` is value − yardstick."""

    key: str
    label: str
    measure: str
    n: int
    missing: int
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
    rank: list[int] | None = None
    verdict: Verdict = "none"
    undefined: str | None = None
    overlap: bool = False
    focus: bool = False
    open: bool = True
    hidden: str | None = None
    narrow: list[Condition] | None = None


class RowsBody(Value):
    """Spans and Table: the same rows, drawn or listed."""

    show: Literal["spans", "table"]
    dimension: str
    rows: list[Row]


class StudentColumn(Value):
    key: str
    label: str
    kind: Literal["text", "number", "signed", "verdict"]
    values: list[Any]


class StudentsBody(Value):
    """Columns rather than rows; `student` are opaque ids, in the order shown."""

    show: Literal["students"]
    student: list[int]
    columns: list[StudentColumn]
    counted: int


class StripEntry(Value):
    """How far apart the groups of one characteristic are, for the present question."""

    dimension: Dimension
    label: str
    groups: int
    kind: Literal["gap", "spread"]
    size: float | None
    low: float | None = None
    high: float | None = None
    beyond_chance: bool | None = None
    n: int
    missing: int
    marks: list[StripMark]


class StripMark(Value):
    label: str
    n: int
    value: float
    verdict: Verdict


class StripBody(Value):
    show: Literal["strip"]
    entries: list[StripEntry]


class Reading(Value):
    kind: Verdict | Literal["chance", "list", "size", "coverage"]
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
    bound: dict[str, Any] = Field(default_factory=dict)


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


class Answer(Value):
    """One answer. `question` is as asked with defaults filled; ids stand in `resolved.bound`."""

    question: Question
    engine: str
    resolved: Resolved
    sentence: str
    slots: Slots
    chips: list[Chip]
    scope: ScopeText
    measures: list[MeasureInfo]
    coverage: list[Coverage]
    body: Annotated[RowsBody | StudentsBody | StripBody, Field(discriminator="show")]
    reference: list[Row]
    readings: list[Reading]
    method: Method
    warnings: list[Warn]
    page: PageInfo | None = None


StripEntry.model_rebuild()
