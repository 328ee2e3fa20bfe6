"""What one question looks at: the snapshot, one quantity, its roll, and who may see it.

A question with several measures is several views, one for each. Everything that later steps need
of the snapshot goes through a View, so that a mask and its sentence come from one place.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from bridge_chart.answers.kept import kept_for
from bridge_chart.answers.normalise import Names
from bridge_chart.answers.quantities import Quantity, tested_year_level
from bridge_chart.answers.yardstick import figures_of_students
from bridge_chart.core.arrays import Floats, Mask, among
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.sets import StudentSet
from bridge_chart.store.snapshot import Array, MeasureKey, Roll, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.calendar import school_year_of, year_bounds
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.people import Scope

SHARE_THAT_SAT = 0.05
"""A year level sat a test if this share of it has a row; a stray row does not enter all of it."""


@dataclass(frozen=True)
class Filter:
    """A condition's mask over all students, and its words."""

    mask: Mask
    text: str


@dataclass(frozen=True)
class View:
    """One quantity of a normalised question on one snapshot."""

    snapshot: Snapshot
    scope: Scope
    question: q.Question
    quantity: Quantity
    sets: Mapping[int, StudentSet] = field(default_factory=dict)
    filters: dict[int, Filter] = field(default_factory=dict)
    """The question's conditions as worked out so far, by identity."""

    @property
    def measure(self) -> MeasureKey:
        """The kept measure behind the quantity."""
        return self.quantity.key

    @cached_property
    def against(self) -> q.Yardstick | None:
        """The yardstick as it is for this quantity."""
        return Names(self.snapshot, self.sets).yardstick(self.question.against, self.quantity)

    def date_of(self, as_of: q.AsOf) -> dt.date:
        """The date that an as-of means for this question's measure."""
        if as_of == "sitting":
            return self.measure.date
        if as_of == "today":
            if self.snapshot.today is None:
                raise NotFound("There is no roster yet.", next_step="Bring one in first.")
            return self.snapshot.today
        if isinstance(as_of, q.AsOfDate):
            try:
                return dt.date.fromisoformat(as_of.date)
            except ValueError as error:
                raise InvalidQuestion(f"“{as_of.date}” is no date.") from error
        if isinstance(as_of, q.AsOfYear):
            return year_bounds(as_of.year)[1]
        assert isinstance(as_of, q.AsOfSitting)
        for measure in self.snapshot.measures:
            if as_of.sitting in (measure.sitting.id, measure.sitting.name):
                return measure.date
        raise NotFound(f"There is no sitting “{as_of.sitting}”.")

    def roll_as_of(self, as_of: q.AsOf | None) -> Roll:
        """The roll as of a date (None: the question's own)."""
        date = self.date_of(as_of if as_of is not None else self.question.who.as_of)
        roll = self.snapshot.roll_at(date)
        if roll is None:
            raise NotFound(
                f"No roster of {school_year_of(date)} is kept, so nobody is on roll then.",
                next_step="Ask “as of today”, or bring in that year's roster.",
            )
        return roll

    @cached_property
    def roll(self) -> Roll:
        return self.roll_as_of(None)

    @property
    def as_of_text(self) -> str:
        """The question's as-of in words."""
        as_of = self.question.who.as_of
        date = self.date_of(as_of)
        return {"sitting": "as of the sitting", "today": f"as of today ({date})"}.get(
            str(as_of), f"as of {date}"
        )

    @cached_property
    def sitting_roll(self) -> Roll | None:
        """Who was where when the measure was taken."""
        return self.snapshot.roll_at(self.measure.date)

    @cached_property
    def values(self) -> Floats:
        return figures_of_students(self.snapshot, self.quantity)

    @cached_property
    def in_scope(self) -> Mask:
        """Students whom the asker may see: in a school of theirs at the question's own date, and
        at the sitting or today; an old date opens nobody's later results."""
        if self.scope.schools is None:
            return np.ones(self.snapshot.students, bool)
        rolls = [self.sitting_roll]
        if self.snapshot.today is not None:
            rolls.append(self.snapshot.roll_at(self.snapshot.today))
        near = np.zeros(self.snapshot.students, bool)
        for roll in rolls:
            if roll is not None:
                near |= among(roll.school, self.own_schools)
        return near & among(self.roll.school, self.own_schools)

    @cached_property
    def own_schools(self) -> list[int]:
        """Positions of the schools in scope."""
        granted = self.scope.schools
        return [
            at
            for at, school in enumerate(self.snapshot.schools)
            if granted is None or school.id in granted
        ]

    @cached_property
    def tested_year_level(self) -> Array:
        """Year level at the sitting: as the file said, else as the roll said, −1 = unknown."""
        return tested_year_level(self.snapshot, self.measure)

    @cached_property
    def meant(self) -> Mask:
        """Who was meant to have it: the year levels that sat it, and the form where one is asked
        for; students who were not on roll then are kept, and counted as such."""
        meant: Mask = kept_for(self.snapshot, f"meant {self.measure.key}", self._meant)
        if self.quantity.form is None:
            return meant
        return np.asarray(meant & (self.snapshot.form(self.measure) == self.quantity.form))

    def _meant(self) -> Mask:
        roll = self.sitting_roll
        if roll is None:
            return np.ones(self.snapshot.students, bool)
        status = np.asarray(self.snapshot.status(self.measure))
        claimed = [
            ~np.isnan(self.snapshot.values(m))
            for m in self.snapshot.measures
            if m.sitting == self.measure.sitting and m.role != "result"
        ]
        if claimed:
            # Whoever has a target or a prediction was meant to sit; others did not take it.
            entered = np.logical_or.reduce(claimed)
            return np.asarray(entered | (status != STATUSES.index("no_row")))
        has = (status != STATUSES.index("no_row")) | ~np.isnan(self.snapshot.values(self.measure))
        levels = np.asarray(roll.year_level).astype(np.intp) + 1
        everyone = np.bincount(levels[roll.school >= 0], minlength=130)
        rows = np.bincount(levels[has], minlength=130)
        sat = rows >= np.maximum(1, SHARE_THAT_SAT * everyone)
        return np.asarray(sat[levels] | has | (roll.school < 0))

    def school_name(self, position: int) -> str:
        return self.snapshot.schools[position].name
