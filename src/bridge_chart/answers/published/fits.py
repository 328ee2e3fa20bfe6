"""Fits: what is worked out of the whole district and then read off for the asker's own students.

An expectation line, a variance, thirds of a year level, who was meant to sit: the same sentence
has the same figures for the same rows, whoever asks. What goes out is the figure of each student
in scope, never one of a student beyond it, and nothing where so few stand behind it elsewhere that
theirs could be told.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

import numpy as np

from bridge_chart.access.scoped import Beyond, beyond
from bridge_chart.answers.kept.kept import Key, kept_for
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import MeasureKey, Snapshot

FEWEST_ELSEWHERE = 10
"""Students beyond the scope behind a fit that is published to it, where there are any."""
T = TypeVar("T")


class Own:
    """How a figure of the district is read off for a scope."""

    def __init__(self, snapshot: Snapshot, outside: Beyond) -> None:
        self.snapshot, self._outside = snapshot, outside

    def take(self, values: np.ndarray, measure: MeasureKey, nothing: float) -> np.ndarray:
        """The figures (students of the district,) of those whose result may be seen; `nothing`
        for the others of the scope."""
        mine = np.asarray(values)[self._outside.at]
        return np.where(self.snapshot.seen(measure), mine, np.array(nothing, mine.dtype))

    def enough(self, behind: Mask, measure: MeasureKey) -> bool:
        """Whether those behind a figure are the scope's own, or enough others with them."""
        others = int(np.count_nonzero(behind & ~self._outside.known(self.snapshot, measure)))
        return others == 0 or others >= FEWEST_ELSEWHERE

    def few(self, behind: Mask, strata: np.ndarray, measure: MeasureKey) -> set[int]:
        """The strata whose figures may not be read off."""
        return {
            int(one) for one in np.unique(strata[behind])
            if not self.enough(behind & (strata == one), measure)
        }  # fmt: skip

    def rows(self, column: np.ndarray) -> np.ndarray:
        """What a figure of the district is for each student of the scope, seen or not; to work
        with, not to show."""
        return np.asarray(column)[self._outside.at]

    def in_strata(self, strata: np.ndarray, which: set[int]) -> Mask:
        """(students of the scope,) who are in some strata of the district."""
        return np.isin(np.asarray(strata)[self._outside.at], list(which))

    def ids(self, field: str) -> list[int]:
        """The ids of the scope's schools or classes."""
        items = self.snapshot.schools if field == "school" else self.snapshot.classes
        return [item.id for item in items]


def fitted(
    snapshot: Snapshot, name: Key, make: Callable[[Snapshot], T], own: Callable[[T, Own], T]
) -> T:
    """A figure of the whole district at this version, worked out once for everybody; for a scope
    what `own` reads off for it."""
    outside = beyond(snapshot)
    if outside is None:
        return kept_for(snapshot, name, lambda: make(snapshot))
    whole = outside.whole

    def read_off() -> T:
        made = kept_for(whole, name, lambda: make(whole))
        return own(made, Own(snapshot, outside))

    return kept_for(snapshot, name, read_off)
