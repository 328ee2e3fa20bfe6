"""What of a release is known by name to whoever sees no student of it: which year levels sat a
test, and which values a characteristic has. No figure leaves here."""

from __future__ import annotations

import numpy as np

from bridge_chart.access.releases import Published
from bridge_chart.store.snapshot import MeasureKey


def tests_of(published: Published) -> list[tuple[MeasureKey, list[int]]]:
    """The results of the newest release, the newest sitting first, with the year levels that sat
    each; none that nobody sat."""
    if not published.released:
        return []
    whole = published.released[-1].loaded[1].whole
    told = []
    for key in reversed(whole.measures):
        roll = whole.roll_at(key.date)
        if key.role != "result" or roll is None:
            continue
        held = np.asarray(roll.year_level)[~np.isnan(whole.values(key))]
        levels = [int(level) for level in np.unique(held) if level >= 0]
        told += [(key, levels)] if levels else []
    return told


def values_of(published: Published, characteristic: int) -> list[tuple[str, int]]:
    """The values of a characteristic in the newest release, by name and id."""
    whole = published.released[-1].loaded[1].whole
    held = [one for one in whole.characteristics if characteristic in (one.id, *one.also)]
    return [(option.name, option.id) for one in held for option in one.options]
