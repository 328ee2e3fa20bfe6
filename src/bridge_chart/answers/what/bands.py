"""Starting bands: thirds of the district, apart in each year level."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Integers
from bridge_chart.core.expected.bands import bands
from bridge_chart.store.snapshot import MeasureKey, Snapshot

BANDS = ("low", "middle", "high")


def bands_of(snapshot: Snapshot, prior: Quantity, key: MeasureKey) -> Integers:
    """(students,) −1 not known, 0 low, 1 middle, 2 high: thirds of the district, apart in each
    year level at the sitting `key`, so that every year level has all three."""
    return kept_for(snapshot, ("bands", prior.id, key.key), lambda: _bands(snapshot, prior, key))


def _bands(snapshot: Snapshot, prior: Quantity, key: MeasureKey) -> Integers:
    values = np.asarray(figures_of_students(snapshot, prior))
    levels = np.asarray(tested_year_level(snapshot, key))
    out = np.full(snapshot.students, -1, np.int64)
    for level in np.unique(levels):
        at = np.flatnonzero(levels == level)
        if np.isfinite(values[at]).sum() >= len(BANDS):
            out[at] = bands(values[at]).band
    return out
