"""Own groups beside the rest of the district on a test, for whoever sees a part of it.

The rest is one set that no question can shape: everybody else who sat the form, of the year level
where own rows have one. It stands where enough others in other schools are behind it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.access.since import FEWEST
from bridge_chart.answers.figures.sat import Sat
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.published.cells import FEWEST_OTHER_SCHOOLS
from bridge_chart.answers.published.fits import judged
from bridge_chart.answers.shows.items.rows import Rows, rows_of
from bridge_chart.answers.what.sheets import Sheet, sheet_of
from bridge_chart.answers.what.taught import taught
from bridge_chart.answers.what.values import tested_year_level
from bridge_chart.core.arrays import Codes, Integers, Mask
from bridge_chart.core.items.beside import Beside, beside_rest
from bridge_chart.store.reference_tables import same
from bridge_chart.store.snapshot import Snapshot

THE_REST = "the rest of the district"


@dataclass(frozen=True)
class _Everyone:
    """Who sat the form in the district. at: (sat,) their places; sheet: their marks; classes,
    schools: (sat,) −1 = not known; levels: (sat,) of the year, 0 = not known; whole: whether it is
    the district indeed."""

    at: Integers
    sheet: Sheet
    classes: Codes
    schools: Codes
    levels: Integers
    whole: bool


def beside_district(part: Slice, sat: Sat, rows: Rows, only: str | None) -> Beside | None:
    """Each group beside the rest of the district; None for who sees all of it, or where the rest
    would be somebody's figures."""
    view = part.view
    if view.snapshot.scope.whole:
        return None
    key, form = view.quantity.key, view.quantity.form
    own = sat.members.any(axis=0)
    levels = np.unique(np.asarray(tested_year_level(view.snapshot, key))[sat.sheet.at[own]])
    level = int(levels[0]) if len(levels) == 1 and levels[0] >= 0 else None

    def make(snapshot: Snapshot) -> tuple[_Everyone, Mask]:
        sheet = sheet_of(snapshot, key, form)
        years = np.asarray(tested_year_level(snapshot, key))[sheet.at].astype(np.int64) + 1
        there = np.ones(len(sheet.at), bool)
        if level is not None:
            there = years == level + 1
        at, roll = sheet.at[there], snapshot.roll_at(key.date)
        schools = np.full(len(at), -1) if roll is None else np.asarray(roll.school)[at]
        cut = replace(sheet, at=at, marks=replace(sheet.marks, marks=sheet.marks.marks[there]))
        classes = taught(snapshot, key).classes[at]
        behind = np.zeros(snapshot.students, bool)
        behind[at] = True
        whole = snapshot.scope.whole
        return _Everyone(at, cut, classes, schools.astype(np.int64), years[there], whole), behind

    def read(found: _Everyone, places: np.ndarray) -> Beside | None:
        return _beside(found, places, sat, rows, only)

    name = ("items of the district", key.sitting.id, form, level)
    return judged(view.snapshot, name, make, read, (key,))


def _beside(
    found: _Everyone, places: np.ndarray, sat: Sat, rows: Rows, only: str | None
) -> Beside | None:
    """places: (own students,) in the district."""
    if not found.whole or not len(found.at):
        return None
    own = np.isin(found.at, places[places >= 0])
    elsewhere = found.schools[~own]
    if len(elsewhere) < FEWEST or len(np.unique(elsewhere)) < FEWEST_OTHER_SCHOOLS:
        return None
    # All year levels together, less those that can be asked for, would tell one of a few.
    if np.bincount(found.levels[~own])[np.unique(found.levels[~own])].min() < FEWEST:
        return None
    there = places[sat.sheet.at]
    row = np.searchsorted(found.at, there)
    row = np.minimum(row, len(found.at) - 1)
    known = found.at[row] == there
    members = np.zeros((len(sat.members), len(found.at)), bool)
    for group, mask in enumerate(sat.members):
        members[group, row[mask & known]] = True
    # Its marks may be of an older version than what is known of the questions.
    infos = dict(zip(map(same, sat.sheet.questions), sat.sheet.infos, strict=True))
    known_of = tuple(infos.get(same(name)) for name in found.sheet.questions)
    theirs = rows_of(replace(found.sheet, infos=known_of), rows.by, only)
    if theirs.names != rows.names:
        return None
    told = beside_rest(theirs.share, members, np.ones(len(found.at), bool), found.classes)
    return _enough_reached(told, (~np.isnan(theirs.share[~own])).sum(axis=0))


def _enough_reached(told: Beside, others: Integers) -> Beside:
    """Without those rows that few others reached: their share would be somebody's."""
    few = (others > 0) & (others < FEWEST)
    blank = {
        name: np.where(few, np.nan, getattr(told, name))
        for name in ("rest", "span", "low", "high", "p")
    }
    return replace(told, **blank)
