"""Results as they are tried: so many steps from where students stand."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.store.snapshot import Edits, Snapshot


def edits_of(
    snapshot: Snapshot, of: Quantity, steps: Mapping[int, int], *, refit: bool = False
) -> Edits:
    """The values of those who have a result in `of`, by student id so many steps from where they
    stand; nobody past the top or below the bottom. refit: what is fitted is fitted on them too."""
    ids = np.asarray(snapshot.student_ids)
    wanted = np.array(sorted(steps), np.int64)
    at = np.minimum(np.searchsorted(ids, wanted), max(len(ids) - 1, 0))
    values = np.asarray(snapshot.values(of.key))
    there = np.zeros(len(wanted), bool)
    if len(ids):
        there = (ids[at] == wanted) & ~np.isnan(values[at])
    held = wanted[there]
    moved = values[at[there]] + np.array([steps[int(one)] for one in held])
    return Edits(
        of.key.key, tuple(int(one) for one in held),
        tuple(float(x) for x in np.clip(moved, 1, len(of.steps))), refit,
    )  # fmt: skip
