"""A target, or what was predicted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Self

from bridge_chart.answers.against.looked_up import looked_up
from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Held, Told, Yardstick
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method

LAST = "How the target was set is not judged here."


@dataclass(frozen=True)
class Target(Yardstick):
    """`claim`: the target as a quantity."""

    own: Quantity
    asked: q.AgainstTarget
    claim: Quantity
    kind: ClassVar[str] = "target"
    lacking: ClassVar[Mapping[str, str]] = {
        "no_prior": "no target", "no_yardstick": "no target",
    }  # fmt: skip
    column: ClassVar[str] = "Target"

    @classmethod
    def bind(cls, asked: q.AgainstTarget, own: Quantity, binding: Binding) -> Self:
        spec = asked.target
        claim = _claim(own, binding, "target", spec.kind, spec.about)
        return cls(own, asked, claim)

    @property
    def words(self) -> str:
        return f"the {self.claim.key.kind} target" if self.claim.key.kind else "the target"

    @property
    def whom(self) -> str:
        return self.words

    def look_up(self, snapshot: Snapshot) -> Held:
        return Held(figures_of_students(snapshot, self.claim))

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        return looked_up(
            self, told, "Distance from a target", "methods/target-status.md",
            "minus the student's target", LAST,
        )  # fmt: skip


@dataclass(frozen=True)
class Predicted(Yardstick):
    """`claim`: the prediction as a quantity."""

    own: Quantity
    asked: q.AgainstPredicted
    claim: Quantity
    kind: ClassVar[str] = "predicted"
    lacking: ClassVar[Mapping[str, str]] = {
        "no_prior": "no prediction", "no_yardstick": "no prediction",
    }  # fmt: skip
    column: ClassVar[str] = "Predicted"

    @property
    def words(self) -> str:
        return "what was predicted"

    @property
    def whom(self) -> str:
        return self.words

    @classmethod
    def bind(cls, asked: q.AgainstPredicted, own: Quantity, binding: Binding) -> Self:
        if asked.predicted.collected is not None:
            raise not_yet("collected dates")
        return cls(own, asked, _claim(own, binding, "predicted", None, asked.predicted.about))

    def look_up(self, snapshot: Snapshot) -> Held:
        return Held(figures_of_students(snapshot, self.claim))

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        return looked_up(
            self, told, "Distance from a prediction", "methods/target-status.md",
            "minus what was predicted", LAST,
        )  # fmt: skip


def _claim(
    own: Quantity, binding: Binding, role: str, kind: str | None, about: q.AnyMeasure | str
) -> Quantity:
    """The target or prediction about a quantity's sitting, in the same kind of score."""
    if about != "same":
        raise not_yet("targets about another measure")
    if own.is_share:
        raise not_yet("a share against a target; ask for the share that met it")
    asked = own.plain.measure
    assert isinstance(asked, q.Measure)
    there = asked.model_copy(update={"role": role, "kind": kind, "part": None})
    return binding.quantity(there, steps=bool(own.steps))
