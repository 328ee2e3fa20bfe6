"""Splits: which rows there are, who is in each, and the condition that opens its students."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import overload

import numpy as np

from bridge_chart.answers.by_measure import BANDS, bands_of, start_of
from bridge_chart.answers.kept import kept_for
from bridge_chart.answers.measures import Wanted
from bridge_chart.answers.names import courses_of
from bridge_chart.answers.normalise import Names
from bridge_chart.answers.population import members
from bridge_chart.answers.view import View
from bridge_chart.answers.yardstick import figures_of_students
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import Array, Roll, Snapshot
from bridge_chart.terms import question as q

FIELD_LABELS = {
    "school": "school",
    "class": "class",
    "teacher": "teacher",
    "course": "course",
    "year_level": "year level",
}


BARE = ("yes", "no", "y", "n", "true", "false", "1", "0")
"""Values that mean nothing without the name of their characteristic."""


@dataclass(frozen=True)
class Group:
    """`path`: the groups of the first and the second split, where there are two. `conditions` are
    made only where a row is shown: of thousands of classes in the strip nobody opens one."""

    key: str
    label: str
    conditions: Callable[[], list[q.Condition]] = list
    path: tuple[Group, ...] = ()

    @property
    def narrow(self) -> list[q.Condition]:
        """What opens the group's students."""
        return self.conditions()


class Groups(Sequence[Group]):
    """Groups made when they are looked at: the strip has thousands of classes and shows sixty."""

    def __init__(
        self, present: Array, size: int, make: Callable[[int], Group], last: Group
    ) -> None:
        self._present, self._size, self._make, self._last = present, size, make, last

    def __len__(self) -> int:
        return len(self._present)

    @overload
    def __getitem__(self, n: int) -> Group: ...
    @overload
    def __getitem__(self, n: slice) -> list[Group]: ...
    def __getitem__(self, n: int | slice) -> Group | list[Group]:
        if isinstance(n, slice):
            return [self[i] for i in range(*n.indices(len(self)))]
        code = int(self._present[n])
        return self._make(code) if code < self._size else self._last

    def known(self) -> Array:
        """(groups,) False for the row of those in none."""
        return np.asarray(self._present < self._size)


@dataclass(frozen=True)
class Grouping:
    """`at`: positions of students (one may stand in several groups), `code`: the group of each.

    `within_school`: every group lies in one school by definition; `overlaps`: some student stands
    in two groups, so the rows may not be summed.
    """

    label: str
    groups: Sequence[Group]
    at: Array
    code: Array
    within_school: bool
    overlaps: bool
    within: str = ""
    """What the second split is called, where there are two."""

    def known(self) -> Array:
        """(groups,) False for the row of those in none."""
        if isinstance(self.groups, Groups):
            return self.groups.known()
        return np.array(["unknown" not in group.key for group in self.groups], bool)


def group(view: View, dimension: q.Dimension | None, people: Mask) -> Grouping:
    """The grouping of a population by a (normalised) dimension; None: one row for all."""
    at = np.flatnonzero(people)
    if dimension is None:
        everyone = [Group("all", "All of them")]
        return Grouping("nothing", everyone, at, np.zeros(len(at), np.int16), False, False)
    if isinstance(dimension, q.ByCharacteristic):
        return _by_characteristic(view, dimension, at)
    if isinstance(dimension, q.ByBand):
        return _by_band(view, dimension, at)
    if isinstance(dimension, q.ByLevel):
        return _by_level(view, dimension, at)
    if isinstance(dimension, q.ByPopulations):
        return _by_populations(view, dimension, people)
    assert isinstance(dimension, q.ByField)
    roll = view.roll_as_of(dimension.as_of)
    if dimension.field == "school":
        return _by_school(view, dimension, roll, at)
    if dimension.field == "year_level":
        return _by_year_level(dimension, roll, at)
    return _by_class(view, dimension, roll, people)


def group_twice(view: View, dimensions: Sequence[q.Dimension], people: Mask) -> Grouping:
    """The grouping by one or two dimensions; two make a row for every pair that has somebody."""
    if len(dimensions) < 2:
        return group(view, dimensions[0] if dimensions else None, people)
    first, second = (group(view, d, people) for d in dimensions)
    # Every membership of a student in the one meets every membership in the other.
    order = np.argsort(second.at, kind="stable")
    other_at, other_code = second.at[order], second.code[order]
    begin = np.searchsorted(other_at, first.at, side="left")
    count = np.searchsorted(other_at, first.at, side="right") - begin
    offset = np.arange(int(count.sum())) - np.repeat(np.cumsum(count) - count, count)
    at = np.repeat(first.at, count)
    wide = len(second.groups)
    other = other_code[np.repeat(begin, count) + offset]
    pair = np.repeat(first.code, count).astype(np.int64) * wide + other
    present, code = np.unique(pair, return_inverse=True)
    groups = []
    for n in present.tolist():
        one, two = first.groups[n // wide], second.groups[n % wide]
        groups.append(
            Group(
                f"{one.key}/{two.key}", f"{one.label}, {two.label}",
                lambda one=one, two=two: [*one.narrow, *two.narrow], (one, two),  # type: ignore[misc]
            )
        )  # fmt: skip
    return Grouping(
        first.label, groups, at, code, first.within_school or second.within_school,
        first.overlaps or second.overlaps, second.label,
    )  # fmt: skip


def _by_band(view: View, d: q.ByBand, at: Array) -> Grouping:
    """Thirds of the district by where they started."""
    prior = start_of(view) if d.band == "prior" else Names(view.snapshot).quantity(d.band)
    code = bands_of(view.snapshot, prior, view.measure)[at]

    def narrow(value: str | None) -> list[q.Condition]:
        return [q.BandIs.model_validate({"band": prior.ask, "in": [value]})]

    def make(n: int) -> Group:
        return Group(f"band-{BANDS[n]}", f"{BANDS[n].capitalize()} start", lambda: narrow(BANDS[n]))

    last = Group("unknown", "Start not known", lambda: narrow(None))
    return _present("starting band", make, len(BANDS), last, at, code)


def _by_level(view: View, d: q.ByLevel, at: Array) -> Grouping:
    own = Names(view.snapshot).quantity(d.level_of, Wanted(steps=True))
    values = np.asarray(figures_of_students(view.snapshot, own))[at]
    code = np.nan_to_num(values, nan=0.0).astype(np.int64) - 1

    def narrow(steps: list[str]) -> q.Condition:
        return q.MeasureIs.model_validate({"measure": own.ask, "level": steps})

    def make(n: int) -> Group:
        return Group(f"level-{n}", own.steps[n], lambda: [narrow([own.steps[n]])])

    last = Group("unknown", "No level", lambda: [q.Not(not_=narrow(list(own.steps)))])
    return _present(f"level in {own.label}", make, len(own.steps), last, at, code)


def _by_populations(view: View, d: q.ByPopulations, people: Mask) -> Grouping:
    """Groups against groups, each within the question's own population; students in none are no
    row, for nobody asked for them."""
    groups, ats, codes = [], [], []
    for n, population in enumerate(d.populations):
        held = np.flatnonzero(people & members(view, population.who))
        all_ = list(population.who.all_)
        groups.append(Group(f"group-{n}", population.label, lambda all_=all_: all_))  # type: ignore[misc]
        ats.append(held)
        codes.append(np.full(len(held), n, np.int32))
    at, code = np.concatenate(ats), np.concatenate(codes)
    overlaps = len(at) > 0 and int(np.bincount(at).max()) > 1
    return Grouping("group", groups, at, code, False, overlaps)


def _field(d: q.ByField, value: q.Ref | None) -> list[q.Condition]:
    return [q.FieldIs(field=d.field, in_=[value], as_of=d.as_of)]


def _by_school(view: View, d: q.ByField, roll: Roll, at: Array) -> Grouping:
    def make(n: int) -> Group:
        school = view.snapshot.schools[n]
        return Group(f"school-{school.id}", school.name, lambda: _field(d, school.id))

    code = np.asarray(roll.school)[at]
    unknown, narrow = "No school", _field(d, None)
    if not view.scope.whole:
        # A student who was elsewhere then must not name another school.
        code = np.where(np.isin(code, view.own_schools), code, -1)
        own: list[q.Ref | None] = [view.snapshot.schools[n].id for n in view.own_schools]
        unknown = "Another school or none"
        narrow = [q.Not(not_=q.FieldIs(field="school", in_=own, as_of=d.as_of))]
    last = Group("unknown", unknown, lambda: narrow)
    size = len(view.snapshot.schools)
    return _present("school", make, size, last, at, code, within_school=True)


def _by_year_level(d: q.ByField, roll: Roll, at: Array) -> Grouping:
    levels = np.asarray(roll.year_level)[at]

    def make(n: int) -> Group:
        return Group(f"year-{n}", f"Year {n}", lambda: _field(d, n))

    last = Group("unknown", "No year level", lambda: _field(d, None))
    return _present("year level", make, 128, last, at, levels)


def _by_characteristic(view: View, d: q.ByCharacteristic, at: Array) -> Grouping:
    item = next(c for c in view.snapshot.characteristics if c.id == d.characteristic)

    def narrow(value: int | None) -> list[q.Condition]:
        return [q.CharacteristicIs(characteristic=item.id, in_=[value], as_of=d.as_of)]

    def make(n: int) -> Group:
        option = item.options[n]
        # “yes” alone says nothing once it stands in a sentence.
        plain = option.name.casefold() not in BARE
        label = option.name if plain else f"{item.name}: {option.name}"
        return Group(f"option-{option.id}", label, lambda: narrow(option.id))

    codes = view.roll_as_of(d.as_of).characteristic(item.id, view.snapshot.students)
    code = np.asarray(codes)[at]
    last = Group("unknown", "Not known", lambda: narrow(None))
    return _present(item.name, make, len(item.options), last, at, code)


def _by_class(view: View, d: q.ByField, roll: Roll, people: Mask) -> Grouping:
    """Classes (all, or those of the measure's subject), or through them teachers and courses; a
    student may be in several."""
    classes = view.snapshot.classes
    places = {s.id: s.name for s in view.snapshot.schools}
    courses = courses_of(view.snapshot)
    pairs = roll.members
    if d.field != "class":
        name = f"{d.field} through classes {roll.key}"
        pairs = kept_for(view.snapshot, name, lambda: _through(view.snapshot, roll, d.field))
    elif d.of is not None:
        subject = view.measure.about
        held = np.array([subject in item.courses for item in classes], bool)
        pairs = pairs[held[pairs[:, 1]]]
    pairs = np.asarray(pairs)[people[pairs[:, 0]]]
    at, code = pairs[:, 0], pairs[:, 1]
    sizes = {"class": len(classes), "teacher": len(view.snapshot.staff), "course": len(courses)}
    size = sizes[d.field]
    shown = np.flatnonzero(np.bincount(code, minlength=size)).tolist()
    several = d.field == "class" and len({classes[n].school_id for n in shown}) > 1

    def make_class(n: int) -> Group:
        item = classes[n]
        # The school's name helps only where there are several.
        label = f"{item.name} · {places.get(item.school_id, '')}" if several else item.name
        return Group(f"class-{item.id}", label, lambda: _field(d, item.id))

    def make_teacher(n: int) -> Group:
        name = view.snapshot.staff[n]
        return Group(f"teacher-{n}", name, lambda: _field(d, name))

    def make_course(n: int) -> Group:
        return Group(f"course-{n}", courses[n], lambda: _field(d, courses[n]))

    make = {"class": make_class, "teacher": make_teacher, "course": make_course}[d.field]
    without = people.copy()
    without[at] = False
    alone = np.flatnonzero(without)
    at = np.concatenate([at, alone])
    code = np.concatenate([code, np.full(len(alone), -1)])
    overlaps = len(at) > 0 and int(np.bincount(at).max()) > 1
    last = Group("unknown", f"No {d.field}", lambda: _field(d, None))
    return _present(
        FIELD_LABELS[d.field], make, size, last, at, code,
        within_school=d.field == "class", overlaps=overlaps,
    )  # fmt: skip


def _through(snapshot: Snapshot, roll: Roll, field: str) -> Array:
    """(pairs, 2): student, teacher or course; through the classes of a roll, each pair once."""
    pairs = np.asarray(roll.members)
    courses = {name: n for n, name in enumerate(courses_of(snapshot))}
    linked = [
        (place, one)
        for place, c in enumerate(snapshot.classes)
        for one in (c.teachers if field == "teacher" else [courses[name] for name in c.courses])
    ]
    links = np.array(linked, np.int64).reshape(-1, 2)
    if not len(links) or not len(pairs):
        return np.empty((0, 2), np.int64)
    links = links[np.argsort(links[:, 0], kind="stable")]
    first = np.searchsorted(links[:, 0], pairs[:, 1], side="left")
    count = np.searchsorted(links[:, 0], pairs[:, 1], side="right") - first
    student = np.repeat(pairs[:, 0], count)
    offset = np.arange(len(student)) - np.repeat(np.cumsum(count) - count, count)
    person = links[np.repeat(first, count) + offset, 1]
    both = np.unique(student.astype(np.int64) * (1 << 31) + person)
    return np.stack([both >> 31, both & ((1 << 31) - 1)], axis=1)


def _present(
    label: str,
    make: Callable[[int], Group],
    size: int,
    last: Group,
    at: Array,
    code: Array,
    *,
    within_school: bool = False,
    overlaps: bool = False,
) -> Grouping:
    """Only groups that have somebody; those in none make a row of their own, so rows add up.

    `make`: the group of a code 0 … size−1; `last`: the row of those in none.
    """
    code = np.where(code < 0, size, code.astype(np.int64))  # small codes cannot hold every size
    present = np.flatnonzero(np.bincount(code, minlength=size + 1))
    place = np.zeros(size + 1, np.int32)
    place[present] = np.arange(len(present))
    kept = Groups(present, size, make, last)
    return Grouping(label, kept, at, place[code], within_school, overlaps)
