"""Fits: what is worked out of the whole district and then read off for the asker's own students.

An expectation line, a variance, thirds of a year level, who was meant to sit: the same sentence
has the same figures for the same rows, whoever asks. What goes out is the figure of each student
in scope, never one of a student beyond it, and nothing where so few stand behind it elsewhere that
theirs could be told. Where too few results changed since the last fit that was shown, that one
stays (`access.vintages`): two lines taken from each other would tell the result between them.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

import numpy as np

from bridge_chart.access.scoped import Beyond, beyond
from bridge_chart.access.since import FEWEST
from bridge_chart.answers.kept.kept import Key, kept_for
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.errors import NotFound

FEWEST_ELSEWHERE = FEWEST
"""Students beyond the scope behind a fit that is published to it, where there are any."""
T = TypeVar("T")
R = TypeVar("R")


class Own:
    """How a figure of the district is read off for a scope. `version`: of which it is, where that
    is not the one asked."""

    def __init__(self, snapshot: Snapshot, outside: Beyond) -> None:
        self.snapshot, self._outside = snapshot, outside
        stays = outside.whole.identity != snapshot.identity
        self.version = outside.whole.version if stays else None

    def take(self, values: np.ndarray, measure: MeasureKey, nothing: float) -> np.ndarray:
        """The figures (students of the district,) of those whose result may be seen; `nothing`
        for the others of the scope."""
        mine = self.rows(values, nothing)
        return np.where(self.snapshot.seen(measure), mine, np.array(nothing, mine.dtype))

    def rows(self, column: np.ndarray, nothing: float) -> np.ndarray:
        """What a figure of the district is for each student of the scope, seen or not; to work
        with, not to show. `nothing`: for who is not in the fit's version."""
        at, held = self._outside.at, np.asarray(column)
        if not len(held):
            return np.full((len(at), *held.shape[1:]), nothing, held.dtype)
        there = (at >= 0).reshape(-1, *[1] * (held.ndim - 1))
        return np.where(there, held[np.maximum(at, 0)], np.array(nothing, held.dtype))

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

    def in_strata(self, strata: np.ndarray, which: set[int]) -> Mask:
        """(students of the scope,) who are in some strata of the district."""
        return np.isin(self.rows(strata, -9), list(which))

    def ids(self, field: str) -> list[int]:
        """The ids of the scope's schools or classes."""
        items = self.snapshot.schools if field == "school" else self.snapshot.classes
        return [item.id for item in items]


def fitted(
    snapshot: Snapshot,
    name: Key,
    make: Callable[[Snapshot], T],
    own: Callable[[T, Own], T],
    of: tuple[MeasureKey, ...] = (),
) -> T:
    """A figure of the whole district at this version, worked out once for everybody; for a scope
    what `own` reads off for it. of: the results that it is fitted on, where two versions of it
    could be taken from each other. Of results that are tried it is that of the record: the model
    stays fixed.
    """
    if snapshot.edits is not None and not snapshot.edits.refit:
        snapshot = snapshot.untried
    outside = beyond(snapshot)
    if outside is None:
        return kept_for(snapshot, name, lambda: make(snapshot))
    if of:
        outside = outside.of_vintage(tuple(measure.sitting.id for measure in of))
    whole, held = outside.whole, outside

    def read_off() -> T:
        made = kept_for(whole, name, lambda: make(whole))
        return own(made, Own(snapshot, held))

    return kept_for(snapshot, (*name, whole.identity), read_off)


def judged(
    snapshot: Snapshot,
    name: Key,
    make: Callable[[Snapshot], tuple[T, Mask]],
    read: Callable[[T, np.ndarray], R],
    of: tuple[MeasureKey, ...],
) -> R:
    """What `read` finds of the asker's own students among the whole district's: it is given what
    was made and each student's place in it (−1 = not there), and what it hands out is of own rows
    alone. make: also whom it rests on; where too few of them are others, the own stand alone.
    """
    outside = beyond(snapshot)
    if outside is None:
        made, _ = kept_for(snapshot, name, lambda: make(snapshot))
        return read(made, np.arange(snapshot.students))
    outside = outside.of_vintage(tuple(measure.sitting.id for measure in of))
    whole = outside.whole if snapshot.edits is None else outside.whole.tried(snapshot.edits)
    try:
        made, behind = kept_for(whole, name, lambda: make(whole))
        enough = Own(snapshot, outside).enough(behind, of[0])
    except NotFound:  # an older version does not know what is asked
        enough = False
    if not enough:
        made, _ = kept_for(snapshot, name, lambda: make(snapshot))
        return read(made, np.arange(snapshot.students))
    return read(made, np.asarray(outside.at))
