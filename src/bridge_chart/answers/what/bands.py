"""Starting bands: thirds of the district, apart in each year level, or cuts of one's own."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.published.fits import Own, fitted
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.expected.bands import bands
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.wording import plain

BANDS = ("low", "middle", "high")


@dataclass(frozen=True)
class Banded:
    """Per student: the band, −1 not known; and the year level that it is a third of."""

    band: Integers
    level: Floats


def bands_of(snapshot: Snapshot, prior: Quantity, key: MeasureKey) -> Integers:
    """(students,) −1 not known, 0 low, 1 middle, 2 high: thirds of the district, apart in each
    year level at the sitting `key`, so that every year level has all three."""

    def own_part(made: Banded, own: Own) -> Banded:
        few = own.few(made.band >= 0, made.level, prior.key)
        band = own.take(made.band, prior.key, -1)
        band[own.in_strata(made.level, few)] = -1
        return Banded(band, made.level[:0])

    name = ("bands", prior.id, key.key)
    made = fitted(
        snapshot, name, lambda whole: _bands(whole, prior, key), own_part, (prior.key, key)
    )  # fmt: skip
    return made.band


def band_names(scheme: q.BandScheme | None) -> tuple[str, ...]:
    """What the bands are called, from the lowest; InvalidQuestion for a scheme that is none."""
    if scheme is None:
        return BANDS
    cuts, names = scheme.cuts, scheme.names
    if any(b <= a for a, b in pairwise(cuts)):
        raise InvalidQuestion("The cuts of starting bands must rise.")
    if names and (len(names) != len(cuts) + 1 or len({*names}) < len(names)):
        raise InvalidQuestion(
            f"{len(cuts)} cuts make {len(cuts) + 1} bands; each must have a name of its own."
        )
    if names:
        return names
    if len(cuts) + 1 == len(BANDS):
        return BANDS
    between = [f"{plain(a)} to below {plain(b)}" for a, b in pairwise(cuts)]
    return f"below {plain(cuts[0])}", *between, f"{plain(cuts[-1])} or more"


def band_numbers(
    snapshot: Snapshot, prior: Quantity, key: MeasureKey, scheme: q.BandScheme | None
) -> Integers:
    """(students,) the place of each one's band, −1 not known."""
    if scheme is None:
        return bands_of(snapshot, prior, key)
    values = np.asarray(figures_of_students(snapshot, prior))
    found = np.searchsorted(np.array(scheme.cuts), values, side="right")
    return np.where(np.isnan(values), -1, found).astype(np.int64)


def _bands(snapshot: Snapshot, prior: Quantity, key: MeasureKey) -> Banded:
    values = np.asarray(figures_of_students(snapshot, prior))
    levels = np.asarray(tested_year_level(snapshot, key))
    out = np.full(snapshot.students, -1, np.int64)
    for level in np.unique(levels):
        at = np.flatnonzero(levels == level)
        if np.isfinite(values[at]).sum() >= len(BANDS):
            out[at] = bands(values[at]).band
    return Banded(out, levels)
