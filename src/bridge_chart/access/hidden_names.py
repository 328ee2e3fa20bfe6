"""Names hidden: for meetings and pictures. Whoever hides them gets a snapshot without any name or
number, so that nothing made of it can show one: no list, file, print or search."""

from __future__ import annotations

import hashlib
from copy import copy
from threading import Lock

import numpy as np
from cachetools import LRUCache

from bridge_chart.store.snapshot import UNKNOWN_DAY, Array, Snapshot

FEWEST_STAND_INS = 100_000
_made: LRUCache[tuple[str, str, str], Snapshot] = LRUCache(16)
_making = Lock()


def without_names(snapshot: Snapshot, drawn_by: str = "") -> Snapshot:
    """The same version with a stand-in for every name, and neither numbers nor birth days; under a
    key of its own, so that nothing kept is mixed up. drawn_by: the same gives the same stand-ins,
    whatever the version and the scope; another session, others."""
    key = (str(snapshot.folder), snapshot.key, drawn_by)
    with _making:
        if key not in _made:
            _made[key] = _without_names(snapshot, drawn_by)
        return _made[key]


def _without_names(snapshot: Snapshot, drawn_by: str) -> Snapshot:
    hidden = copy(snapshot)
    hidden.names_hidden = True
    hidden.key = f"{snapshot.key}, names hidden {_seed(drawn_by):x}"
    drawn = stand_ins(np.asarray(snapshot.student_ids), drawn_by)
    blank = np.full(snapshot.students, "", "U1")
    hidden.__dict__ |= {
        "given_names": np.char.add("Student ", drawn.astype(str)),
        "family_names": blank,
        "numbers": blank,
        "birth_days": np.full(snapshot.students, UNKNOWN_DAY, np.int32),
        "aliases": {},
    }
    return hidden


def stand_ins(ids: Array, drawn_by: str) -> Array:
    """(students,) a number for each id, no two alike, that says nothing of it.

    They stay as they are whatever students come or go, until there are a hundred thousand.

    >>> few, more = (stand_ins(np.arange(1, n), "a session") for n in (4, 9))
    >>> bool((few == more[:3]).all()), len(set(more.tolist())), int(more.max()) <= 100_000
    (True, 8, True)
    """
    most = FEWEST_STAND_INS
    while len(ids) and most <= int(ids.max()):
        most *= 10
    return np.asarray(np.random.default_rng(_seed(drawn_by)).permutation(most)[ids] + 1)


def _seed(drawn_by: str) -> int:
    return int.from_bytes(hashlib.sha256(drawn_by.encode()).digest()[:8])
