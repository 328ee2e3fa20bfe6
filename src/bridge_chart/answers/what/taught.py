"""In which class each student is taught what a measure is about, and with whom they compare."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.core.arrays import Codes, Integers
from bridge_chart.store.snapshot import MeasureKey, Roll, Snapshot

YEAR_LEVELS = 130
NOT_ITS = 2
"""A class of other subjects is not where this one is taught."""


@dataclass(frozen=True)
class Taught:
    """classes: (students,) where each was taught at the sitting, −1 = not known; strata: school
    and year level then, −1 = in none. school_of_class: (classes,) the place of its school."""

    classes: Codes
    strata: Codes
    school_of_class: Integers


def taught(snapshot: Snapshot, measure: MeasureKey) -> Taught:
    """The class of the measure's own subject where the roster says so, else a class of which no
    subject is said; of several the first."""
    roll = snapshot.roll_at(measure.date)
    if roll is None:
        nobody = np.full(snapshot.students, -1, np.int64)
        return Taught(nobody, nobody, np.zeros(0, np.int64))
    name = ("taught", roll.key, measure.about)
    return kept_for(snapshot, name, lambda: _taught(snapshot, roll, measure.about))


def _taught(snapshot: Snapshot, roll: Roll, subject: str) -> Taught:
    rank = np.array(
        [0 if subject in c.courses else NOT_ITS if c.courses else 1 for c in snapshot.classes],
        np.int64,
    )
    pairs = np.asarray(roll.members)
    pairs = pairs[rank[pairs[:, 1]] < NOT_ITS] if len(pairs) else pairs.reshape(0, 2)
    order = np.lexsort((pairs[:, 1], rank[pairs[:, 1]], pairs[:, 0]))
    student, first = np.unique(pairs[order, 0], return_index=True)
    classes = np.full(snapshot.students, -1, np.int64)
    classes[student] = pairs[order[first], 1]
    place = {school.id: n for n, school in enumerate(snapshot.schools)}
    school_of_class = [place.get(c.school_id, len(place)) for c in snapshot.classes]
    school = np.asarray(roll.school).astype(np.int64)
    level = np.asarray(roll.year_level).astype(np.int64)
    strata = np.where(school >= 0, school * YEAR_LEVELS + level + 1, -1)
    return Taught(classes, strata, np.array(school_of_class, np.int64))
