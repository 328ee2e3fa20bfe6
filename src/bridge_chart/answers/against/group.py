"""Another group: each row is held against those of the group who are not in the row."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Told, Yardstick
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method


@dataclass(frozen=True)
class Group(Yardstick):
    """`members`: who is in it."""

    own: Quantity
    asked: q.AgainstGroup
    members: Filter
    kind: ClassVar[str] = "group"

    @classmethod
    def bind(cls, asked: q.AgainstGroup, own: Quantity, binding: Binding) -> Group:
        who, members = binding.members(asked.group.who)
        bound = asked.group.model_copy(update={"who": who})
        return cls(own, asked.model_copy(update={"group": bound}), members)

    @property
    def words(self) -> str:
        return f"the rest of {self.members.text}"

    @property
    def whom(self) -> str:
        return "the others"

    def look_up(self, snapshot: Snapshot) -> None:
        return None

    def group(self, students: int) -> Mask:
        return self.members.mask

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        values = figures_of_students(snapshot, self.own)
        facts = {
            **told.facts, "group_n": int(np.count_nonzero(self.members.mask & ~np.isnan(values)))
        }  # fmt: skip
        return Method(
            name="Distance from the rest of a group",
            says=[
                f"The mean of {self.own.label} in each row, minus the mean of those of the "
                "group who are not in that row.",
                told.interval,
                "Nothing is allowed for: not where they started, not who they are.",
            ],
            facts=facts,
            page="methods/part-and-rest.md",
        )
