"""Names hidden: for meetings and pictures. Whoever hides them gets a snapshot without any name or
number, so that nothing made of it can show one: no list, file, print or search."""

from __future__ import annotations

from copy import copy

import numpy as np

from bridge_chart.store.snapshot import UNKNOWN_DAY, Snapshot


def without_names(snapshot: Snapshot) -> Snapshot:
    """The same version with a stand-in for every name, the same one each time, and neither numbers
    nor birth days; under a key of its own, so that nothing kept is mixed up."""
    hidden = copy(snapshot)
    hidden.names_hidden = True
    hidden.key = f"{snapshot.key}, names hidden"
    stand_in = np.char.add("Student ", np.asarray(snapshot.student_ids).astype(str))
    blank = np.full(snapshot.students, "", "U1")
    hidden.__dict__ |= {
        "given_names": stand_in,
        "family_names": blank,
        "numbers": blank,
        "birth_days": np.full(snapshot.students, UNKNOWN_DAY, np.int32),
        "aliases": {},
    }
    return hidden
