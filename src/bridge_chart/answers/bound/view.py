"""A bound question: for each of its quantities everything that an answer is worked out of.

Nothing here is a name: who asks, the roll, the conditions, the yardstick and the split are found.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.split import Split
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.core.arrays import Mask, among
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import MeasureKey, Roll, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.people import Scope

SHARE_THAT_SAT = 0.05
"""A year level sat a test if this share of it has a row; a stray row does not enter all of it."""


@dataclass(frozen=True, eq=False)
class View:
    """One quantity of a bound question on one snapshot.

    at: its place among the answer's measures. stands: the same as marks say it. as_of, roll: the
    question's date and who was where then; as_of_text: the date in words. start: the measure that
    students started with. split_by: a split that nobody asked for, by ids.
    """

    snapshot: Snapshot
    scope: Scope
    question: q.Question
    at: int
    quantity: Quantity
    stands: q.Stands
    yardstick: Yardstick | None
    roll: Roll
    as_of: dt.date
    as_of_text: str
    who: tuple[Filter, ...]
    split: tuple[Split, ...]
    focus: tuple[Filter, ...] | None
    start: Callable[[], Quantity]
    split_by: Callable[[q.Dimension], Split]

    @property
    def measure(self) -> MeasureKey:
        """The kept measure behind the quantity."""
        return self.quantity.key

    @cached_property
    def sitting_roll(self) -> Roll | None:
        """Who was where when the measure was taken."""
        return self.snapshot.roll_at(self.measure.date)

    @cached_property
    def in_scope(self) -> Mask:
        """Students whom the asker may see."""
        return in_scope(self.snapshot, self.scope, self.measure, self.roll)

    @cached_property
    def meant(self) -> Mask:
        """Who was meant to have it: the year levels that sat it, and the form where one is asked
        for; students who were not on roll then are kept, and counted as such."""
        meant: Mask = kept_for(self.snapshot, ("meant", self.measure.key), self._meant)
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


@dataclass(frozen=True, eq=False)
class Bound:
    """A question with everything found. `question`: with ids and defaults, as it is kept by;
    `views`: one for each of its quantities."""

    question: q.Question
    views: tuple[View, ...]


def own_schools(snapshot: Snapshot, scope: Scope) -> list[int]:
    """Positions of the schools in scope."""
    granted = scope.schools
    return [
        at for at, school in enumerate(snapshot.schools) if granted is None or school.id in granted
    ]


def in_scope(snapshot: Snapshot, scope: Scope, measure: MeasureKey, roll: Roll) -> Mask:
    """(students,) whom somebody may see: in a school of theirs at the question's own date (its
    roll), and at the sitting or today; an old date opens nobody's later results."""
    if scope.whole:
        return np.ones(snapshot.students, bool)
    dates = [measure.date] if snapshot.today is None else [measure.date, snapshot.today]
    own = own_schools(snapshot, scope)
    near = np.zeros(snapshot.students, bool)
    for held in (snapshot.roll_at(date) for date in dates):
        if held is not None:
            near |= among(held.school, own)
    return np.asarray(near & among(roll.school, own))
