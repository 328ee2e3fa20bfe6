"""Who is asked about: the population, everybody for the reference row, and the words of both."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.view import View, own_schools
from bridge_chart.core.arrays import Mask
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Chip

THROUGH_CLASSES = ("class", "teacher", "course")
"""Fields that a student has by being in a class."""


def population(view: View, *, everywhere: bool = False) -> Mask:
    """Students on roll who meet every condition and are in scope; `everywhere` leaves scope and
    conditions on places aside, for the reference row."""
    mask = np.array(view.roll.school >= 0)
    for one in view.who:
        if not (everywhere and one.place):
            mask &= one.mask
    return mask if everywhere else mask & view.in_scope


def everybody(view: View) -> Mask | None:
    """Whom the reference row is about: everyone who meets the conditions in any school; where a
    class or a teacher is asked about, those of the same year levels. None: it is the population
    itself, so a reference would say the same twice."""
    mask = population(view, everywhere=True) & view.meant
    own = population(view) & view.meant
    if any(_through_a_class(one.asked) for one in view.who):
        levels = np.unique(np.asarray(view.roll.year_level)[own])
        mask &= np.isin(view.roll.year_level, levels)
    if not view.question.split and np.array_equal(mask, own):
        return None
    return mask


def _through_a_class(condition: q.Condition) -> bool:
    if isinstance(condition, q.AnyOf):
        return all(_through_a_class(c) for c in condition.any_)
    return isinstance(condition, q.FieldIs) and condition.field in THROUGH_CLASSES


def chips(view: View) -> list[Chip]:
    """Every condition in words, removable by its path."""
    out = [Chip(path=f"who.all.{at}", text=one.text) for at, one in enumerate(view.who)]
    if view.question.who.as_of not in (None, "sitting"):
        out.append(Chip(path="who.as_of", text=view.as_of_text))
    return out


def who_text(view: View) -> str:
    """The words of the first slot: year levels and schools; the chips say the rest."""
    levels = list(_texts(view.who, ("year_level",)))
    places = list(_texts(view.who, ("school", "class", "teacher")))
    others = len(view.who) - len(levels) - len(places)
    who = " and ".join(levels) or "All students"
    if view.question.who.as_of == "today":
        who = f"today's {who[:1].lower()}{who[1:]}" if not levels else f"today's {who}"
    where = " and ".join(places) or ("all schools" if view.scope.whole else own_text(view))
    return f"{who} in {where}" + (f", {others} more" if others else "")


def _texts(filters: tuple[Filter, ...], fields: tuple[str, ...]) -> Iterator[str]:
    for one in filters:
        if isinstance(one.asked, q.FieldIs) and one.asked.field in fields:
            yield one.text


def own_text(view: View) -> str:
    """The schools in scope, by name."""
    names = [view.snapshot.schools[at].name for at in own_schools(view.snapshot, view.scope)]
    return " and ".join(names) or "no school"
