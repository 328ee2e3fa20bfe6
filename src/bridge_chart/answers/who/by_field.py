"""Conditions on where students are: school, year level, class, teacher, course, student."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.names import not_yet, tidy_values, whole_number
from bridge_chart.core.arrays import Mask, among
from bridge_chart.store.snapshot import Array, Roll, SchoolClass, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.words import spoken

PLACES = ("school", "class", "teacher", "student")
"""Fields that name a place or a person; the others say what students are like."""


def by_field(c: q.FieldIs, binding: Binding) -> Filter:
    """Students of whom a field is one of some values, or lies in a range."""
    c = _with_ids(c, binding).model_copy(update={"as_of": binding.own_day(c.as_of)})
    snapshot, roll = binding.snapshot, binding.roll(c.as_of)
    wanted = c.in_ or ()
    place = c.field in PLACES
    if c.field == "year_level":
        return Filter(c, _year_level_words(c), lambda: _in_year_levels(c, roll.year_level))
    if c.field == "school":
        ids = [s.id for s in snapshot.schools]
        at = [-1 if v is None else ids.index(int(v)) for v in wanted]
        words = [snapshot.schools[x].name if x >= 0 else "no school" for x in at]
        return Filter(c, " or ".join(words), lambda: among(roll.school, at), place)
    if c.field == "student":
        named = np.isin(snapshot.student_ids, [int(v) for v in wanted if v is not None])
        text = f"{int(named.sum())} chosen student{'s'[: int(named.sum()) != 1]}"
        return Filter(c, text, lambda: named, place)
    held, words = _through_classes(c, snapshot)
    if None in wanted:
        words.append(f"no {c.field}")
    about = binding.own.key.about
    return Filter(c, " or ".join(words), lambda: _in_classes(c, snapshot, roll, held, about), place)


def _seen(values: tuple[q.Ref | None, ...] | None, binding: Binding) -> tuple[q.Ref | None, ...]:
    """Of a fixed list of students, those whom the asker sees: whom another school has is as little
    told as who does not exist. Where nobody is left, the first is looked up, and refused."""
    named = tuple(values or ())
    snapshot = binding.snapshot
    if snapshot.scope.whole:
        return named
    known = np.isin([v if isinstance(v, int) else -1 for v in named], snapshot.student_ids)
    return tuple(v for v, seen in zip(named, known.tolist(), strict=True) if seen) or named[:1]


def _with_ids(c: q.FieldIs, binding: Binding) -> q.FieldIs:
    if c.of is not None and (c.field != "class" or any(v is not None for v in c.in_ or ())):
        raise InvalidQuestion("“of” is said of having no class of the question's subject only.")
    if c.field == "year_level" and c.in_ is None:
        if c.from_ is None and c.to is None:
            raise InvalidQuestion("A condition on year_level must have “in”, “from” or “to”.")
        return c
    if c.in_ is None or c.from_ is not None or c.to is not None:
        raise InvalidQuestion(
            f"A condition on {c.field} must have “in”; “from” and “to” are for "
            f"{spoken().year_levels}, without “in”."
        )
    places = binding.places
    finders: dict[str, Callable[[q.Ref], q.Ref]] = {
        "school": places.school,
        "class": places.school_class,
        "year_level": whole_number,
        "teacher": places.teacher,
        "course": places.course,
        "student": places.student,
    }
    find = finders.get(c.field)
    if find is None:
        raise not_yet(f"the field “{c.field}”")
    if c.field == "student":
        c = c.model_copy(update={"in_": _seen(c.in_, binding)})
    return c.model_copy(update={"in_": tidy_values(binding.known_of(c.in_ or (), find))})


def _through_classes(c: q.FieldIs, snapshot: Snapshot) -> tuple[list[int], list[str]]:
    """Positions of the classes that the field names, and the words of its values."""
    classes, wanted = snapshot.classes, [v for v in c.in_ or () if v is not None]
    if c.field == "class":
        schools = {s.id: s.name for s in snapshot.schools}
        held = [at for at, item in enumerate(classes) if item.id in wanted]
        return held, [
            f"{classes[at].name} of {schools.get(classes[at].school_id, '')}" for at in held
        ]
    if c.field == "course":
        names = {str(v) for v in wanted}
        held = [at for at, item in enumerate(classes) if names & set(item.courses)]
        return held, [f"taught {v}" for v in wanted]
    people = {snapshot.staff.index(str(v)) for v in wanted}
    held = [at for at, item in enumerate(classes) if people & set(item.teachers)]
    return held, [snapshot.staff[at] for at in sorted(people)]


def _in_classes(c: q.FieldIs, snapshot: Snapshot, roll: Roll, held: list[int], about: str) -> Mask:
    mask = np.zeros(snapshot.students, bool)
    members = np.asarray(roll.members)
    mask[members[among(members[:, 1], held), 0]] = True
    if None in (c.in_ or ()):
        counts = [
            at for at, item in enumerate(snapshot.classes) if _says(c, item, about)
        ]  # fmt: skip
        without = np.ones(snapshot.students, bool)
        without[members[np.isin(members[:, 1], counts), 0]] = False
        mask |= without
    return mask


def _says(c: q.FieldIs, item: SchoolClass, about: str) -> bool:
    """Whether whoever is in the class has the field: a class, a teacher, a course."""
    if c.field == "teacher":
        return bool(item.teachers)
    if c.field == "course":
        return bool(item.courses)
    return c.of is None or about in item.courses


def _range(c: q.FieldIs) -> tuple[int, int]:
    return c.from_ if c.from_ is not None else 0, c.to if c.to is not None else 127


def _year_level_words(c: q.FieldIs) -> str:
    said = spoken()
    if c.in_ is not None:
        return " or ".join(said.level_name(-1 if v is None else int(v)) for v in c.in_)
    low, high = (said.level_name(end) for end in _range(c))
    return f"{low} to {high}" if c.to is not None else f"{low} and above"


def _in_year_levels(c: q.FieldIs, levels: Array) -> Mask:
    if c.in_ is not None:
        return among(levels, [-1 if v is None else int(v) for v in c.in_])
    low, high = _range(c)
    return np.asarray((levels >= low) & (levels <= high))
