"""Pinned rows: everyone, the school, the nation; above every split, so that a row has its place."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.split import Key
from bridge_chart.answers.bound.view import Wider
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.rows import unjudged_row
from bridge_chart.answers.figures.slices import Slice, whole
from bridge_chart.answers.what.nation import national
from bridge_chart.answers.who.population import everybody
from bridge_chart.core.arrays import Mask
from bridge_chart.core.describing.describe import moments
from bridge_chart.terms.answer import Row
from bridge_chart.terms.errors import NotFound, NotPublished

Wanted = tuple[Mask, Key, str]
DISTRICT: Key = ("district", 0)


def pinned_slices(part: Slice) -> list[Slice]:
    """Those of the pinned rows that the question asks for, as far as they may be seen."""
    asked = part.view.question.reference
    out: list[Slice] = []
    # Against a group, everybody is the yardstick already: the row would be held against itself.
    if "district" in asked and part.out.group is None:
        district = _published(part) if part.view.wider else _district(part)
        out += [] if district is None else [district]
    if "school" in asked:
        school = _one_school(part)
        out += [] if school is None else [whole(part, *school)]
    return out


def _district(part: Slice) -> Slice | None:
    everyone = everybody(part.view)
    return None if everyone is None else whole(part, everyone, DISTRICT, "All schools")


def _published(part: Slice) -> Slice | None:
    """The district as it was released; None where that says nothing of this."""
    try:
        wide = wider_than(part)
    except NotPublished:
        return None
    base = Slice(wide.view, outcome(wide.view), wide.mask, part.grouping, released=wide.day)
    return whole(base, wide.mask, DISTRICT, "All schools")


def wider_than(part: Slice) -> Wider:
    """What is published of the district beside a part of it; NotPublished says why nothing is."""
    view = part.view
    assert view.wider is not None
    levels = np.unique(np.asarray(view.roll.year_level)[part.people & view.meant])
    return view.wider(tuple(levels.tolist()))


def _one_school(part: Slice) -> Wanted | None:
    """The school of those asked about, whole; None where they are in several, or are all of it."""
    view = part.view
    schools = np.unique(np.asarray(view.roll.school)[part.people])
    if len(schools) != 1 or schools[0] < 0:
        return None
    everyone = everybody(view)
    mask = part.people & view.meant if everyone is None else everyone
    mask = mask & (np.asarray(view.roll.school) == schools[0])
    if np.array_equal(mask, part.people & view.meant) and not view.question.split:
        return None
    school = view.snapshot.schools[int(schools[0])]
    return mask, ("school", school.id), school.name


def pinned_rows(part: Slice) -> list[Row]:
    """The pinned rows of a quantity: aggregates, never openable."""
    rows = []
    for one in pinned_slices(part):
        row = unjudged_row(one)
        told: dict[str, object] = {"pinned": True, "opens": None, "rank": None}
        told |= {"measure": part.view.at, "as_of": one.released}
        if one.released:
            told |= dict.fromkeys(("q1", "median", "q3"))
        rows.append(row.model_copy(update=told))
    if "nation" in part.view.question.reference:
        row_of_nation = nation_row(part)
        if row_of_nation is not None:
            rows.append(row_of_nation)
    return rows


def nation_row(part: Slice) -> Row | None:
    """The nation's mean for those counted, by their forms and year levels; None without it."""
    view, out = part.view, part.out
    try:
        held = national(view.snapshot, view.quantity)
    except NotFound:
        return None
    at = part.grouping.at[out.reasons[part.grouping.at] == 0]
    told = held.expected[at]
    if not len(told):
        return None
    mean = float(moments(told, (told != told) * 0, 1).mean[0])
    return Row(
        key="nation", label="The nation", measure=view.at,
        n=int(held.table_n) if held.table_n == held.table_n else 0, missing=0,
        mean=mean, value=mean, pinned=True,
    )  # fmt: skip
