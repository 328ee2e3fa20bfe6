"""Another group: each row is held against those of the group who are not in the row."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Elsewhere, Told, Yardstick
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method
from bridge_chart.terms.wording import day


@dataclass(frozen=True)
class Group(Yardstick):
    """`members`: who is in it; `elsewhere`: those of it whom the asker does not see."""

    own: Quantity
    asked: q.AgainstGroup
    members: Filter
    elsewhere: Elsewhere | None = None
    kind: ClassVar[str] = "group"
    is_group: ClassVar[bool] = True

    @classmethod
    def bind(cls, asked: q.AgainstGroup, own: Quantity, binding: Binding) -> Group:
        who, members = binding.members(asked.group.who)
        bound = asked.group.model_copy(update={"who": who})
        asked = asked.model_copy(update={"group": bound})
        return cls(own, asked, members, binding.elsewhere(asked, own, members))

    @property
    def words(self) -> str:
        return f"the rest of {self.members.text}"

    @property
    def whom(self) -> str:
        everyone = self.members.text == "all students"
        return "all other students" if everyone else self.words

    def look_up(self, snapshot: Snapshot) -> None:
        return None

    def group(self, students: int) -> Mask:
        return self.members.mask

    @property
    def beyond(self) -> Elsewhere | None:
        return self.elsewhere

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        values = figures_of_students(snapshot, self.own)
        here = int(np.count_nonzero(self.members.mask & ~np.isnan(values)))
        beyond = self.elsewhere
        facts = {**told.facts, "group_n": here + (beyond.n if beyond else 0)}
        others = "" if beyond is None else (
            f" Those of other schools are as they were released on {day(beyond.day)}."
        )  # fmt: skip
        return Method(
            name="Distance from the rest of a group",
            says=[
                f"The mean of {self.own.label} in each row, minus the mean of those of the "
                f"group who are not in that row.{others}",
                told.interval,
                "Nothing is allowed for: not where they started, not who they are.",
            ],
            facts=facts,
            page="methods/part-and-rest.md",
        )
