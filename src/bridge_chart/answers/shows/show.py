"""What a show is: one declaration in a folder of its own (docs/adding.md).

A show says which keys of a question it takes, why it cannot serve one, how it answers, and how its
body reads as lines; dispatch, refusals, outputs and the catalogue all come from here.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel, ValidationError

from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.what.derived import counts_steps
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Body, Coverage, Method, PageInfo, Reading, Slots, Warn
from bridge_chart.terms.errors import InvalidQuestion

Lines = tuple[list[Any], list[list[Any]]]
"""Heads and lines, at full precision."""
Keys = frozenset[str]
TAKEN_BY_SOME = ("split", "focus", "over", "reference", "sort", "page", "options", "columns")
"""Keys that a show may leave to others; all other keys belong to every show."""


@dataclass(frozen=True)
class Shown:
    """What a show makes of the parts of a question; `asking.frame` wraps it into the Answer.
    `about`: the part that the sentence is of, where the others only stand beside it. `against`:
    whom rows are held against, in words, where the question names nobody. `sentence`: the question
    as the show asks it, where that is not how they did."""

    body: Body
    coverage: list[Coverage]
    method: Method
    readings: list[Reading] = field(default_factory=list)
    warnings: list[Warn] = field(default_factory=list)
    page: PageInfo | None = None
    about: Slice | None = None
    against: str | None = None
    sentence: Callable[[Slots], str] | None = None


@dataclass(frozen=True)
class Chart:
    """Bars that a workbook draws beside the lines. `bars`: heads of the columns, stacked where they
    are more than one; `colours`: theirs; `low`, `high`: heads of the interval of a single one."""

    label: str
    bars: tuple[str, ...]
    colours: tuple[str, ...]
    low: str | None = None
    high: str | None = None


@dataclass(frozen=True)
class Sheet:
    """How a body stands in a workbook, beyond its lines. `beside`: it also gets a sheet where
    another show is taken out and it can serve the same question. `shades`: for each cell of its
    lines, how it is shaded on screen (−3 to 3), where some are. `foot`: lines under the others, of
    what the columns come to."""

    beside: bool = True
    shades: Callable[[Any], list[list[float | None]]] | None = None
    foot: Callable[[Any], list[list[Any]]] | None = None
    chart: Callable[[Any], Chart] | None = None


@dataclass(frozen=True)
class Show:
    """`takes`: keys of TAKEN_BY_SOME that it answers; `pins`: values of “reference”. `steps`: it
    counts levels or grades, not figures. `most`: measures that it takes at once; `one_only`: the
    sentence where there are more. `every_sitting`: one measure stands for all its sittings.
    `whole`: it needs the figures of no split (nothing is grouped by it). `ready`: leaves out
    quantities that it cannot show. `options`: the typed options. `opens`: it lists students.
    `outside`: its lines with small numbers hidden; None: it cannot leave the house. `sheet`: how it
    stands in a workbook; None: as its lines alone.
    """

    name: str
    label: str
    body: type[Body]
    answer: Callable[[Sequence[Slice]], Shown]
    lines: Callable[[Any], Lines]
    terminal: Callable[[Any], list[list[str]]] | None = None
    takes: Keys = frozenset()
    pins: tuple[str, ...] = ()
    steps: bool = False
    shares: bool = False
    most: int | None = None
    one_only: str = ""
    every_sitting: bool = False
    ready: Callable[[Sequence[View]], Sequence[View]] | None = None
    options: type[BaseModel] | None = None
    lists_students: bool = False
    outside: Callable[[Sequence[Slice]], Lines] | None = None
    sheet: Sheet | None = None

    def counts_steps(self, what: q.What) -> bool:
        """Whether an entry of `what` is looked at in levels or grades. A list of students does as
        the mark says that it opens."""
        if self.lists_students:
            plain = isinstance(what, q.Measure) and what.score in ("level", "grade")
            return plain or counts_steps(what)
        return self.steps

    def refuse_keys(self, question: q.Question) -> None:
        """Every key counts or is refused by name."""
        standard = {key: info.get_default(call_default_factory=True)
                    for key, info in q.Question.model_fields.items()}  # fmt: skip
        for key in TAKEN_BY_SOME:
            if key not in self.takes and getattr(question, key) != standard[key]:
                raise InvalidQuestion(
                    f"{self.label} takes no “{key}”.",
                    next_step=f"Leave “{key}” away, or choose another show.",
                )
        for pin in question.reference:
            if "reference" in self.takes and pin not in self.pins:
                raise InvalidQuestion(f"{self.label} pins no row for the {pin}.")
        if sum(isinstance(d, str) for d in question.split) > 1:
            raise InvalidQuestion("The measures are one dimension, so one word for them is enough.")
        self.read_options(question)

    def read_options(self, question: q.Question) -> BaseModel | None:
        """The options as the show's own type; refused where it has none, or not these."""
        if self.options is None:
            if question.options:
                raise not_yet(f"options of {self.label}")
            return None
        try:
            return self.options.model_validate(question.options)
        except ValidationError as error:
            first = error.errors(include_url=False, include_context=False)[0]
            where = ".".join(str(part) for part in first["loc"])
            raise InvalidQuestion(f"options.{where}: {first['msg']}.") from error

    def refuse_measures(self, question: q.Question, found: Sequence[Quantity]) -> None:
        """Why it cannot serve these measures."""
        if not self.shares and any(quantity.is_share for quantity in found):
            raise InvalidQuestion(
                f"{self.label} shows figures of students, and a share is one of a group.",
                next_step="Look at it as Spans, as a table or over time.",
            )
        flat = next((quantity for quantity in found if self.steps and not quantity.steps), None)
        if flat is not None:
            raise InvalidQuestion(
                f"{self.label} counts levels or grades, and {flat.label} has none.",
                next_step="Look at it as Spans or as a table.",
            )
        dimensions = [d for d in question.split if not isinstance(d, str)]
        if len(found) > 1 and len(dimensions) > 1:
            raise InvalidQuestion(
                "Several measures can be split by one thing, not by two.",
                next_step="Take one measure, or one split.",
            )
        matched = self.lists_students and question.cohort == "matched"
        if self.most is not None and len(found) > self.most and not matched:
            raise InvalidQuestion(self.one_only, next_step="Choose one measure.")
