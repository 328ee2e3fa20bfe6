"""The nation: looked up for each student by the form sat and the year level tested."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

from bridge_chart.answers.against.looked_up import looked_up
from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Held, Told, Yardstick
from bridge_chart.answers.what.nation import national
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method
from bridge_chart.terms.words import spoken


@dataclass(frozen=True)
class Nation(Yardstick):
    """The nation's mean for the student's own form and year level."""

    own: Quantity
    asked: q.AgainstNation
    kind: ClassVar[str] = "nation"
    lacking: ClassVar[Mapping[str, str]] = {
        "no_prior": "no national figure", "no_yardstick": "no national figure",
    }  # fmt: skip
    column: ClassVar[str] = "The nation"

    @property
    def words(self) -> str:
        return "the nation"

    @property
    def whom(self) -> str:
        return self.words

    @classmethod
    def bind(cls, asked: q.AgainstNation, own: Quantity, binding: Binding) -> Nation:
        del binding
        if asked.nation.table is not None:
            raise not_yet("a national table by name")
        if own.is_share:
            raise not_yet("a share against the nation")
        return cls(own, asked)

    def look_up(self, snapshot: Snapshot) -> Held:
        return national(snapshot, self.own)

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        held = self.held(snapshot)
        assert held is not None
        made = looked_up(
            self, told, "Distance from the nation", "methods/group-against-nation.md",
            f"minus the nation's mean for the form and {spoken().year_level} that the student sat",
            "The nation's figures are taken as they were published, without an error.",
        )  # fmt: skip
        return made.model_copy(update={"facts": {**made.facts, "tables": list(held.tables)}})
