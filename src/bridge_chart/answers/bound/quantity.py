"""Quantities: one figure per student. A kept measure, a part of a test, or worked out of one."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass, replace
from typing import ClassVar

from bridge_chart.answers.bound.identity import PartId, QuantityId
from bridge_chart.core.arrays import Floats
from bridge_chart.store.codes import SCORE_NAMES, STEPPED, UNITS
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q

HALVES = ("lower", "upper")


class Worked(ABC):
    """How the figures of a quantity are worked out of another's: one class for each way.

    score_name, unit: what the figures are called; None: as those of `of`. lacks: why somebody has
    no figure who has one in `of`, in words (a label of the coverage). explained: how a figure comes
    about, and the page of docs/ that says it in full.
    """

    of: Quantity
    score_name: ClassVar[str]

    @property
    def unit(self) -> str | None:
        return None

    @property
    def explained(self) -> tuple[str, str] | None:
        return None

    @abstractmethod
    def figures(self, snapshot: Snapshot) -> Floats:
        """(students,) float64, NaN where there is none."""

    @property
    @abstractmethod
    def lacks(self) -> str: ...


@dataclass(frozen=True)
class Quantity:
    """What is looked at. `key`: the kept measure behind it (its sitting, its date, who sat it);
    `steps`: names from lowest; `worked`: how it is worked out of another, if it is."""

    id: QuantityId
    key: MeasureKey
    label: str
    decimals: int
    steps: tuple[str, ...] = ()
    pass_at: int | None = None
    worked: Worked | None = None

    @property
    def ask(self) -> q.What:
        """The same in a question, with ids."""
        return self.id.ask

    @property
    def measure(self) -> q.AnyMeasure:
        """The measure as conditions take it; of a share, what it is a share in."""
        asked = self.id.ask
        return asked.measure if isinstance(asked, q.Figure) else asked

    @property
    def plain(self) -> Quantity:
        """The quantity that it is worked out of in the end; itself where it is not worked out."""
        return self if self.worked is None else self.worked.of.plain

    @property
    def score(self) -> str:
        return self.id.score

    @property
    def part(self) -> PartId | None:
        return self.id.part

    @property
    def form(self) -> int | None:
        return self.id.form

    @property
    def is_share(self) -> bool:
        return self.id.working is not None and self.id.working.how == "share"

    @property
    def is_credit(self) -> bool:
        return self.id.working is not None and self.id.working.how == "credit"

    @property
    def unit(self) -> str:
        """In words: “marks”, “%”, “scaled-score points”."""
        told = None if self.worked is None else self.worked.unit
        return told or UNITS[self.score]

    @property
    def score_name(self) -> str:
        return SCORE_NAMES[self.score] if self.worked is None else self.worked.score_name


def plain(key: MeasureKey) -> Quantity:
    """The kept measure as it is."""
    identity = QuantityId(
        key.assessment.id, key.subject.id if key.subject else None, key.sitting.id, key.score,
        key.role, key.kind,
    )  # fmt: skip
    steps = key.steps if key.score in STEPPED else ()
    return Quantity(identity, key, key.label, key.decimals, steps, key.pass_at)


def in_points(quantity: Quantity) -> Quantity:
    """Grades by the points that their scale gives them: a mean of grades needs points."""
    identity = replace(quantity.id, score="points")
    return replace(quantity, id=identity, steps=(), pass_at=None, decimals=1)


def in_halves(quantity: Quantity) -> Quantity:
    """Each level as a lower and an upper half."""
    steps = tuple(f"{name}, {half}" for name in quantity.steps for half in HALVES)
    pass_at = None if quantity.pass_at is None else 2 * quantity.pass_at
    identity = replace(quantity.id, grain="half")
    return replace(quantity, id=identity, steps=steps, pass_at=pass_at)


def of_part(quantity: Quantity, part: PartId, score: str) -> Quantity:
    """The marks of some questions: raw, or as a percentage of what they are worth."""
    called = part.name or " and ".join(part.tagged)
    key = quantity.key
    return replace(
        quantity, id=replace(quantity.id, part=part, score=score), steps=(), pass_at=None,
        decimals=1, label=f"{key.about}, {called}, {key.sitting.name}",
    )  # fmt: skip


def on_form(quantity: Quantity, form: int) -> Quantity:
    """Only those who sat one form."""
    named = next(f.name for f in quantity.key.forms if f.id == form)
    identity = replace(quantity.id, form=form)
    return replace(quantity, id=identity, label=f"{quantity.label}, form {named}")


def passing_at(quantity: Quantity, step: str) -> Quantity:
    """Steps with the line drawn at another step than the scale's own pass line."""
    identity = replace(quantity.id, line=step)
    return replace(
        quantity, id=identity, pass_at=quantity.steps.index(step),
        label=f"{quantity.label}: line at “{step}”",
    )  # fmt: skip
