"""Who: conditions as masks and as words, from one place."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.by_measure import by_band, by_measure
from bridge_chart.answers.coverage import REASONS, label_of, reasons_for
from bridge_chart.answers.measures import Wanted
from bridge_chart.answers.normalise import Names
from bridge_chart.answers.view import Filter, View
from bridge_chart.core.arrays import Mask, among
from bridge_chart.store.codes import STEPPED
from bridge_chart.store.snapshot import Array
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Chip

PLACES = ("school", "class", "teacher")
THROUGH_CLASSES = ("class", "teacher", "course")
"""Fields that a student has by being in a class."""


def population(view: View, *, everywhere: bool = False) -> Mask:
    """Students on roll who meet every condition and are in scope; `everywhere` leaves scope and
    conditions on places aside, for the reference row."""
    mask = np.array(view.roll.school >= 0)
    for condition in view.question.who.all_:
        if not (everywhere and names_place(condition)):
            mask &= apply(condition, view).mask
    return mask if everywhere else mask & view.in_scope


def everybody(view: View) -> Mask | None:
    """Whom the reference row is about: everyone who meets the conditions in any school; where a
    class or a teacher is asked about, those of the same year levels. None: it is the population
    itself, so a reference would say the same twice."""
    mask = population(view, everywhere=True) & view.meant
    own = population(view) & view.meant
    if any(_names_class(c) for c in view.question.who.all_):
        levels = np.unique(np.asarray(view.roll.year_level)[own])
        mask &= np.isin(view.roll.year_level, levels)
    if not view.question.split and np.array_equal(mask, own):
        return None
    return mask


def _names_class(condition: q.Condition) -> bool:
    if isinstance(condition, q.AnyOf):
        return all(_names_class(c) for c in condition.any_)
    return isinstance(condition, q.FieldIs) and condition.field in THROUGH_CLASSES


def members(view: View, who: q.Who) -> Mask:
    """Students of another population than the question's own. In a scope that is not the whole
    district it is either everybody's (no place is named) or within the scope."""
    roll = view.roll_as_of(who.as_of)
    mask = np.array(roll.school >= 0)
    for condition in who.all_:
        mask &= apply(condition, view).mask
    if not view.scope.whole and any(names_place(c) for c in who.all_):
        mask &= view.in_scope
    return mask


def names_place(condition: q.Condition) -> bool:
    """Whether a condition names a school, a class, a teacher or a group, at any depth."""
    if isinstance(condition, q.AnyOf):
        return any(names_place(c) for c in condition.any_)
    if isinstance(condition, q.AllOf):
        return any(names_place(c) for c in condition.all_)
    if isinstance(condition, q.Not):
        return names_place(condition.not_)
    if isinstance(condition, q.FieldIs) and condition.field == "student":
        return True
    return isinstance(condition, q.InSet) or _is_place(condition)


def _is_place(condition: q.Condition) -> bool:
    return isinstance(condition, q.FieldIs) and condition.field in PLACES


def chips(view: View) -> list[Chip]:
    """Every condition in words, removable by its path."""
    out = [
        Chip(path=f"who.all.{at}", text=apply(condition, view).text)
        for at, condition in enumerate(view.question.who.all_)
    ]
    if view.question.who.as_of != "sitting":
        out.append(Chip(path="who.as_of", text=view.as_of_text))
    return out


def who_text(view: View) -> str:
    """The words of the first slot: year levels and schools; the chips say the rest."""
    conditions = view.question.who.all_
    levels = [apply(c, view).text for c in conditions if _field(c) == "year_level"]
    places = [apply(c, view).text for c in conditions if _is_place(c)]
    others = len(conditions) - len(levels) - len(places)
    who = " and ".join(levels) or "All students"
    if view.question.who.as_of == "today":
        who = f"today's {who[:1].lower()}{who[1:]}" if not levels else f"today's {who}"
    where = " and ".join(places) or ("all schools" if view.scope.whole else own_text(view))
    return f"{who} in {where}" + (f", {others} more" if others else "")


def own_text(view: View) -> str:
    """The schools in scope, by name."""
    return " and ".join(view.school_name(at) for at in view.own_schools) or "no school"


def _field(condition: q.Condition) -> str | None:
    return condition.field if isinstance(condition, q.FieldIs) else None


def apply(condition: q.Condition, view: View) -> Filter:
    """The mask and the words of one (normalised) condition; worked out once a view."""
    known = view.filters.get(id(condition))
    if known is None:
        known = view.filters[id(condition)] = _worked_out(condition, view)
    return known


def _worked_out(condition: q.Condition, view: View) -> Filter:
    if isinstance(condition, q.AnyOf):
        parts = [apply(c, view) for c in condition.any_]
        mask = np.logical_or.reduce([part.mask for part in parts])
        return Filter(mask, " or ".join(part.text for part in parts))
    if isinstance(condition, q.AllOf):
        parts = [apply(c, view) for c in condition.all_]
        mask = np.logical_and.reduce([part.mask for part in parts])
        return Filter(mask, f"({' and '.join(part.text for part in parts)})")
    if isinstance(condition, q.Not):
        part = apply(condition.not_, view)
        inner = condition.not_
        lacking = isinstance(inner, q.AnyOf) and all(isinstance(c, q.Missing) for c in inner.any_)
        return Filter(~part.mask, "counted" if lacking else f"not {part.text}")
    if isinstance(condition, q.CharacteristicIs):
        return _by_characteristic(condition, view)
    if isinstance(condition, q.MeasureIs):
        return by_measure(condition, view)
    if isinstance(condition, q.BandIs):
        return by_band(condition, view)
    if isinstance(condition, q.InSet):
        return _in_set(condition, view)
    if isinstance(condition, q.Missing):
        return _by_reason(condition, view)
    return _by_field(condition, view)


def _in_set(c: q.InSet, view: View) -> Filter:
    found = view.sets[int(c.set_)]
    if found.rule is not None:
        return Filter(members(view, found.rule), found.name)
    assert found.students is not None
    return Filter(np.isin(view.snapshot.student_ids, found.students), found.name)


def _by_characteristic(c: q.CharacteristicIs, view: View) -> Filter:
    snapshot = view.snapshot
    item = next(x for x in snapshot.characteristics if x.id == c.characteristic)
    codes = view.roll_as_of(c.as_of).characteristic(item.id, snapshot.students)
    wanted = [-1 if v is None else [o.id for o in item.options].index(int(v)) for v in c.in_]
    words = [item.options[at].name if at >= 0 else "not known" for at in wanted]
    return Filter(among(codes, wanted), f"{item.name}: {' or '.join(words)}")


def _by_field(c: q.FieldIs, view: View) -> Filter:
    roll = view.roll_as_of(c.as_of)
    if c.field == "year_level":
        return _by_year_level(c, roll.year_level)
    wanted = c.in_ or []
    if c.field == "school":
        ids = [s.id for s in view.snapshot.schools]
        at = [-1 if v is None else ids.index(int(v)) for v in wanted]
        words = [view.school_name(x) if x >= 0 else "no school" for x in at]
        return Filter(among(roll.school, at), " or ".join(words))
    if c.field == "student":
        named = np.isin(view.snapshot.student_ids, [int(v) for v in wanted if v is not None])
        return Filter(named, f"{int(named.sum())} chosen student{'s'[: int(named.sum()) != 1]}")
    classes = view.snapshot.classes
    if c.field == "class":
        held = [at for at, item in enumerate(classes) if item.id in wanted]
        words = [f"{classes[at].name} of {_school_of(view, at)}" for at in held]
    elif c.field == "course":
        names = [str(v) for v in wanted if v is not None]
        held = [at for at, item in enumerate(classes) if set(names) & set(item.courses)]
        words = [f"taught {name}" for name in names]
    else:
        staff = view.snapshot.staff
        people = {staff.index(str(v)) for v in wanted if v is not None}
        held = [at for at, item in enumerate(classes) if people & set(item.teachers)]
        words = [staff[at] for at in sorted(people)]
    mask = np.zeros(view.snapshot.students, bool)
    mask[roll.members[among(roll.members[:, 1], held), 0]] = True
    if None in wanted:
        taught = roll.members[:, 0]
        if c.field != "class":
            led = [
                at
                for at, item in enumerate(classes)
                if (item.teachers if c.field == "teacher" else item.courses)
            ]
            taught = roll.members[np.isin(roll.members[:, 1], led), 0]
        without = np.ones(view.snapshot.students, bool)
        without[taught] = False
        mask |= without
        words.append(f"no {c.field}")
    return Filter(mask, " or ".join(words))


def _school_of(view: View, class_at: int) -> str:
    school_id = view.snapshot.classes[class_at].school_id
    return next((s.name for s in view.snapshot.schools if s.id == school_id), "")


def _by_year_level(c: q.FieldIs, levels: Array) -> Filter:
    if c.in_ is not None:
        wanted = [-1 if v is None else int(v) for v in c.in_]
        words = [f"Year {v}" if v >= 0 else "no year level" for v in wanted]
        return Filter(among(levels, wanted), " or ".join(words))
    low = c.from_ if c.from_ is not None else 0
    high = c.to if c.to is not None else 127
    text = f"Years {low} to {high}" if c.to is not None else f"Year {low} and above"
    return Filter((levels >= low) & (levels <= high), text)


def _by_reason(c: q.Missing, view: View) -> Filter:
    names = Names(view.snapshot, view.sets)
    steps = isinstance(c.measure, q.Measure) and c.measure.score in STEPPED
    quantity = names.quantity(c.measure, Wanted(steps=steps))
    reasons = reasons_for(view.snapshot, quantity, c.against)
    label = label_of(c.missing, c.against)
    return Filter(reasons == REASONS.index(c.missing), f"not counted: {label}")
