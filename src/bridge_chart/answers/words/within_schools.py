"""Beside a gap of two groups: the gap inside schools."""

from __future__ import annotations

from typing import Literal

import numpy as np

from bridge_chart.answers.figures.sample import sample_of
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.core.contrasts.within import gap_within
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Reading, Row
from bridge_chart.terms.wording import interval, number, signed

UNCLEAR = "A gap inside schools cannot be told from chance."
MOSTLY = 0.8
"""Of a gap that is this much as large inside schools, most lies inside them."""


def within_schools(part: Slice, rows: list[Row]) -> list[Reading]:
    """Of a split by one characteristic in two: how large its gap is inside schools, how much that
    differs from school to school, and what it means, where the gap is told from chance."""
    view, grouping = part.view, part.grouping
    split = [one.asked for one in view.split]
    known = np.flatnonzero(grouping.known())
    if len(split) != 1 or not isinstance(split[0], q.ByCharacteristic) or len(known) != 2:
        return []
    sample = sample_of(view, part.out)
    second = np.full(len(sample.values), -1, np.int64)
    for side, group in enumerate(known):
        second[grouping.at[grouping.code == group]] = side
    found = gap_within(sample, second, np.asarray(view.roll.school).astype(np.int64))
    gap = found.gap
    if gap.reason or gap.low != gap.low:
        return []
    first, last = (grouping.groups[int(g)].label for g in known)
    spread = (
        f"it differs from school to school by an sd of {number(found.spread)} beyond chance"
        if found.spread_p < 0.01
        else "that it differs from school to school is not shown"
    )
    told = not part.out.spans or any(row.verdict in ("ahead", "behind") for row in rows)
    means = _meaning(gap.value, found.overall, gap.low, gap.high)
    if not told and means != UNCLEAR:
        means = ""
    text = (
        f"Inside schools: {last} {signed(gap.value)} against {first} "
        f"(95% interval {interval(gap.low, gap.high)}, {found.places} schools), over all of them "
        f"{signed(found.overall)}; {spread}. {means}".rstrip()
    )
    kind: Literal["list", "size"] = "list" if means in ("", UNCLEAR) else "size"
    return [Reading(kind=kind, rows=[], text=text)]


def _meaning(inside: float, overall: float, low: float, high: float) -> str:
    """What the two say together, no more than the interval does."""
    if low <= 0 <= high:
        return UNCLEAR
    if low <= overall <= high or (overall * inside > 0 and abs(inside) >= MOSTLY * abs(overall)):
        return "Most of the gap lies inside schools: who goes where does not make it."
    if overall * inside <= 0:
        return "Inside schools it is the other way round: who goes where hides it."
    larger = abs(inside) > abs(overall)
    way = "hides a part of it" if larger else "makes a part of it"
    return f"Who goes to which school {way}."
