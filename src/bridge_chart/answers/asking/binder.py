"""Binding: everything that a question names is found, once, for each of its quantities."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache

from bridge_chart.answers.against.kinds import bind_yardstick
from bridge_chart.answers.against.prior import declared_priors
from bridge_chart.answers.asking.wider import Outlook, group_elsewhere, wider_of
from bridge_chart.answers.bound.filter import Filter, holds
from bridge_chart.answers.bound.names import Places, one_of
from bridge_chart.answers.bound.quantity import Quantity, plain
from bridge_chart.answers.bound.view import Wider
from bridge_chart.answers.bound.yardstick import Elsewhere, Yardstick
from bridge_chart.answers.what.measures import Measures
from bridge_chart.answers.who.conditions import as_of_day, bind_condition, on_roll
from bridge_chart.store.sets import StudentSet
from bridge_chart.store.snapshot import MeasureKey, Roll, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.calendar import school_year_of, year_bounds
from bridge_chart.terms.errors import Ambiguous, InvalidQuestion, NotFound
from bridge_chart.terms.wording import day


@dataclass(frozen=True)
class Sets:
    """Saved groups. `named`: those that the asker may name; `reached`: those, and whatever the
    rules of these name, so that a shared group means the same to everybody."""

    named: Mapping[int, StudentSet]
    reached: Mapping[int, StudentSet]


NO_SETS = Sets({}, {})


class Binder:
    """Finds what the parts of a question mean; implements `bound.binding.Binding`."""

    def __init__(
        self,
        snapshot: Snapshot,
        sets: Sets = NO_SETS,
        outlook: Outlook | None = None,
        as_of: q.AsOf = "sitting",
        own: Quantity | None = None,
        *,
        forgiving: bool = False,
    ) -> None:
        self.snapshot = snapshot
        self.as_of = as_of
        self._forgiving = forgiving
        self.places = Places(snapshot)
        self.measures = Measures(snapshot, self)
        self._sets = sets
        self._outlook = outlook
        self._own = own
        self._against: Yardstick | None = None

    @property
    def own(self) -> Quantity:
        assert self._own is not None, "dates are those of a quantity, and none is bound yet"
        return self._own

    def about(self, own: Quantity) -> Binder:
        return Binder(self.snapshot, self._sets, self._outlook, "sitting", own)

    def of(self, snapshot: Snapshot) -> Binder:
        """For another snapshot, to which nothing is published."""
        return Binder(snapshot, self._sets)

    def for_view(self, own: Quantity, as_of: q.AsOf, against: q.Yardstick | None) -> Binder:
        """For one of the question's quantities."""
        made = Binder(self.snapshot, self._sets, self._outlook, as_of, own)
        made._against = made.yardstick(against, own)
        return made

    @property
    def against(self) -> Yardstick | None:
        """The yardstick of the quantity that is bound for."""
        return self._against

    def inside(self, found: StudentSet) -> Binder:
        del found
        sets = Sets(self._sets.reached, self._sets.reached)
        scoped = not self.snapshot.scope.whole
        return Binder(
            self.snapshot, sets, self._outlook, self.as_of, self._own, forgiving=scoped
        )  # fmt: skip

    def quantity(self, m: q.What, *, steps: bool = False) -> Quantity:
        return self.measures.quantity(m, steps=steps)

    def of_key(self, key: MeasureKey) -> Quantity:
        return plain(key)

    def yardstick(self, asked: q.Yardstick | None, own: Quantity) -> Yardstick | None:
        return None if asked is None else bind_yardstick(asked, own, self)

    def condition(self, c: q.Condition) -> Filter:
        return bind_condition(c, self)

    def members(self, who: q.Who) -> tuple[q.Who, Filter]:
        """Of those whom the asker may see, for nobody else is in the snapshot."""
        dated = [as_of_day(c, who.as_of) for c in who.all_]
        parts = [self.condition(c) for c in (on_roll(who.as_of), *dated)]
        place = any(part.place for part in parts[1:])
        asked = q.AllOf(all_=tuple(part.asked for part in parts))
        text = " and ".join(part.text for part in parts[1:]) or "all students"
        bound = who.model_copy(update={"all_": tuple(part.asked for part in parts[1:])})
        return bound, Filter(asked, text, lambda: holds(parts, self.snapshot.students), place)

    def elsewhere(self, group: q.AgainstGroup, own: Quantity, members: Filter) -> Elsewhere | None:
        if self._outlook is None:
            return None
        return group_elsewhere(self._outlook, group, own, members, self.snapshot.student_ids)

    def wider(
        self, question: q.Question, own: Quantity
    ) -> Callable[[tuple[int, ...]], Wider] | None:
        """What is published of the district for a question; None where the whole is seen."""
        outlook = self._outlook
        if outlook is None:
            return None
        against = None if self._against is None else self._against.asked
        who = question.who.model_copy(
            update={"all_": tuple(self.condition(c).asked for c in question.who.all_)}
        )
        asked = question.model_copy(update={"who": who, "against": against, "plan": None})
        return cache(lambda levels: wider_of(outlook, asked, own, levels))

    def known_of(
        self, values: Sequence[q.Ref | None], find: Callable[[q.Ref], q.Ref]
    ) -> list[q.Ref | None]:
        found: list[q.Ref | None] = []
        for value in values:
            try:
                found.append(None if value is None else find(value))
            except NotFound:
                if not self._forgiving:
                    raise
        return found

    def found_set(self, ref: q.Ref) -> StudentSet:
        known = [(one.id, one.name) for one in self._sets.named.values()]
        return self._sets.named[one_of("group", ref, known)]

    def own_day(self, as_of: q.AsOf | None) -> q.AsOf | None:
        return None if as_of == self.as_of else as_of

    def date(self, as_of: q.AsOf | None) -> dt.date:
        as_of = as_of if as_of is not None else self.as_of
        if as_of == "sitting":
            return self.own.key.date
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
            try:
                return year_bounds(as_of.year)[1]
            except ValueError as error:
                raise InvalidQuestion(f"“{as_of.year}” is no school year.") from error
        assert isinstance(as_of, q.AsOfSitting)
        return _sitting_date(self.snapshot, as_of.sitting)

    def roll(self, as_of: q.AsOf | None) -> Roll:
        date = self.date(as_of)
        roll = self.snapshot.roll_at(date)
        if roll is None:
            raise NotFound(
                f"No roster of {school_year_of(date)} is kept, so nobody is on roll then.",
                next_step="Ask “as of today”, or bring in that year's roster.",
            )
        return roll

    def start(self) -> Quantity:
        held = self._against
        if held is not None and held.priors:
            return held.priors[0]
        return declared_priors(self, self.own)[0]


def _sitting_date(snapshot: Snapshot, ref: q.Ref) -> dt.date:
    """The day of a sitting, by id or name."""
    held = {m.sitting.id: m for m in snapshot.measures if ref in (m.sitting.id, m.sitting.name)}
    if not held:
        raise NotFound(f"There is no sitting “{ref}”.")
    if len({m.date for m in held.values()}) > 1:
        raise Ambiguous(
            f"Several sittings are called “{ref}”, on different days.",
            candidates=[
                {"id": i, "name": f"{m.label}, {day(m.date)}"} for i, m in sorted(held.items())
            ][:20],
        )
    return next(iter(held.values())).date
