"""Whether what a later version says of a sitting may be published beside what an earlier one said.

Two versions that differ in one student's score give that score to whoever takes their figures from
each other. So what is published of a sitting stays as it was first, until every cell of it differs
in nobody or in enough students: of releases, and of the versions that a fit is asked of.
"""

from __future__ import annotations

import numpy as np
from cachetools import LRUCache

from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import Array, Snapshot

FEWEST = 10
"""Students of whom a figure, or what two figures differ in, tells nobody's."""
NOTHING = -2
_told: LRUCache[tuple[str, str, int], bool] = LRUCache(4096)


def changed_enough(before: Snapshot, after: Snapshot, sitting_id: int) -> bool:
    """Whether every cell of a sitting differs in nobody, or in FEWEST students or more."""
    key = (before.identity, after.identity, sitting_id)
    if key not in _told:
        _told[key] = _changed_enough(before, after, sitting_id)
    return _told[key]


def _changed_enough(before: Snapshot, after: Snapshot, sitting_id: int) -> bool:
    keys = {m.key: m for s in (before, after) for m in s.measures if m.sitting.id == sitting_id}
    known = {m.key for m in before.measures}
    if not known & set(keys):
        return True  # it is new
    date = next(iter(keys.values())).date
    ids = np.union1d(before.student_ids, after.student_ids)
    sides = [_Side(snapshot, ids, date) for snapshot in (before, after)]
    changed = sides[0].differs(sides[1], [key for key in keys if key in known])
    levels = [side.year_level for side in sides]
    cells = [levels]
    for identity in {c.id for s in (before, after) for c in s.characteristics}:
        options = [side.option(identity) for side in sides]
        changed_here = changed | ((options[0] != options[1]) & sides[0].some)
        if not _each_enough(changed_here, levels, options):
            return False
    return _each_enough(changed, *cells)


def _each_enough(changed: Mask, *by: list[Array]) -> bool:
    """Whether each cell, as it was and as it is, has nobody or enough who changed."""
    for side in (0, 1):
        keys = np.stack([column[side][changed] for column in by], 1)
        if len(keys):
            counts = np.unique(keys, axis=0, return_counts=True)[1]
            if int(counts.min()) < FEWEST:
                return False
    return True


class _Side:
    """A sitting in one release, aligned on the students of both."""

    def __init__(self, snapshot: Snapshot, ids: Array, date: object) -> None:
        self.snapshot, self.at = snapshot, np.searchsorted(ids, snapshot.student_ids)
        self.size = len(ids)
        self.roll = snapshot.roll_at(date)  # type: ignore[arg-type]
        self.some = np.zeros(self.size, bool)
        nobody = np.full(snapshot.students, -1)
        self.year_level = self._aligned(nobody if self.roll is None else self.roll.year_level)
        self.school = self._aligned(
            nobody if self.roll is None else np.array([-1, *(s.id for s in snapshot.schools)])[
                np.asarray(self.roll.school, np.int64) + 1
            ]
        )  # fmt: skip

    def _aligned(self, column: Array) -> Array:
        out = np.full(self.size, NOTHING, np.int64)
        out[self.at] = column
        return out

    def option(self, identity: int) -> Array:
        """The option of each student by its id."""
        item = next((c for c in self.snapshot.characteristics if c.id == identity), None)
        if item is None or self.roll is None:
            return np.full(self.size, NOTHING, np.int64)
        ids = np.array([-1, *(o.id for o in item.options)])
        codes = np.asarray(self.roll.characteristic(identity, self.snapshot.students), np.int64)
        return self._aligned(ids[codes + 1])

    def values(self, key: str) -> Array:
        out = np.full(self.size, np.nan)
        measure = next((m for m in self.snapshot.measures if m.key == key), None)
        if measure is not None:
            out[self.at] = self.snapshot.values(measure)
        return out

    def differs(self, other: _Side, keys: list[str]) -> Mask:
        """Who has another value, or is in another cell; `some`: who has a value at all."""
        out = np.zeros(self.size, bool)
        for key in keys:
            one, two = self.values(key), other.values(key)
            self.some |= ~np.isnan(one) | ~np.isnan(two)
            out |= (one != two) & ~(np.isnan(one) & np.isnan(two))
        moved = (self.year_level != other.year_level) | (self.school != other.school)
        return np.asarray(out | (moved & self.some))
