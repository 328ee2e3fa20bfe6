"""Pinned rows: everyone, the school, the nation; above every split, so that a row has its place."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.split import Key
from bridge_chart.answers.bound.view import own_schools
from bridge_chart.answers.figures.rows import rows_of
from bridge_chart.answers.figures.slices import Slice, whole
from bridge_chart.answers.what.nation import national
from bridge_chart.answers.who.population import everybody
from bridge_chart.core.arrays import Mask
from bridge_chart.core.describing.describe import moments
from bridge_chart.terms.answer import Row
from bridge_chart.terms.errors import NotFound

Wanted = tuple[Mask, Key, str]


def pinned_groups(part: Slice) -> list[Wanted]:
    """Whom the pinned rows are about that the question asks for, with their keys and labels."""
    asked = part.view.question.reference
    out: list[Wanted] = []
    # Against a group, everybody is the yardstick already: the row would be held against itself.
    everyone = everybody(part.view) if part.out.group is None else None
    if "district" in asked and everyone is not None:
        out.append((everyone, ("district", 0), "All schools"))
    if "school" in asked:
        school = _one_school(part)
        if school is not None:
            out.append(school)
    return out


def _one_school(part: Slice) -> Wanted | None:
    """The school of those asked about, whole; None where they are in several, or are all of it."""
    view = part.view
    schools = np.unique(np.asarray(view.roll.school)[part.people])
    if (
        len(schools) != 1
        or schools[0] < 0
        or schools[0] not in own_schools(view.snapshot, view.scope)
    ):
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
    for mask, key, label in pinned_groups(part):
        row = rows_of(whole(part, mask, key, label))[0]
        rows.append(
            row.model_copy(update={"pinned": True, "opens": None, "verdict": "none", "rank": None})
        )
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
