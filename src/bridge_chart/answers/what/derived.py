"""Measures worked out for each student: the distance from a yardstick, a national rank.

One class for each way (`WAYS`); docs/adding.md says what else a new one touches.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.identity import Working
from bridge_chart.answers.bound.names import not_yet
from bridge_chart.answers.bound.quantity import Quantity, Worked
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.answers.what.mastered import Mastered
from bridge_chart.answers.what.nation import percentile_ranks
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Floats
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion


@dataclass(frozen=True)
class Span(Worked):
    """A student's figure minus what it is held against."""

    of: Quantity
    yardstick: Yardstick
    called: ClassVar[str] = "span"
    score_name: ClassVar[str] = "span"

    def figures(self, snapshot: Snapshot) -> Floats:
        held = self.yardstick.held(snapshot)
        assert held is not None  # a group is refused when the measure is bound
        return np.asarray(figures_of_students(snapshot, self.of) - held.expected)

    @property
    def lacks(self) -> str:
        return self.yardstick.lacking.get(self.yardstick.lacks, "no expectation")


@dataclass(frozen=True)
class Gain(Span):
    """A span against an earlier sitting."""

    called: ClassVar[str] = "gain"
    score_name: ClassVar[str] = "gain"


@dataclass(frozen=True)
class Steps(Span):
    """A span in levels or grades."""

    called: ClassVar[str] = "steps made"
    score_name: ClassVar[str] = "steps made"
    unit: ClassVar[str | None] = "steps"


@dataclass(frozen=True)
class Percentile(Worked):
    """The national percentile rank of a student's score."""

    of: Quantity
    called: ClassVar[str] = "national percentile rank"
    score_name: ClassVar[str] = "national percentile rank"

    def figures(self, snapshot: Snapshot) -> Floats:
        return percentile_ranks(snapshot, self.of)

    @property
    def lacks(self) -> str:
        return "no national figure"


WAYS: dict[str, type[Span | Percentile | Mastered]] = {
    "span": Span, "gain": Gain, "steps": Steps, "percentile": Percentile, "mastered": Mastered,
}  # fmt: skip


def bind_derived(ask: q.Derived, of: Quantity, binding: Binding) -> Quantity:
    """A derived measure with its yardstick found."""
    way = WAYS.get(ask.derive)
    if way is None:
        raise not_yet(f"the derived measure “{ask.derive}”")
    for name, given in (("table", ask.table), ("rule", ask.rule)):
        if given is not None:
            raise not_yet(f"“{name}” of a derived measure")
    against = None
    if issubclass(way, Span):
        if ask.against is None:
            raise InvalidQuestion(f"The derived measure “{ask.derive}” must have “against”.")
        if isinstance(ask.against, q.AgainstGroup):
            raise InvalidQuestion("A group is no yardstick for a single student's span.")
        yardstick = binding.about(of).yardstick(ask.against, of)
        assert yardstick is not None
        worked: Worked = way(of, yardstick)
        against = yardstick.asked
    else:
        if ask.against is not None:
            raise InvalidQuestion(f"The derived measure “{ask.derive}” has no “against”.")
        worked = way(of)
    score = "percentile" if ask.derive == "percentile" else of.score
    identity = replace(of.id, score=score, working=Working(ask.derive, of.id, against))
    return replace(
        of, id=identity, worked=worked, steps=(), pass_at=None, decimals=1,
        label=f"{of.label}, {way.called}",
    )  # fmt: skip
