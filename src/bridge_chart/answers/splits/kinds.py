"""Every kind of split, each once; a new one is a class of this room and a line here."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.split import Group, Grouping, Split, one_row
from bridge_chart.answers.splits.by_characteristic import by_characteristic
from bridge_chart.answers.splits.by_figure import by_band, by_level
from bridge_chart.answers.splits.by_place import by_field
from bridge_chart.answers.splits.by_population import by_populations
from bridge_chart.core.arrays import Mask
from bridge_chart.terms import question as q

KINDS: dict[type[q.Strict], Callable[[Any, Binding], Split]] = {
    q.ByField: by_field,
    q.ByCharacteristic: by_characteristic,
    q.ByBand: by_band,
    q.ByLevel: by_level,
    q.ByPopulations: by_populations,
}
MEASURES = ("measure", "sitting", "subject", "part")
"""Words for the measures themselves as a dimension."""


def bind_split(d: q.Dimension, binding: Binding) -> Split:
    """A dimension with everything found; not one of the words for the measures."""
    if isinstance(d, str):
        raise TypeError("a word for the measures is no split of its own")
    return KINDS[type(d)](d, binding)


def grouped(splits: Sequence[Split], people: Mask) -> Grouping:
    """The grouping by none, one or two dimensions; two make a row for every pair that has
    somebody."""
    if len(splits) < 2:
        return splits[0].group(people) if splits else one_row(people)
    first, second = (split.group(people) for split in splits)
    # Every membership of a student in the one meets every membership in the other.
    order = np.argsort(second.at, kind="stable")
    other_at, other_code = second.at[order], second.code[order]
    begin = np.searchsorted(other_at, first.at, side="left")
    count = np.searchsorted(other_at, first.at, side="right") - begin
    offset = np.arange(int(count.sum())) - np.repeat(np.cumsum(count) - count, count)
    at = np.repeat(first.at, count)
    wide = len(second.groups)
    other = other_code[np.repeat(begin, count) + offset]
    pair = np.repeat(first.code, count).astype(np.int64) * wide + other
    there, code = np.unique(pair, return_inverse=True)
    groups = [_pair(first.groups[n // wide], second.groups[n % wide]) for n in there.tolist()]
    return Grouping(
        first.label, groups, at, code, first.within_school or second.within_school,
        first.overlaps or second.overlaps, second.label, first.partial or second.partial,
    )  # fmt: skip


def _pair(one: Group, two: Group) -> Group:
    return Group(
        one.key, f"{one.label}, {two.label}", lambda: (*one.adds, *two.adds), (one, two)
    )  # fmt: skip
