"""A table of expected outcomes: what it says of each student's start."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from bridge_chart.answers.against.earlier import earlier_of
from bridge_chart.answers.against.looked_up import looked_up
from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Held, Told, Yardstick
from bridge_chart.answers.what.expected_tables import Goal, reached_by_table
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Floats
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method
from bridge_chart.terms.errors import InvalidQuestion, NotFound

LAST = (
    "The table's figures are taken as they were published, without an error; who started outside "
    "it has none."
)


@dataclass(frozen=True)
class ByTable(Yardstick):
    """`start`: the quantity that the table starts from."""

    own: Quantity
    asked: q.AgainstPrior | q.AgainstGrowthTable
    start: Quantity
    lacking: ClassVar[Mapping[str, str]] = {
        "no_prior": "no starting score", "no_yardstick": "outside the table",
    }  # fmt: skip

    def look_up(self, snapshot: Snapshot) -> Held:
        found = reached_by_table(snapshot, self.own, self.start, self._goal)
        start = np.asarray(figures_of_students(snapshot, self.start))
        return Held(found.outcome, start, self.start.label, tables=found.tables)

    @property
    def _goal(self) -> Goal:
        return "expected"

    def method(self, snapshot: Snapshot, told: Told) -> Method:
        held = self.held(snapshot)
        assert held is not None
        made = looked_up(
            self, told, f"Distance from {self.whom}", "methods/expected-by-table.md",
            f"minus what the table says of where the student was in {self.start.label}", LAST,
        )  # fmt: skip
        return made.model_copy(update={"facts": {**made.facts, "tables": list(held.tables)}})


@dataclass(frozen=True)
class ExpectedByTable(ByTable):
    """Where they started, by a table of expected outcomes and not by the district's own results."""

    asked: q.AgainstPrior
    kind: ClassVar[str] = "prior"

    @classmethod
    def bound_to(
        cls, asked: q.AgainstPrior, own: Quantity, starts: list[Quantity]
    ) -> ExpectedByTable:
        spec = asked.prior
        if len(starts) > 1:
            raise InvalidQuestion("A table starts from one score.", next_step="Take one prior.")
        if spec.model != "simple":
            raise InvalidQuestion(
                "What a table expects is taken as it is: it is not pooled and not corrected.",
                next_step="Take the simple model, or a line through the district's own results.",
                instead={"against": {"prior": {"expect": "table"}}},
            )
        bound = spec.model_copy(update={"priors": (starts[0].measure,)})
        return cls(own, asked.model_copy(update={"prior": bound}), starts[0])

    @property
    def words(self) -> str:
        return "where they started, by the table of expected outcomes"

    @property
    def whom(self) -> str:
        return "what the table expects"

    @property
    def priors(self) -> tuple[Quantity, ...]:
        return (self.start,)


@dataclass(frozen=True)
class Growth(ByTable):
    """Expected or ambitious growth from an earlier sitting."""

    asked: q.AgainstGrowthTable
    kind: ClassVar[str] = "growth_table"

    @classmethod
    def bind(cls, asked: q.AgainstGrowthTable, own: Quantity, binding: Binding) -> Growth:
        spec = asked.growth_table
        if spec.table is not None:
            raise not_yet("a growth table by name")
        start = earlier_of(spec.from_, own, binding)
        bound = spec.model_copy(update={"from_": start.measure})
        return cls(own, asked.model_copy(update={"growth_table": bound}), start)

    @property
    def _goal(self) -> Goal:
        return self.asked.growth_table.goal

    @property
    def words(self) -> str:
        return f"the {self._goal} growth since {self.start.label}"

    @property
    def whom(self) -> str:
        return f"the {self._goal} growth"

    @property
    def states(self) -> tuple[str, ...]:
        return "short of expected growth", "expected growth", "ambitious growth"

    @property
    def met_at(self) -> int:
        return 1 if self._goal == "expected" else 2

    def standing(self, snapshot: Snapshot, values: Floats) -> Floats:
        """Which growth each has met; a table without an ambitious one knows two states."""
        reached = [reached_by_table(snapshot, self.own, self.start, "expected").outcome]
        try:
            more = reached_by_table(snapshot, self.own, self.start, "ambitious").outcome
            reached.append(np.where(np.isnan(more), np.inf, more))
        except NotFound:
            pass
        # A gain that rounding leaves a hair under the need has met it.
        near = values + 1e-9 * np.maximum(np.abs(values), 1.0)
        met = sum((near >= one).astype(float) for one in reached)
        return np.where(np.isnan(values) | np.isnan(reached[0]), np.nan, 1.0 + met)
