"""Splits: which rows there are, who is in each, and the condition that opens its students."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.view import View
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import Array, Roll
from bridge_chart.terms import question as q

FIELD_LABELS = {
    "school": "school",
    "class": "class",
    "teacher": "teacher",
    "year_level": "year level",
}


@dataclass(frozen=True)
class Group:
    key: str
    label: str
    narrow: list[q.Condition]


@dataclass(frozen=True)
class Grouping:
    """`at`: positions of students (one may stand in several groups), `code`: the group of each.

    `within_school`: every group lies in one school by definition; `overlaps`: some student stands
    in two groups, so the rows may not be summed.
    """

    label: str
    groups: list[Group]
    at: Array
    code: Array
    within_school: bool
    overlaps: bool


def group(view: View, dimension: q.Dimension | None, people: Mask) -> Grouping:
    """The grouping of a population by a (normalised) dimension; None: one row for all."""
    at = np.flatnonzero(people)
    if dimension is None:
        everyone = [Group("all", "All of them", [])]
        return Grouping("nothing", everyone, at, np.zeros(len(at), np.int16), False, False)
    if isinstance(dimension, q.ByCharacteristic):
        return _by_characteristic(view, dimension, at)
    assert isinstance(dimension, q.ByField)
    roll = view.roll_as_of(dimension.as_of)
    if dimension.field == "school":
        return _by_school(view, dimension, roll, at)
    if dimension.field == "year_level":
        return _by_year_level(dimension, roll, at)
    return _by_class(view, dimension, roll, people)


def _field(d: q.ByField, value: q.Ref | None) -> list[q.Condition]:
    return [q.FieldIs(field=d.field, in_=[value], as_of=d.as_of)]


def _by_school(view: View, d: q.ByField, roll: Roll, at: Array) -> Grouping:
    groups = [
        Group(f"school-{school.id}", school.name, _field(d, school.id))
        for school in view.snapshot.schools
    ]
    code = np.asarray(roll.school)[at]
    unknown, narrow = "No school", _field(d, None)
    if not view.scope.whole:
        # A student who was elsewhere then must not name another school.
        code = np.where(np.isin(code, view.own_schools), code, -1)
        own: list[q.Ref | None] = [view.snapshot.schools[n].id for n in view.own_schools]
        unknown = "Another school or none"
        narrow = [q.Not(not_=q.FieldIs(field="school", in_=own, as_of=d.as_of))]
    return _with_unknown("school", groups, at, code, unknown, narrow, within_school=True)


def _by_year_level(d: q.ByField, roll: Roll, at: Array) -> Grouping:
    levels = np.asarray(roll.year_level)[at]
    present = np.unique(levels[levels >= 0])
    groups = [Group(f"year-{v}", f"Year {v}", _field(d, int(v))) for v in present]
    code = np.where(levels >= 0, np.searchsorted(present, levels), -1)
    return _with_unknown("year level", groups, at, code, "No year level", _field(d, None))


def _by_characteristic(view: View, d: q.ByCharacteristic, at: Array) -> Grouping:
    item = next(c for c in view.snapshot.characteristics if c.id == d.characteristic)

    def narrow(value: int | None) -> list[q.Condition]:
        return [q.CharacteristicIs(characteristic=item.id, in_=[value], as_of=d.as_of)]

    groups = [Group(f"option-{o.id}", o.name, narrow(o.id)) for o in item.options]
    codes = view.roll_as_of(d.as_of).characteristic(item.id, view.snapshot.students)
    code = np.asarray(codes)[at]
    return _with_unknown(item.name, groups, at, code, "Not known", narrow(None))


def _by_class(view: View, d: q.ByField, roll: Roll, people: Mask) -> Grouping:
    """Classes, or teachers through their classes; a student may be in several."""
    pairs = np.asarray(roll.members)[people[roll.members[:, 0]]]
    classes = view.snapshot.classes
    if d.field == "class":
        places = {s.id: s.name for s in view.snapshot.schools}
        groups = [
            Group(f"class-{c.id}", f"{c.name} · {places.get(c.school_id, '')}", _field(d, c.id))
            for c in classes
        ]
        at, code = pairs[:, 0], pairs[:, 1]
    else:
        groups = [
            Group(f"teacher-{n}", name, _field(d, name))
            for n, name in enumerate(view.snapshot.staff)
        ]
        taught = [(class_at, person) for class_at, c in enumerate(classes) for person in c.teachers]
        links = np.array(taught, np.int64).reshape(-1, 2)
        at, code = _through(pairs, links)
    without = people.copy()
    without[at] = False
    alone = np.flatnonzero(without)
    at = np.concatenate([at, alone])
    code = np.concatenate([code, np.full(len(alone), -1)])
    overlaps = len(np.unique(at)) < len(at)
    return _with_unknown(
        FIELD_LABELS[d.field], groups, at, code, f"No {d.field}", _field(d, None),
        within_school=d.field == "class", overlaps=overlaps,
    )  # fmt: skip


def _through(pairs: Array, links: Array) -> tuple[Array, Array]:
    """Student–teacher pairs from student–class pairs and class–teacher links, each once."""
    if not len(links) or not len(pairs):
        return np.empty(0, np.int64), np.empty(0, np.int64)
    links = links[np.argsort(links[:, 0], kind="stable")]
    first = np.searchsorted(links[:, 0], pairs[:, 1], side="left")
    count = np.searchsorted(links[:, 0], pairs[:, 1], side="right") - first
    student = np.repeat(pairs[:, 0], count)
    offset = np.arange(len(student)) - np.repeat(np.cumsum(count) - count, count)
    person = links[np.repeat(first, count) + offset, 1]
    both = np.unique(np.column_stack([student, person]), axis=0)
    return both[:, 0], both[:, 1]


def _with_unknown(
    label: str,
    groups: list[Group],
    at: Array,
    code: Array,
    unknown: str,
    narrow: list[q.Condition],
    *,
    within_school: bool = False,
    overlaps: bool = False,
) -> Grouping:
    """Only groups that have somebody; those in none make a row of their own, so rows add up."""
    code = np.where(code < 0, len(groups), code)
    every = [*groups, Group("unknown", unknown, narrow)]
    present, compact = np.unique(code, return_inverse=True)
    kept = [every[int(n)] for n in present]
    return Grouping(label, kept, at, compact.astype(np.int16), within_school, overlaps)
