"""A target, or what was predicted."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from bridge_chart.answers.against.looked_up import looked_up
from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import HALVES, Quantity, in_halves
from bridge_chart.answers.bound.yardstick import Held, Told, Yardstick
from bridge_chart.answers.what.cut_scores import cut_sets
from bridge_chart.answers.what.values import figures_of_students, sibling
from bridge_chart.core.arrays import Floats
from bridge_chart.core.targets.status import target_status
from bridge_chart.store.codes import IN_FIGURES
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method

LAST = "How the target was set is not judged here."


@dataclass(frozen=True)
class Claimed(Yardstick):
    """`claim`: the target or prediction as a quantity; `halves`: the result in half-levels, where
    it is in levels that can be halved."""

    own: Quantity
    asked: q.AgainstTarget | q.AgainstPredicted
    claim: Quantity
    halves: Quantity | None
    on: ClassVar[str]
    minus: ClassVar[str]
    title: ClassVar[str]

    @property
    def whom(self) -> str:
        return self.words

    def look_up(self, snapshot: Snapshot) -> Held:
        return Held(figures_of_students(snapshot, self.claim))

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        del snapshot
        return looked_up(self, told, self.title, "methods/target-status.md", self.minus, LAST)

    @property
    def states(self) -> tuple[str, ...]:
        if not self.own.steps:
            return super().states
        on = (self.on,) if self.halves is None else tuple(f"{self.on}, {h}" for h in HALVES)
        return "two or more below", "one below", *on, "above"

    @property
    def met_at(self) -> int:
        return 2 if self.own.steps else 1

    def standing(self, snapshot: Snapshot, values: Floats) -> Floats:
        """In steps; on it in the lower or the upper half. NaN too where a half is not known."""
        if not self.own.steps:
            return super().standing(snapshot, values)
        claim = np.asarray(figures_of_students(snapshot, self.claim))
        grade, target = (np.nan_to_num(v, nan=0.0).astype(np.int64) - 1 for v in (values, claim))
        nobody = np.full(len(grade), -1)
        worth = np.arange(len(self.own.steps), dtype=float)
        if self.halves is None:
            found = target_status(grade, target, worth, nobody, 1)
            state = np.array([1.0, 2.0, 3.0, 3.0, 4.0])[found.status]
        else:
            half = np.asarray(figures_of_students(snapshot, self.halves))
            found = target_status(grade, target, worth, nobody, 1, half % 2 == 0)
            state = np.where((grade == target) & np.isnan(half), np.nan, found.status + 1.0)
        return np.where(found.status < 0, np.nan, state)


@dataclass(frozen=True)
class Target(Claimed):
    """A target of some kind."""

    kind: ClassVar[str] = "target"
    lacking: ClassVar[Mapping[str, str]] = {
        "no_prior": "no target", "no_yardstick": "no target",
    }  # fmt: skip
    column: ClassVar[str] = "Target"
    on: ClassVar[str] = "on target"
    minus: ClassVar[str] = "minus the student's target"
    title: ClassVar[str] = "Distance from a target"

    @classmethod
    def bind(cls, asked: q.AgainstTarget, own: Quantity, binding: Binding) -> Self:
        spec = asked.target
        claim = _claim(own, binding, "target", spec.kind, spec.about)
        return cls(own, asked, claim, _halves(own, binding))

    @property
    def words(self) -> str:
        return f"the {self.claim.key.kind} target" if self.claim.key.kind else "the target"


@dataclass(frozen=True)
class Predicted(Claimed):
    """What was predicted."""

    kind: ClassVar[str] = "predicted"
    lacking: ClassVar[Mapping[str, str]] = {
        "no_prior": "no prediction", "no_yardstick": "no prediction",
    }  # fmt: skip
    column: ClassVar[str] = "Predicted"
    on: ClassVar[str] = "as predicted"
    minus: ClassVar[str] = "minus what was predicted"
    title: ClassVar[str] = "Distance from a prediction"

    @property
    def words(self) -> str:
        return "what was predicted"

    @classmethod
    def bind(cls, asked: q.AgainstPredicted, own: Quantity, binding: Binding) -> Self:
        if asked.predicted.collected is not None:
            raise not_yet("collected dates")
        claim = _claim(own, binding, "predicted", None, asked.predicted.about)
        return cls(own, asked, claim, _halves(own, binding))


def _halves(own: Quantity, binding: Binding) -> Quantity | None:
    """A result in whole levels as half-levels, where a figure and cut scores part them."""
    if not own.steps or own.worked is not None or own.id.grain == "half":
        return None
    snapshot = binding.snapshot
    known = sibling(snapshot, own.key, IN_FIGURES) is not None and cut_sets(snapshot, own.key)
    return in_halves(own) if known else None


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
