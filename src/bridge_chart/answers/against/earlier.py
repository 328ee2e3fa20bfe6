"""An earlier sitting of the same students."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np

from bridge_chart.answers.against.looked_up import looked_up
from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Held, Told, Yardstick
from bridge_chart.answers.what.values import figures_of_students, of_same_students
from bridge_chart.core.arrays import Floats
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method
from bridge_chart.terms.errors import InvalidQuestion, NotFound


@dataclass(frozen=True)
class EarlierSitting(Yardstick):
    """`earlier`: the quantity that is subtracted."""

    own: Quantity
    asked: q.AgainstEarlier
    earlier: Quantity
    kind: ClassVar[str] = "earlier"
    marks: ClassVar[Literal["rest", "itself"]] = "rest"
    lacks: ClassVar[str] = "no_prior"
    lacking: ClassVar[Mapping[str, str]] = {
        "no_prior": "no earlier result", "no_yardstick": "no earlier result",
    }  # fmt: skip
    column: ClassVar[str] = "Before"
    moves: ClassVar[bool] = True

    @classmethod
    def bind(cls, asked: q.AgainstEarlier, own: Quantity, binding: Binding) -> EarlierSitting:
        found = earlier_of(asked.earlier.measure, own, binding)
        bound = asked.earlier.model_copy(update={"measure": found.measure})
        return cls(own, asked.model_copy(update={"earlier": bound}), found)

    @property
    def since(self) -> Quantity:
        return self.earlier

    @property
    def words(self) -> str:
        return self.earlier.label

    @property
    def whom(self) -> str:
        return f"where it was in {self.earlier.label}"

    def look_up(self, snapshot: Snapshot) -> Held:
        values = figures_of_students(snapshot, self.earlier)
        return Held(values, values, self.earlier.label)

    @property
    def states(self) -> tuple[str, ...]:
        return "fell", "held", "rose"

    def standing(self, snapshot: Snapshot, values: Floats) -> Floats:
        return np.sign(values - figures_of_students(snapshot, self.earlier)) + 2

    def said_of(self, label: str, span: float, size: str, between: str) -> str:
        way = "rose" if span > 0 else "fell"
        return f"{label} {way} by {size} since {self.words} ({between})."

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        return looked_up(
            self, told, "Change since an earlier sitting", "methods/gains.md",
            "minus the same student's earlier one",
            "A change holds what everybody gains in the time: ▲ and ▼ say who moved more or less "
            "than the others did.",
        )  # fmt: skip


def relative(m: q.AnyMeasure) -> bool:
    """Whether “same” stands in it, so that each quantity finds its own."""
    return isinstance(m, q.Measure) and "same" in (m.assessment, m.subject, m.sitting)


def earlier_of(m: q.AnyMeasure, own: Quantity, binding: Binding) -> Quantity:
    """The earlier measure of the same students; “same” and “back” start from `own`."""
    if not isinstance(m, q.Measure):
        raise not_yet("derived measures as earlier sittings")
    if own.is_share:
        raise not_yet("a share against an earlier sitting")
    mine, steps = own.plain.key, bool(own.steps)
    if not relative(m):
        found = binding.quantity(m, steps=steps)
    else:
        back = m.sitting.back if isinstance(m.sitting, q.Back) else 1
        before = {
            k.sitting.id: k for k in binding.snapshot.measures
            if k.assessment == mine.assessment and k.subject == mine.subject
            and k.role == "result" and k.date < mine.date
            and of_same_students(binding.snapshot, k, mine)
        }  # fmt: skip
        ordered = sorted(before.values(), key=lambda k: -k.date.toordinal())
        if len(ordered) < back:
            raise NotFound(f"{own.label} has no earlier sitting.")
        key = ordered[back - 1]
        there = q.Measure(
            assessment=key.assessment.id, subject=key.subject.id if key.subject else None,
            sitting=key.sitting.id, score=mine.score,
            grain="half" if own.id.grain == "half" else None,
        )  # fmt: skip
        found = binding.quantity(there, steps=steps)
    if found.key.date >= mine.date:
        raise InvalidQuestion(f"{found.label} is not earlier than {own.label}.")
    if found.score != own.score:
        raise InvalidQuestion(
            f"{found.label} is in another kind of score than {own.label}, so they cannot be "
            "subtracted.",
            next_step="Measure it against where they started instead.",
        )
    return found
