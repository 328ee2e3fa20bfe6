"""The Question, format 1: one value for everything that can be asked about students.

Keys and values of the whole job are fixed here from the first day. What is valid but
not built yet is refused with `not_yet` by `answers`; what is unknown is `invalid`.
docs/question.md explains every key with examples.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Discriminator, Field, Tag

Ref = int | str
"""An id (number) or a name (text)."""


class Strict(BaseModel):
    """Unknown keys are errors; values never change after they are made."""

    model_config = ConfigDict(extra="forbid", frozen=True, populate_by_name=True)


def _by_key(*keys: str) -> Any:
    """Choose a variant by the first of `keys` that the object has, a model by its fields."""
    by_type: dict[type, str | None] = {}

    def choose(value: Any) -> str | None:
        if isinstance(value, dict):
            return next((key for key in keys if key in value), None)
        if isinstance(value, str):
            return "word"
        kind = type(value)
        if kind not in by_type:
            fields = getattr(kind, "model_fields", {})
            names = {name.rstrip("_") for name in fields}
            by_type[kind] = next((key for key in keys if key in names), None)
        return by_type[kind]

    return Discriminator(
        choose,
        custom_error_type="unknown_variant",
        custom_error_message="must have one of the keys " + ", ".join(keys),
    )


# ── T: as of when ────────────────────────────────────────────────────────────
class AsOfSitting(Strict):
    sitting: Ref


class AsOfYear(Strict):
    year: str = Field(pattern=r"^\d{4}-\d{2}$")


class AsOfDate(Strict):
    date: str = Field(pattern=r"^\d{4}-\d{2}-\d{2}$")


AsOf = Annotated[
    Annotated[Literal["sitting", "today"], Tag("word")]
    | Annotated[AsOfSitting, Tag("sitting")]
    | Annotated[AsOfYear, Tag("year")]
    | Annotated[AsOfDate, Tag("date")],
    _by_key("sitting", "year", "date"),
]


# ── M: measures ──────────────────────────────────────────────────────────────
class Back(Strict):
    back: int = Field(ge=1)


class Part(Strict):
    kind: Literal["paper", "section", "question", "strand", "topic", "objective", "skill", "type"]
    is_: Ref | Literal["each"] | None = Field(default=None, alias="is")
    tagged: list[str] | None = None


Score = Literal["auto", "raw", "percent", "scaled", "level", "grade", "points", "percentile"]
Role = Literal["result", "target", "predicted", "estimate", "judgement"]


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
    """A figure worked out for each student from a measure."""

    derive: Literal[
        "span", "gain", "steps", "pace", "percentile", "growth_percentile", "convert", "status",
        "mastered", "award",
    ]  # fmt: skip
    of: AnyMeasure
    against: Yardstick | None = None
    table: Ref | None = None
    rule: Ref | None = None


AnyMeasure = Annotated[
    Annotated[Measure, Tag("assessment")] | Annotated[Derived, Tag("derive")],
    _by_key("derive", "assessment"),
]

Statistic = Literal[
    "mean", "sd", "median", "quartiles", "share", "mastered", "count", "minimum", "maximum"
]


class Figure(Strict):
    """A measure with the statistic that is wanted of it."""

    measure: AnyMeasure
    statistic: Statistic


What = Annotated[
    Annotated[Measure, Tag("assessment")]
    | Annotated[Derived, Tag("derive")]
    | Annotated[Figure, Tag("measure")],
    _by_key("measure", "derive", "assessment"),
]

# ── C: conditions ────────────────────────────────────────────────────────────
FieldName = Literal["school", "year_level", "class", "teacher", "course", "student"]


class FieldIs(Strict):
    """The field is one of the values (null: unknown), or lies in a range (year level)."""

    field: FieldName
    in_: list[Ref | None] | None = Field(default=None, alias="in", min_length=1)
    from_: int | None = Field(default=None, alias="from")
    to: int | None = None
    of: Literal["subject"] | None = None
    as_of: AsOf | None = None


class CharacteristicIs(Strict):
    characteristic: Ref
    in_: list[Ref | None] = Field(alias="in", min_length=1)
    as_of: AsOf | None = None


class MeasureIs(Strict):
    """The student's value on a measure: `from`/`to` include, `above`/`below` exclude."""

    measure: AnyMeasure
    from_: float | None = Field(default=None, alias="from")
    to: float | None = None
    above: float | None = None
    below: float | None = None
    level: list[Ref] | None = None
    status: list[str] | None = None
    form: Ref | None = None
    option: str | None = None
    boundary: Ref | None = None
    within: float | None = None
    side: Literal["below", "above", "both"] | None = None


Reason = Literal[
    "not_on_roll", "no_row", "absent", "exempt", "withheld", "not_sat", "no_finer_step",
    "no_prior", "no_yardstick", "too_few",
]  # fmt: skip


class Missing(Strict):
    """Not counted for this reason. `against`: the yardstick that the reason speaks of."""

    missing: Reason
    measure: AnyMeasure
    against: Yardstick | None = None


class InSet(Strict):
    set_: Ref = Field(alias="set")


class AnyOf(Strict):
    any_: list[Condition] = Field(alias="any", min_length=1)


class AllOf(Strict):
    all_: list[Condition] = Field(alias="all", min_length=1)


class Not(Strict):
    not_: Condition = Field(alias="not")


class BandIs(Strict):
    """The third of the district in which a student started; null: no such score."""

    band: AnyMeasure
    in_: list[Literal["low", "middle", "high"] | None] = Field(alias="in", min_length=1)


Condition = Annotated[
    Annotated[FieldIs, Tag("field")]
    | Annotated[CharacteristicIs, Tag("characteristic")]
    | Annotated[Missing, Tag("missing")]
    | Annotated[MeasureIs, Tag("measure")]
    | Annotated[InSet, Tag("set")]
    | Annotated[AnyOf, Tag("any")]
    | Annotated[AllOf, Tag("all")]
    | Annotated[Not, Tag("not")]
    | Annotated[BandIs, Tag("band")],
    _by_key("field", "characteristic", "missing", "measure", "set", "any", "all", "not", "band"),
]


class Who(Strict):
    """The population: every condition must hold, as of the given date."""

    as_of: AsOf = "sitting"
    all_: list[Condition] = Field(default_factory=list, alias="all")


# ── D: dimensions ────────────────────────────────────────────────────────────
class ByField(Strict):
    field: FieldName
    of: Literal["subject"] | None = None
    as_of: AsOf | None = None


class ByCharacteristic(Strict):
    characteristic: Ref
    as_of: AsOf | None = None


class ByBand(Strict):
    """Thirds of the district by a measure; “prior”: by the yardstick's own starting score."""

    band: AnyMeasure | Literal["prior"]
    scheme: Ref | None = None


class ByLevel(Strict):
    level_of: AnyMeasure


class Population(Strict):
    label: str
    who: Who


class ByPopulations(Strict):
    populations: list[Population] = Field(min_length=1, max_length=6)


Dimension = Annotated[
    Annotated[Literal["measure", "sitting", "subject", "part"], Tag("word")]
    | Annotated[ByField, Tag("field")]
    | Annotated[ByCharacteristic, Tag("characteristic")]
    | Annotated[ByBand, Tag("band")]
    | Annotated[ByLevel, Tag("level_of")]
    | Annotated[ByPopulations, Tag("populations")],
    _by_key("field", "characteristic", "band", "level_of", "populations"),
]


# ── Y: yardsticks ────────────────────────────────────────────────────────────
class FirstOf(Strict):
    first_of: list[AnyMeasure] = Field(min_length=1)


Prior = Annotated[
    Annotated[Measure, Tag("assessment")]
    | Annotated[Derived, Tag("derive")]
    | Annotated[FirstOf, Tag("first_of")],
    _by_key("first_of", "derive", "assessment"),
]


class PriorSpec(Strict):
    """Where they started. `declared`: the start that Setup declares for the sitting."""

    priors: Literal["declared"] | list[Prior] = "declared"
    expect: Literal["linear", "cubic", "spline", "equal_scores", "table"] = "linear"
    model: Literal["simple", "multilevel", "corrected"] = "simple"
    covariates: list[Ref] = Field(default_factory=list)
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
    _by_key(
        "prior", "target", "predicted", "nation", "earlier", "group", "growth_table", "threshold"
    ),
]

# ── The whole ────────────────────────────────────────────────────────────────
Show = Literal[
    "spans", "levels", "spread", "start_to_now", "over_time", "table", "students", "movement",
    "items", "awards", "make_up", "bridge", "strip", "scan", "chances", "bias", "student",
]  # fmt: skip


class Layout(Strict):
    rows: list[Dimension] = Field(default_factory=list)
    columns: list[Dimension] = Field(default_factory=list)


class Basis(Strict):
    who: Who


class SortBy(Strict):
    by: str
    dir: Literal["asc", "desc"] = "asc"


class Page(Strict):
    size: int = Field(default=200, ge=1, le=1_000_000)
    after: int = Field(default=0, ge=0)


class Question(Strict):
    """Who, what, split, against what; shown how. Format 1."""

    question: Literal[1] = 1
    who: Who = Field(default_factory=Who)
    what: list[What] = Field(min_length=1)
    also: list[Figure] = Field(default_factory=list)
    split: list[Dimension] = Field(default_factory=list, max_length=2)
    layout: Layout | None = None
    against: Yardstick | None = None
    basis: Literal["district", "selection"] | Basis = "district"
    unit: Literal["own", "percent", "z", "effect", "percentile", "steps"] = "own"
    cohort: Literal["present", "matched"] = "present"
    over: Literal["sitting", "year_level"] = "sitting"
    show: Show = "spans"
    options: dict[str, Any] = Field(default_factory=dict)
    focus: list[Condition] | None = None
    reference: list[Literal["district", "school", "nation"]] = Field(
        default_factory=lambda: ["district"]  # type: ignore[arg-type]
    )
    sort: list[SortBy] = Field(default_factory=list)
    page: Page | None = None
    plan: Ref | None = None
    version: int | None = Field(default=None, ge=0)


for _model in (Derived, Missing, AnyOf, AllOf, Not, BandIs, Who, Question):
    _model.model_rebuild()
