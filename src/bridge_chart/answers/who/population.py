"""Who is asked about: the population, everybody for the reference row, and the words of both."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.view import View
from bridge_chart.core.arrays import Mask
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Chip

THROUGH_CLASSES = ("class", "teacher", "course")
"""Fields that a student has by being in a class."""


def population(view: View, *, everywhere: bool = False) -> Mask:
    """Students on roll who meet every condition; `everywhere` leaves conditions on places aside,
    for the reference row. Who has left before the sitting is nobody's to ask about."""
    mask = np.asarray(view.roll.school >= 0) & view.snapshot.seen(view.measure)
    for one in view.who:
        if not (everywhere and one.place):
            mask &= one.mask
    return mask


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
        who = f"today's {who}" if levels else "today's students"
    where = " and ".join(places) or own_text(view)
    return f"{who} in {where}" + (f", {others} more" if others else "")


def _texts(filters: tuple[Filter, ...], fields: tuple[str, ...]) -> Iterator[str]:
    for one in filters:
        if isinstance(one.asked, q.FieldIs) and one.asked.field in fields:
            yield one.text


def own_text(view: View) -> str:
    """Whose students the asker sees."""
    return "all schools" if view.snapshot.scope.whole else view.snapshot.whose
