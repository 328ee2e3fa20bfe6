"""The class beside one's own: what a teacher sees of it once the two are paired for a talk.

It is figures alone: who sat, of whom, and what `read` works out of their rows. Where fewer than
FEWEST sat whom the teacher does not see anyway, a figure would be somebody's, and there is none.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

import numpy as np

from bridge_chart.access.pairings import named
from bridge_chart.access.scoped import beyond
from bridge_chart.access.since import FEWEST
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import MeasureKey, Snapshot

R = TypeVar("R")


@dataclass(frozen=True)
class Beside(Generic[R]):
    """A paired class: n have a result, `missing` none; told: what was read of them, none where
    they are too few."""

    label: str
    n: int
    missing: int
    told: R | None


def paired(
    snapshot: Snapshot,
    key: MeasureKey,
    sat: Callable[[Snapshot], Mask],
    read: Callable[[Snapshot, Mask], R],
) -> list[Beside[R]]:
    """The classes that stand beside the asker's own at a sitting, by name. sat: (students of the
    district,) who sat what is looked at; read: given the district and the class's own who did."""
    outside = beyond(snapshot)
    if outside is None or not snapshot.paired:
        return []
    whole, ids = outside.whole, {key.sitting.id, *key.sitting.also}
    roll = whole.roll_at(key.date)
    if roll is None:
        return []
    out = []
    pairs, had = np.asarray(roll.members), sat(whole)
    known = outside.known(snapshot, key)
    for place, one in enumerate(whole.classes):
        if not any(at in ids and to in (one.id, *one.also) for at, to in snapshot.paired):
            continue
        there = np.zeros(whole.students, bool)
        there[pairs[pairs[:, 1] == place, 0]] = True
        n = int((there & had).sum())
        others = int((there & had & ~known).sum())
        told = read(whole, there & had) if others >= FEWEST else None
        out.append(Beside(named(one, whole), n, int(there.sum()) - n, told))
    return sorted(out, key=lambda one: one.label)
