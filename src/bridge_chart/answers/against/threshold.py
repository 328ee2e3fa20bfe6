"""What an award needs: the credits or subjects of a condition, or all of its conditions."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Self

import numpy as np

from bridge_chart.answers.against.looked_up import looked_up
from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Held, Told, Yardstick
from bridge_chart.answers.what.award import Award, award_named
from bridge_chart.core.arrays import Floats
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method
from bridge_chart.terms.errors import InvalidQuestion


@dataclass(frozen=True)
class Threshold(Yardstick):
    """A student is short by what lies below it."""

    own: Quantity
    asked: q.AgainstThreshold
    award: Award
    kind: ClassVar[str] = "threshold"
    lacking: ClassVar[Mapping[str, str]] = {"no_yardstick": "no credit record"}
    column: ClassVar[str] = "Needed"

    @classmethod
    def bind(cls, asked: q.AgainstThreshold, own: Quantity, binding: Binding) -> Self:
        if not isinstance(own.worked, Award) or own.steps:
            raise InvalidQuestion(
                "What an award needs is held against what a student has of it.",
                next_step='Ask for {"derive": "award", …} with a “condition”.',
            )
        spec = asked.threshold
        told = q.Derived(
            derive="award", of=own.worked.of.measure, rule=spec.rule, condition=spec.condition
        )
        award = award_named(told, own.worked.of, binding.snapshot)
        if award.unit != own.worked.unit:
            raise InvalidQuestion(
                f"{award.called} needs {award.unit}, and {own.worked.called} is in "
                f"{own.worked.unit}."
            )
        kept = q.ThresholdSpec(
            rule=award.rule.name, condition=award.condition.name if award.condition else None
        )
        return cls(own, q.AgainstThreshold(threshold=kept), award)

    @property
    def words(self) -> str:
        return f"what {self.award.called} needs"

    @property
    def whom(self) -> str:
        return f"the {self.award.needs} that {self.award.called} needs"

    def look_up(self, snapshot: Snapshot) -> Held:
        return Held(np.full(snapshot.students, self.award.needed))

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        del snapshot
        return looked_up(
            self, told, "Distance from what an award needs", "methods/awards.md",
            f"minus the {self.award.needs} that are needed",
            "What lies above it does not make up for what others lack.",
        )  # fmt: skip

    @property
    def states(self) -> tuple[str, ...]:
        return self._own.states

    def beside(self, label: str) -> str:
        return label

    @property
    def met_at(self) -> int:
        return len(self.states) - 1

    def standing(self, snapshot: Snapshot, values: Floats) -> Floats:
        if self._own.rule == self.award.rule and self._own.condition == self.award.condition:
            return self._own.standing(snapshot)
        met = np.where(values >= self.award.needed, float(len(self.states)), 1.0)
        return np.where(np.isnan(values), np.nan, met)

    @property
    def _own(self) -> Award:
        assert isinstance(self.own.worked, Award)
        return self.own.worked
