"""A bound question: for each of its quantities everything that an answer is worked out of.

Nothing here is a name: who asks, the roll, the conditions, the yardstick and the split are found.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from bridge_chart.answers.bound.column import ListColumn
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.split import Split
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.answers.published.fits import fitted
from bridge_chart.core.arrays import Mask
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import MeasureKey, Roll, Snapshot
from bridge_chart.terms import question as q

SHARE_THAT_SAT = 0.05
"""A year level sat a test if this share of it has a row; a stray row does not enter all of it."""


@dataclass(frozen=True, eq=False)
class View:
    """One quantity of a bound question on one snapshot.

    at: its place among the answer's measures. stands: the same as marks say it. as_of, roll: the
    question's date and who was where then; as_of_text: the date in words. start: the measure that
    students started with. split_by: a split that nobody asked for, by ids; measured: a measure that
    nobody asked for, in words or levels where it has any. columns: those of a
    list; noted: what the asker may read about a student, by the student's id. wider: what is
    published of the district, for those year levels where a class is asked about; None where the
    snapshot is the whole district; NotPublished where nothing is. elsewhere: the same, of another
    snapshot.
    """

    snapshot: Snapshot
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
    measured: Callable[[q.What], Quantity]
    columns: tuple[ListColumn, ...] = ()
    noted: Mapping[int, str] = field(default_factory=dict)
    wider: Callable[[tuple[int, ...]], Wider] | None = None
    elsewhere: Callable[[Snapshot], View] | None = None

    def on(self, snapshot: Snapshot) -> View:
        """The same question of another snapshot of the same record."""
        if snapshot is self.snapshot or self.elsewhere is None:
            return self
        return self.elsewhere(snapshot)

    @property
    def measure(self) -> MeasureKey:
        """The kept measure behind the quantity."""
        return self.quantity.key

    @cached_property
    def sitting_roll(self) -> Roll | None:
        """Who was where when the measure was taken."""
        return self.snapshot.roll_at(self.measure.date)

    @cached_property
    def meant(self) -> Mask:
        """Who was meant to have it: the year levels that sat it, and the form where one is asked
        for; students who were not on roll then are kept, and counted as such."""
        meant = meant_for(self.snapshot, self.measure)
        if self.quantity.form is None:
            return meant
        return np.asarray(meant & (self.snapshot.form(self.measure) == self.quantity.form))


@dataclass(frozen=True, eq=False)
class Wider:
    """What is published of the district beside a narrower role's rows.

    view: the quantity in the release; mask: its students whose figure is published; day: of the
    release; left_out: year levels that are held back.
    """

    view: View
    mask: Mask
    day: str
    left_out: tuple[int, ...]


@dataclass(frozen=True, eq=False)
class Bound:
    """A question with everything found. `question`: with ids and defaults, as it is kept by;
    `views`: one for each of its quantities."""

    question: q.Question
    views: tuple[View, ...]


def meant_for(snapshot: Snapshot, measure: MeasureKey) -> Mask:
    """(students,) who was meant to have a measure, as the whole district shows."""
    return fitted(
        snapshot, ("meant", measure.key), lambda whole: _meant(whole, measure),
        lambda made, own: own.take(made, measure, nothing=False),
    )  # fmt: skip


def _meant(snapshot: Snapshot, measure: MeasureKey) -> Mask:
    """Who was meant to sit: whoever has a target or prediction, else the year levels that sat."""
    roll = snapshot.roll_at(measure.date)
    if roll is None:
        return np.ones(snapshot.students, bool)
    status = np.asarray(snapshot.status(measure))
    claimed = [
        ~np.isnan(snapshot.values(m))
        for m in snapshot.measures
        if m.sitting == measure.sitting and m.role != "result"
    ]
    if claimed:
        # Whoever has a target or a prediction was meant to sit; others did not take it.
        entered = np.logical_or.reduce(claimed)
        return np.asarray(entered | (status != STATUSES.index("no_row")))
    has = (status != STATUSES.index("no_row")) | ~np.isnan(snapshot.values(measure))
    levels = np.asarray(roll.year_level).astype(np.intp) + 1
    everyone = np.bincount(levels[roll.school >= 0], minlength=130)
    rows = np.bincount(levels[has], minlength=130)
    sat = rows >= np.maximum(1, SHARE_THAT_SAT * everyone)
    return np.asarray(sat[levels] | has | (roll.school < 0))
