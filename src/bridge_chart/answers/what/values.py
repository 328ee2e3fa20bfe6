"""Figures per student: of what is kept, of parts, points and halves, and of what is worked out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.published.fits import fitted
from bridge_chart.answers.what.cut_scores import halves_of
from bridge_chart.answers.what.parts import part_values
from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.store.codes import IN_FIGURES, STEPPED
from bridge_chart.store.snapshot import MeasureKey, Snapshot

IN_STEPS = ("level", "grade")


def figures_of_students(snapshot: Snapshot, quantity: Quantity) -> Floats:
    """(students,) float64, NaN where there is none; a step's place from 1 for levels and grades."""
    if as_kept(quantity):
        return snapshot.values(quantity.key)
    name, worked = ("figures", quantity.id), quantity.worked
    if worked is not None:
        return kept_for(snapshot, name, lambda: worked.figures(snapshot))
    if snapshot.edits is not None:
        if snapshot.edits.measure != quantity.key.key:
            return figures_of_students(snapshot.untried, quantity)
        return kept_for(snapshot, name, lambda: _made(snapshot, quantity))
    # Where half a level ends, and what a question is worth, may hang on others' results.
    return fitted(
        snapshot, name, lambda whole: _made(whole, quantity),
        lambda values, own: own.take(values, quantity.key, np.nan),
    )  # fmt: skip


def as_kept(quantity: Quantity) -> bool:
    """Whether the figures are those of a kept measure, untouched."""
    own = quantity.id
    touched = own.working or own.part or own.form or own.grain == "half"
    return not touched and own.score == quantity.key.score


def _made(snapshot: Snapshot, quantity: Quantity) -> Floats:
    key = quantity.key
    if quantity.part is not None:
        values = part_values(snapshot, key, quantity.part, quantity.score)
    elif quantity.score == "points" and key.score in STEPPED:
        points = np.array([np.nan, *(np.nan if p is None else p for p in key.points)])
        values = points[np.nan_to_num(snapshot.values(key), nan=0.0).astype(np.intp)]
    elif quantity.id.grain == "half":
        values = _halves(snapshot, key)
    else:
        values = np.array(snapshot.values(key))
    if quantity.form is not None:
        values = np.where(snapshot.form(key) == quantity.form, values, np.nan)
    return values


def _halves(snapshot: Snapshot, key: MeasureKey) -> Floats:
    """Half-levels from the score in figures; NaN where a student has none."""
    scores = sibling(snapshot, key, IN_FIGURES)
    if scores is None:
        return np.full(snapshot.students, np.nan)
    levels = tested_year_level(snapshot, key)
    return halves_of(snapshot, key, np.asarray(snapshot.values(scores)), levels)


def sibling(snapshot: Snapshot, key: MeasureKey, scores: tuple[str, ...]) -> MeasureKey | None:
    """The same sitting's results in the first of some kinds of score that it has."""
    mine = {
        m.score: m for m in snapshot.measures
        if m.sitting == key.sitting and m.role == "result"
    }  # fmt: skip
    return next((mine[s] for s in scores if s in mine), None)


SOME_STUDENTS = 20_000
SAME_STUDENTS = 0.1
"""Of those with a result, how many must have an earlier one too for it to be theirs."""


def of_same_students(snapshot: Snapshot, earlier: MeasureKey, later: MeasureKey) -> bool:
    """Whether an earlier sitting is of the same students, and not of the cohort before them; of the
    whole district, whoever asks."""
    # All pairs at once: hundreds of small ones would drive out what took long.
    found = fitted(snapshot, ("same students",), _same_students, lambda made, _: made)
    pair = found.at.get(earlier.key), found.at.get(later.key)
    return None not in pair and bool(found.same[pair])


@dataclass(frozen=True)
class SameStudents:
    """at: a measure's place by its key; same: (earlier, later) whether they are of the same."""

    at: dict[str, int]
    same: Mask


def _same_students(whole: Snapshot) -> SameStudents:
    keys = [*whole.measures, *whole.credit_years]
    both = np.zeros((len(keys), len(keys)))
    for first in range(0, whole.students, SOME_STUDENTS):
        part = slice(first, first + SOME_STUDENTS)
        has = np.array([~np.isnan(whole.values(m)[part]) for m in keys], np.float32)
        both += has @ has.T
    same = (both > 0) & (both >= SAME_STUDENTS * np.diagonal(both)[None, :])
    return SameStudents({m.key: at for at, m in enumerate(keys)}, same)


def tested_year_level(snapshot: Snapshot, key: MeasureKey) -> Floats:
    """Year level at the sitting: as the file said, else as the roll said, −1 = unknown."""
    said = np.asarray(snapshot.tested_year_level(key))
    roll = snapshot.roll_at(key.date)
    return said if roll is None else np.where(said >= 0, said, roll.year_level)


def on_its_form(snapshot: Snapshot, quantity: Quantity) -> Mask:
    """Who was meant to have it: everyone, or those who sat the form that is asked for."""
    if quantity.form is None:
        return np.ones(snapshot.students, bool)
    return np.asarray(snapshot.form(quantity.key) == quantity.form)
