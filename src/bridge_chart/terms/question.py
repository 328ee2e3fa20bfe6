"""The Question, format 1: one value for everything that can be asked about students.

Keys and values of the whole job are fixed here from the first day. What is valid but
not built yet is refused with `not_yet` by `answers`; what is unknown is `invalid`.
docs/question.md explains every key with examples.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import (
    Field,
    GetJsonSchemaHandler,
    StringConstraints,
    Tag,
    model_serializer,
)
from pydantic.json_schema import JsonSchemaValue
from pydantic_core import CoreSchema

from bridge_chart.terms.measured import PART_KINDS as PART_KINDS
from bridge_chart.terms.measured import Back as Back
from bridge_chart.terms.measured import Part as Part
from bridge_chart.terms.measured import PartKind as PartKind
from bridge_chart.terms.measured import Role as Role
from bridge_chart.terms.measured import Score as Score
from bridge_chart.terms.strict import LARGEST_ID, by_key
from bridge_chart.terms.strict import Ref as Ref
from bridge_chart.terms.strict import Strict as Strict
from bridge_chart.terms.when import AsOf as AsOf
from bridge_chart.terms.when import AsOfDate as AsOfDate
from bridge_chart.terms.when import AsOfSitting as AsOfSitting
from bridge_chart.terms.when import AsOfYear as AsOfYear

# ── M: measures ──────────────────────────────────────────────────────────────
BandName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]


class Measure(Strict):
    """One assessment × subject × sitting × score. `None` for the subject: the test has none."""

    assessment: Ref
    subject: Ref | None = None
    sitting: Ref | Back = "latest"
    role: Role = "result"
    kind: str | None = None
    collected: str | None = None
    score: Score = "auto"
    grain: Literal["step", "half", "whole"] | None = None
    form: Ref | None = None
    attempt: Literal["official", "first", "last", "best"] = "official"
    part: Part | str | None = None


class Derived(Strict):
    """A figure worked out for each student from a measure. `rule`: of credit for movement, or the
    award; of that one `condition`, and which credit records count."""

    derive: Literal[
        "span", "gain", "steps", "pace", "projected", "percentile", "growth_percentile", "convert",
        "status", "mastered", "credit", "award",
    ]  # fmt: skip
    of: AnyMeasure
    against: Yardstick | None = None
    table: Ref | None = None
    rule: Ref | None = None
    condition: Ref | None = None
    counting: Literal["banked", "banked and estimated"] | None = None


AnyMeasure = Annotated[
    Annotated[Measure, Tag("assessment")] | Annotated[Derived, Tag("derive")],
    by_key("derive", "assessment"),
]

Statistic = Literal[
    "mean", "sd", "median", "quartiles", "share", "mastered", "count", "minimum", "maximum"
]


class Figure(Strict):
    """A measure with the statistic that is wanted of it. A share is of those at or above `cut` (a
    step by name or a score; none: the pass line), or of those of whom every condition in `meets`
    holds."""

    measure: AnyMeasure
    statistic: Statistic
    cut: str | float | None = None
    meets: tuple[Condition, ...] = ()


What = Annotated[
    Annotated[Measure, Tag("assessment")]
    | Annotated[Derived, Tag("derive")]
    | Annotated[Figure, Tag("measure")],
    by_key("measure", "derive", "assessment"),
]

# ── C: conditions ────────────────────────────────────────────────────────────
FieldName = Literal["school", "year_level", "class", "teacher", "course", "student"]


class FieldIs(Strict):
    """The field is one of the values (null: unknown), or lies in a range (year level)."""

    field: FieldName
    in_: tuple[Ref | None, ...] | None = Field(default=None, alias="in", min_length=1)
    from_: int | None = Field(default=None, alias="from")
    to: int | None = None
    of: Literal["subject"] | None = None
    as_of: AsOf | None = None


class CharacteristicIs(Strict):
    characteristic: Ref
    in_: tuple[Ref | None, ...] = Field(alias="in", min_length=1)
    as_of: AsOf | None = None


class MeasureIs(Strict):
    """The student's value on a measure: `from`/`to` include, `above`/`below` exclude."""

    measure: AnyMeasure
    from_: float | None = Field(default=None, alias="from")
    to: float | None = None
    above: float | None = None
    below: float | None = None
    level: tuple[Ref, ...] | None = None
    status: tuple[str, ...] | None = None
    form: Ref | None = None
    option: str | None = None
    boundary: Ref | None = None
    within: float | None = None
    side: Literal["below", "above", "both"] | None = None


Reason = Literal[
    "not_on_roll", "no_row", "absent", "exempt", "withheld", "not_sat", "not_reached",
    "no_finer_step", "no_prior", "no_yardstick", "too_few",
]  # fmt: skip


class Missing(Strict):
    """Not counted for this reason. `against`: the yardstick that the reason speaks of."""

    missing: Reason
    measure: What
    against: Yardstick | None = None


class InSet(Strict):
    set_: Ref = Field(alias="set")


class Known(Strict):
    """Students of whom it can be said whether the conditions hold."""

    known: tuple[Condition, ...] = Field(min_length=1)


class AnyOf(Strict):
    any_: tuple[Condition, ...] = Field(alias="any", min_length=1)


class AllOf(Strict):
    all_: tuple[Condition, ...] = Field(alias="all", min_length=1)


class Not(Strict):
    not_: Condition = Field(alias="not")


class BandScheme(Strict):
    """Starting bands of one's own, in every year level the same: from each of the `cuts` (rising) a
    new band begins. `names`: from the lowest; none: low, middle, high, else by their scores."""

    cuts: tuple[float, ...] = Field(min_length=1, max_length=9)
    names: tuple[BandName, ...] = Field(default=(), max_length=10)


class BandIs(Strict):
    """In which third of the district (or own band) a student started; null: no such score."""

    band: AnyMeasure
    in_: tuple[BandName | None, ...] = Field(alias="in", min_length=1)
    scheme: BandScheme | None = None


Condition = Annotated[
    Annotated[FieldIs, Tag("field")]
    | Annotated[CharacteristicIs, Tag("characteristic")]
    | Annotated[Missing, Tag("missing")]
    | Annotated[MeasureIs, Tag("measure")]
    | Annotated[InSet, Tag("set")]
    | Annotated[AnyOf, Tag("any")]
    | Annotated[AllOf, Tag("all")]
    | Annotated[Not, Tag("not")]
    | Annotated[BandIs, Tag("band")]
    | Annotated[Known, Tag("known")],
    by_key(
        "field", "characteristic", "missing", "measure", "set", "any", "all", "not", "band", "known"
    ),
]  # fmt: skip


class Who(Strict):
    """The population: every condition must hold, as of the given date. Where none is given it is
    the sitting's, and of a group inside a question the question's own."""

    as_of: AsOf | None = None
    all_: tuple[Condition, ...] = Field(default=(), alias="all")


# ── D: dimensions ────────────────────────────────────────────────────────────
class ByField(Strict):
    field: FieldName
    of: Literal["subject"] | None = None
    as_of: AsOf | None = None


class ByCharacteristic(Strict):
    characteristic: Ref
    as_of: AsOf | None = None


class ByBand(Strict):
    """Thirds of the district by a measure, or own bands; “prior”: by the yardstick's own start."""

    band: AnyMeasure | Literal["prior"]
    scheme: BandScheme | None = None


class ByLevel(Strict):
    level_of: AnyMeasure


class Population(Strict):
    label: str
    who: Who


class ByPopulations(Strict):
    populations: tuple[Population, ...] = Field(min_length=1, max_length=6)


Dimension = Annotated[
    Annotated[Literal["measure", "sitting", "subject", "part"], Tag("word")]
    | Annotated[ByField, Tag("field")]
    | Annotated[ByCharacteristic, Tag("characteristic")]
    | Annotated[ByBand, Tag("band")]
    | Annotated[ByLevel, Tag("level_of")]
    | Annotated[ByPopulations, Tag("populations")],
    by_key("field", "characteristic", "band", "level_of", "populations"),
]


# ── Y: yardsticks ────────────────────────────────────────────────────────────
class FirstOf(Strict):
    first_of: tuple[AnyMeasure, ...] = Field(min_length=1)


Prior = Annotated[
    Annotated[Measure, Tag("assessment")]
    | Annotated[Derived, Tag("derive")]
    | Annotated[FirstOf, Tag("first_of")],
    by_key("first_of", "derive", "assessment"),
]


class PriorSpec(Strict):
    """Where they started. `declared`: the start that Setup declares for the sitting."""

    priors: Literal["declared"] | tuple[Prior, ...] = "declared"
    expect: Literal["linear", "cubic", "spline", "equal_scores", "table"] = "linear"
    model: Literal["simple", "multilevel", "corrected"] = "simple"
    covariates: tuple[Ref, ...] = Field(default=())
    table: Ref | None = None


class TargetSpec(Strict):
    kind: str
    about: AnyMeasure | Literal["same"] = "same"


class PredictedSpec(Strict):
    about: AnyMeasure | Literal["same"] = "same"
    collected: str | None = None


class NationSpec(Strict):
    table: Ref | None = None


class EarlierSpec(Strict):
    measure: AnyMeasure


class GroupSpec(Strict):
    who: Who


class GrowthTableSpec(Strict):
    goal: Literal["expected", "ambitious"]
    from_: AnyMeasure = Field(alias="from")
    table: Ref | None = None


class ThresholdSpec(Strict):
    rule: Ref
    condition: Ref | None = None


class AgainstPrior(Strict):
    prior: PriorSpec


class AgainstTarget(Strict):
    target: TargetSpec


class AgainstPredicted(Strict):
    predicted: PredictedSpec


class AgainstNation(Strict):
    nation: NationSpec


class AgainstEarlier(Strict):
    earlier: EarlierSpec


class AgainstGroup(Strict):
    group: GroupSpec


class AgainstGrowthTable(Strict):
    growth_table: GrowthTableSpec


class AgainstThreshold(Strict):
    threshold: ThresholdSpec


Yardstick = Annotated[
    Annotated[AgainstPrior, Tag("prior")]
    | Annotated[AgainstTarget, Tag("target")]
    | Annotated[AgainstPredicted, Tag("predicted")]
    | Annotated[AgainstNation, Tag("nation")]
    | Annotated[AgainstEarlier, Tag("earlier")]
    | Annotated[AgainstGroup, Tag("group")]
    | Annotated[AgainstGrowthTable, Tag("growth_table")]
    | Annotated[AgainstThreshold, Tag("threshold")],
    by_key(
        "prior", "target", "predicted", "nation", "earlier", "group", "growth_table", "threshold"
    ),
]


# ── Columns of a list ────────────────────────────────────────────────────────
class Listed(Strict):
    """A measure as a column: the figure with its level, and, where `against` says so, what it is
    held against and how far from it."""

    measure: AnyMeasure
    against: Yardstick | None = None


Column = Annotated[
    Annotated[Literal["notes"], Tag("word")]
    | Annotated[ByField, Tag("field")]
    | Annotated[ByCharacteristic, Tag("characteristic")]
    | Annotated[Listed, Tag("measure")],
    by_key("field", "characteristic", "measure"),
]

# ── The whole ────────────────────────────────────────────────────────────────
Show = Literal[
    "spans", "levels", "spread", "start_to_now", "over_time", "table", "students", "movement",
    "growth", "standing", "pace", "chances", "trial", "items", "awards", "make_up", "bridge",
    "strip", "scan", "bias", "student", "sure",
]  # fmt: skip


class Layout(Strict):
    rows: tuple[Dimension, ...] = Field(default=())
    columns: tuple[Dimension, ...] = Field(default=())


class Basis(Strict):
    who: Who


class Move(Strict):
    """One student's result, so many steps up (or down); `student`: an opaque id."""

    student: Annotated[int, Field(ge=0, le=LARGEST_ID)]
    by: int = Field(ge=-20, le=20)


class Trial(Strict):
    """Results that are tried, of levels or grades. Nothing of it is kept as a result."""

    of: Measure
    moves: tuple[Move, ...] = Field(min_length=1, max_length=5000)


class SortBy(Strict):
    """by: the key of a column, or the place of a chosen one: “#1” is the first."""

    by: str
    dir: Literal["asc", "desc"] = "asc"


class Page(Strict):
    size: int = Field(default=200, ge=1, le=1_000_000)
    after: int = Field(default=0, ge=0, le=LARGEST_ID)


class Stands(Strict):
    """Which measure a mark stands for: an entry of `what`; what “each”, or a lens that shows every
    sitting, leaves open in it; a part of it, where it is looked into; and its kind of score, where
    the lens counts by levels."""

    at: int = Field(default=0, ge=0)
    subject: Ref | None = None
    sitting: Ref | None = None
    part: Part | str | None = None
    score: Score | None = None


class OpenKeys(Strict):
    """The keys of `Open`."""

    add: tuple[Condition, ...] = ()
    what: Stands = Stands()
    level: tuple[str, ...] = ()
    students: tuple[Annotated[int, Field(ge=0, le=LARGEST_ID)], ...] = ()
    columns: tuple[Column, ...] = ()
    sort: tuple[SortBy, ...] = ()
    page: Page | None = None


class Open(OpenKeys):
    """What a mark adds to its question to make the list of its students: conditions, the measure
    that it stands for, and, of that measure, some steps or some students by their opaque ids.
    `columns`, `sort` and `page` are the list's own."""

    @model_serializer(mode="plain")
    def _said(self) -> Any:
        """Only what is said: an answer has thousands of marks."""
        keys = OpenKeys.__pydantic_serializer__
        return keys.to_python(self, mode="json", by_alias=True, exclude_defaults=True)

    @classmethod
    def __get_pydantic_json_schema__(
        cls, core: CoreSchema, handler: GetJsonSchemaHandler
    ) -> JsonSchemaValue:
        """What it is made of, written small or not."""
        return handler({key: item for key, item in core.items() if key != "serialization"})


class Question(Strict):
    """Who, what, split, against what; shown how. Format 1."""

    question: Literal[1] = 1
    who: Who = Field(default_factory=Who)
    what: tuple[What, ...] = Field(min_length=1)
    columns: tuple[Column, ...] = Field(default=(), max_length=260)
    split: tuple[Dimension, ...] = Field(default=(), max_length=2)
    layout: Layout | None = None
    against: Yardstick | None = None
    basis: Literal["district", "selection"] | Basis = "district"
    unit: Literal["own", "percent", "z", "effect", "percentile", "steps"] = "own"
    cohort: Literal["present", "matched"] = "present"
    over: Literal["sitting", "year_level"] = "sitting"
    show: Show = "spans"
    options: dict[str, Any] = Field(default_factory=dict)
    focus: tuple[Condition, ...] | None = None
    reference: tuple[Literal["district", "school", "nation"], ...] = ("district",)
    sort: tuple[SortBy, ...] = Field(default=())
    page: Page | None = None
    plan: Trial | None = None
    version: int | None = Field(default=None, ge=0, le=LARGEST_ID)
    open: Open | None = None


for _model in (
    OpenKeys, Open, Derived, Figure, Missing, Known, AnyOf, AllOf, Not, BandIs, Who, Listed,
    Question,
):  # fmt: skip
    _model.model_rebuild()
