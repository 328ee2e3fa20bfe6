"""What binding a part of a question may ask for: names, measures, other parts, rolls."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from typing import Protocol

from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.names import Places
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Elsewhere, Yardstick
from bridge_chart.store.sets import StudentSet
from bridge_chart.store.snapshot import MeasureKey, Roll, Snapshot
from bridge_chart.terms import question as q


class Binding(Protocol):
    """Finds what the parts of one question mean. Each kind of condition, yardstick, split and
    worked-out measure binds itself with it, and nothing looks up a name afterwards."""

    snapshot: Snapshot
    places: Places
    as_of: q.AsOf
    """The question's own date."""

    @property
    def own(self) -> Quantity:
        """The quantity that the question is bound for; its dates are those of its sitting."""

    def quantity(self, m: q.What, *, steps: bool = False) -> Quantity:
        """The one quantity that a measure means; `steps`: in levels or grades, not in figures."""

    def of_key(self, key: MeasureKey) -> Quantity:
        """A kept measure as a quantity."""

    def yardstick(self, asked: q.Yardstick | None, own: Quantity) -> Yardstick | None:
        """A yardstick for a quantity."""

    def condition(self, c: q.Condition) -> Filter:
        """A condition with ids, and whom it holds for."""

    def members(self, who: q.Who) -> tuple[q.Who, Filter]:
        """Another population than the question's own: with ids, and who is in it."""

    def elsewhere(self, group: q.AgainstGroup, own: Quantity, members: Filter) -> Elsewhere | None:
        """The members of a group whom the asker does not see; None where there are none, or where
        it is of a place of theirs. NotPublished where their figures are not."""

    def known_of(
        self, values: Sequence[q.Ref | None], find: Callable[[q.Ref], q.Ref]
    ) -> list[q.Ref | None]:
        """What names mean. Inside the rule of a saved group what the asker cannot see is nobody,
        not an error."""

    def found_set(self, ref: q.Ref) -> StudentSet:
        """A saved group that may be named here."""

    def about(self, own: Quantity) -> Binding:
        """For what is asked of a quantity as of its own sitting."""

    def inside(self, found: StudentSet) -> Binding:
        """For the rule of a saved group: it may name what its maker could."""

    def own_day(self, as_of: q.AsOf | None) -> q.AsOf | None:
        """An as-of as it is kept: none where it is the question's own."""

    def date(self, as_of: q.AsOf | None) -> dt.date:
        """The date that an as-of means; None: the question's own."""

    def roll(self, as_of: q.AsOf | None) -> Roll:
        """Who was where then."""

    def start(self) -> Quantity:
        """The measure that students started with: the yardstick's first prior, else the one that
        the test declares."""
