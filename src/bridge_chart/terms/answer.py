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


class Cut(Value):
    """The lowest score of a step in a year level (null: any). `expected`: the step that is
    expected at that age."""

    step: str
    year_level: int | None
    lowest: float
    expected: bool = False


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
    cuts: list[Cut] = Field(default_factory=list)


class RowStep(Value):
    """One step of the way to a row: a group of a split, or a measure."""

    key: str
    label: str


class Row(Value):
    """One group. `span` is what is drawn; `span_raw` is value − yardstick."""

    key: str
    label: str
    path: list[RowStep] = Field(default_factory=list)
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
    focus_n: int | None = None
    focus_value: float | None = None
    focus_low: float | None = None
    focus_high: float | None = None
    open: bool = True
    hidden: str | None = None
    narrow: list[Condition] | None = None


class RowsBody(Value):
    """Spans and Table: the same rows, drawn or listed. `within`: what the rows of a group are,
    where there are two dimensions (the second split, or the measure)."""

    show: Literal["spans", "table"]
    dimension: str
    within: str | None = None
    rows: list[Row]


class StepInfo(Value):
    """A level or grade; `passes`: it is at or above the pass line."""

    name: str
    passes: bool


class LevelsRow(Value):
    """Counts of one group in each step, lowest first; shares are of `n`, those who have one.

    `at_or_above`: the share that reached the step or better; `narrow`: opens the row, and with the
    step's own conditions (`LevelsBody.opens`) each of its counts. `means`: further figures of the
    same sitting, by their score.
    """

    key: str
    label: str
    path: list[RowStep] = Field(default_factory=list)
    measure: str
    n: int
    missing: int
    counts: list[int]
    share: list[float | None]
    at_or_above: list[float | None]
    pass_count: int | None = None
    pass_share: float | None = None
    pass_low: float | None = None
    pass_high: float | None = None
    means: dict[str, float | None] = Field(default_factory=dict)
    overlap: bool = False
    open: bool = True
    undefined: str | None = None
    narrow: list[Condition] | None = None


class LevelsBody(Value):
    """Levels: shares around the pass line. `pass_at`: the first step that passes; `opens`: by
    measure, the conditions of each step, to be added to a row's."""

    show: Literal["levels"]
    dimension: str
    within: str | None = None
    steps: list[StepInfo]
    pass_at: int | None
    opens: dict[str, list[list[Condition]]] = Field(default_factory=dict)
    rows: list[LevelsRow]


class Curve(Value):
    """One group's distribution: counts per bin, the share at or above each score, the box."""

    key: str
    label: str
    measure: str
    n: int
    missing: int
    counts: list[int]
    at: list[float]
    share: list[float]
    low: list[float]
    high: list[float]
    mean: float | None = None
    sd: float | None = None
    minimum: float | None = None
    p10: float | None = None
    q1: float | None = None
    median: float | None = None
    q3: float | None = None
    p90: float | None = None
    maximum: float | None = None
    undefined: str | None = None
    narrow: list[Condition] | None = None


class CutLine(Value):
    """A boundary or cut score; `year_level`: where it differs by it."""

    label: str
    at: float


class SpreadBody(Value):
    """Spread: histogram, box and share at or above, on one axis."""

    show: Literal["spread"]
    dimension: str
    unit: str
    edges: list[float]
    curves: list[Curve]
    cuts: list[CutLine]


class Dots(Value):
    """Students as columns: start, outcome, group; `student` is an opaque id."""

    student: list[int]
    x: list[float]
    y: list[float]
    group: list[int]
    focus: list[bool]


class Density(Value):
    """Counts of students in cells of a grid, where there are too many for dots."""

    x_edges: list[float]
    y_edges: list[float]
    counts: list[list[int]]


class ExpectedLine(Value):
    """What similar starters reach, for one year level, over the range of its starts."""

    label: str
    n: int
    x: list[float]
    y: list[float]


class StartBody(Value):
    """Start to now: prior against outcome, with what is expected."""

    show: Literal["start_to_now"]
    x_label: str
    y_label: str
    groups: list[RowStep]
    n: int
    missing: int
    correlation: float | None
    dots: Dots | None
    density: Density | None
    lines: list[ExpectedLine]


class TimePoint(Value):
    """A group at one sitting. `change`: from the sitting before, of the same students."""

    measure: str
    label: str
    date: str
    n: int
    missing: int
    value: float | None
    low: float | None
    high: float | None
    change: float | None = None
    change_low: float | None = None
    change_high: float | None = None
    change_n: int = 0
    undefined: str | None = None
    narrow: list[Condition] | None = None


class Series(Value):
    key: str
    label: str
    points: list[TimePoint]


class TimeBody(Value):
    """Over time: one line for each group, a point for each sitting."""

    show: Literal["over_time"]
    dimension: str
    unit: str
    what: str
    series: list[Series]


class MakeUpEntry(Value):
    """One value of a characteristic: its share in the set and in everyone else."""

    dimension: str
    label: str
    in_set: int
    in_rest: int
    set_share: float
    rest_share: float
    everyone_share: float
    ratio: float | None
    low: float | None
    high: float | None
    p: float | None
    verdict: Literal["more", "fewer", "alike", "few"]
    narrow: list[Condition]


class MakeUpBody(Value):
    """Make-up: who the set is, against the rest of the population. `left_out`: those of whom it
    cannot be said whether they are in the set; `unknown`: in the set, some characteristic is."""

    show: Literal["make_up"]
    set_label: str
    set_size: int
    rest_size: int
    unknown: int
    left_out: int = 0
    entries: list[MakeUpEntry]
    narrow: list[Condition]


class StudentColumn(Value):
    key: str
    label: str
    kind: Literal["text", "number", "signed", "verdict"]
    values: list[Any]


class FileLine(Value):
    """A line of a kept file: which batch, and the file's own line number."""

    batch_id: int
    line: int


class StudentsBody(Value):
    """Columns rather than rows; `student` are opaque ids, in the order shown. `origins`: the line
    that each score came from, null where nothing was kept."""

    show: Literal["students"]
    student: list[int]
    origins: list[FileLine | None]
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


Body = (
    RowsBody | LevelsBody | SpreadBody | StartBody | TimeBody | MakeUpBody | StudentsBody
    | StripBody
)  # fmt: skip


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
    body: Annotated[Body, Field(discriminator="show")]
    reference: list[Row]
    reference_levels: list[LevelsRow] = Field(default_factory=list)
    readings: list[Reading]
    method: Method
    warnings: list[Warn]
    page: PageInfo | None = None


StripEntry.model_rebuild()
