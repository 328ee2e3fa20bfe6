"""Groups against groups, each within the question's own population."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.split import Conditions, Group, Grouping, Split
from bridge_chart.core.arrays import Mask
from bridge_chart.terms import question as q


def by_populations(d: q.ByPopulations, binding: Binding) -> Split:
    """A row for each population; students in none are no row, for nobody asked for them."""
    found = [binding.members(one.who) for one in d.populations]
    asked = tuple(
        one.model_copy(update={"who": who})
        for one, (who, _) in zip(d.populations, found, strict=True)
    )
    return ByPopulations(
        d.model_copy(update={"populations": asked}), tuple(members for _, members in found)
    )


@dataclass(frozen=True, eq=False)
class ByPopulations(Split):
    asked: q.ByPopulations
    members: tuple[Filter, ...]

    @property
    def label(self) -> str:  # type: ignore[override]
        return " and ".join(p.label for p in self.asked.populations)

    def group(self, people: Mask) -> Grouping:
        groups, ats, codes = [], [], []
        for n, (one, inside) in enumerate(zip(self.asked.populations, self.members, strict=True)):
            held = np.flatnonzero(people & inside.mask)
            groups.append(Group(("group", n), one.label, _opening(inside)))
            ats.append(held)
            codes.append(np.full(len(held), n, np.int32))
        at, code = np.concatenate(ats), np.concatenate(codes)
        overlaps = len(at) > 0 and int(np.bincount(at).max()) > 1
        return Grouping("group", groups, at, code, overlaps=overlaps, partial=True)


def _opening(inside: Filter) -> Callable[[], Conditions]:
    """What opens the members of one population."""
    return lambda: (inside.asked,)
