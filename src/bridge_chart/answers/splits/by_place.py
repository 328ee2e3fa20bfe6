"""Splits by where students are: school, year level, class, teacher, course."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.names import courses_of, not_yet
from bridge_chart.answers.bound.split import UNKNOWN, Conditions, Group, Grouping, Split, present
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import Array, Roll, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.words import spoken

OUTSIDE = {
    None: "No school",
    "school": "Another school or none",
    "teacher": "Another class or none",
}
"""What the group of those is called who are in no school that the asker sees."""
LABELS = {
    "school": "school",
    "class": "class",
    "teacher": "teacher",
    "course": "course",
}


def by_field(d: q.ByField, binding: Binding) -> Split:
    """A row for each value of a field."""
    if d.field == "student":
        raise not_yet("a row for each student as a split")
    if d.of is not None and d.field != "class":
        raise InvalidQuestion("“of” is said of classes only: the classes of the subject.")
    d = d.model_copy(update={"as_of": binding.own_day(d.as_of)})
    roll, snapshot = binding.roll(d.as_of), binding.snapshot
    if d.field == "school":
        return BySchool(d, snapshot, roll)
    if d.field == "year_level":
        return ByYearLevel(d, roll)
    about = binding.own.key.about if d.of is not None else None
    return ThroughClasses(d, snapshot, roll, about)


def _narrow(d: q.ByField, value: q.Ref | None) -> Conditions:
    asked: dict[str, object] = {"field": d.field, "in": [value], "as_of": d.as_of}
    if value is None:
        asked["of"] = d.of
    return (q.FieldIs.model_validate(asked),)


@dataclass(frozen=True, eq=False)
class BySchool(Split):
    asked: q.ByField
    snapshot: Snapshot
    roll: Roll
    label = LABELS["school"]

    def group(self, people: Mask) -> Grouping:
        at, d, schools = np.flatnonzero(people), self.asked, self.snapshot.schools

        def make(n: int) -> Group:
            school = schools[n]
            return Group(("school", school.id), school.name, lambda: _narrow(d, school.id))

        code = np.asarray(self.roll.school)[at]
        none = OUTSIDE[self.snapshot.scope.field]
        last = Group(UNKNOWN, none, lambda: _narrow(d, None))
        return present(self.label, make, len(schools), last, at, code, within_school=True)


@dataclass(frozen=True, eq=False)
class ByYearLevel(Split):
    asked: q.ByField
    roll: Roll

    @property
    def label(self) -> str:  # type: ignore[override]
        return spoken().year_level

    def group(self, people: Mask) -> Grouping:
        at, d = np.flatnonzero(people), self.asked

        def make(n: int) -> Group:
            return Group(("year", n), spoken().level_name(n), lambda: _narrow(d, n))

        last = Group(UNKNOWN, f"No {spoken().year_level}", lambda: _narrow(d, None))
        return present(self.label, make, 128, last, at, np.asarray(self.roll.year_level)[at])


@dataclass(frozen=True, eq=False)
class ThroughClasses(Split):
    """Classes (all, or those of a subject), or through them teachers and courses; a student may
    be in several. `about`: the subject."""

    asked: q.ByField
    snapshot: Snapshot
    roll: Roll
    about: str | None

    @property
    def label(self) -> str:  # type: ignore[override]
        return LABELS[self.asked.field]

    def group(self, people: Mask) -> Grouping:
        d, snapshot = self.asked, self.snapshot
        pairs = np.asarray(self._pairs())[people[self._pairs()[:, 0]]]
        at, code = pairs[:, 0], pairs[:, 1]
        courses = courses_of(snapshot)
        size = {
            "class": len(snapshot.classes), "teacher": len(snapshot.staff), "course": len(courses)
        }[d.field]  # fmt: skip
        shown = np.flatnonzero(np.bincount(code, minlength=size)).tolist()
        make = {
            "class": self._class(shown),
            "teacher": self._named("teacher", snapshot.staff),
            "course": self._named("course", courses),
        }[d.field]
        without = people.copy()
        without[at] = False
        alone = np.flatnonzero(without)
        at = np.concatenate([at, alone])
        code = np.concatenate([code, np.full(len(alone), -1)])
        overlaps = len(at) > 0 and int(np.bincount(at).max()) > 1
        last = Group(UNKNOWN, f"No {d.field}", lambda: _narrow(d, None))
        return present(
            self.label, make, size, last, at, code,
            within_school=d.field == "class", overlaps=overlaps,
        )  # fmt: skip

    def _pairs(self) -> Array:
        snapshot, roll, field = self.snapshot, self.roll, self.asked.field
        if field != "class":
            key = ("through classes", field, roll.key)
            pairs: Array = kept_for(snapshot, key, lambda: _through(snapshot, roll, field))
            return pairs
        if self.about is None:
            return np.asarray(roll.members)
        held = np.array([self.about in item.courses for item in snapshot.classes], bool)
        members = np.asarray(roll.members)
        return np.asarray(members[held[members[:, 1]]])

    def _class(self, shown: list[int]) -> Callable[[int], Group]:
        d, classes = self.asked, self.snapshot.classes
        places = {s.id: s.name for s in self.snapshot.schools}
        several = len({classes[n].school_id for n in shown}) > 1 if d.field == "class" else False

        def make(n: int) -> Group:
            item = classes[n]
            # The school's name helps only where there are several.
            label = f"{item.name} · {places.get(item.school_id, '')}" if several else item.name
            return Group(("class", item.id), label, lambda: _narrow(d, item.id))

        return make

    def _named(self, kind: str, names: list[str]) -> Callable[[int], Group]:
        d = self.asked
        return lambda n: Group((kind, n), names[n], lambda: _narrow(d, names[n]))


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
