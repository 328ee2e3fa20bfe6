"""Every kind of condition, each once; a new one is a function of this room and a line here."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.who.by_characteristic import by_characteristic
from bridge_chart.answers.who.by_field import by_field
from bridge_chart.answers.who.by_group import in_group
from bridge_chart.answers.who.by_measure import by_band, by_measure
from bridge_chart.answers.who.by_reason import by_reason
from bridge_chart.answers.who.logic import all_of, any_of, is_known, not_
from bridge_chart.terms import question as q

CONDITIONS: dict[type[q.Strict], Callable[[Any, Binding], Filter]] = {
    q.FieldIs: by_field,
    q.CharacteristicIs: by_characteristic,
    q.MeasureIs: by_measure,
    q.BandIs: by_band,
    q.Missing: by_reason,
    q.InSet: in_group,
    q.AnyOf: any_of,
    q.AllOf: all_of,
    q.Not: not_,
    q.Known: is_known,
}


def bind_condition(c: q.Condition, binding: Binding) -> Filter:
    """A condition with ids, its words, and whom it holds for."""
    return CONDITIONS[type(c)](c, binding)


def as_of_day(c: q.Condition, as_of: q.AsOf | None) -> q.Condition:
    """A condition as of a date, at any depth, where it names none of its own."""
    if as_of is None:
        return c
    if isinstance(c, q.AnyOf):
        return c.model_copy(update={"any_": tuple(as_of_day(x, as_of) for x in c.any_)})
    if isinstance(c, q.AllOf):
        return c.model_copy(update={"all_": tuple(as_of_day(x, as_of) for x in c.all_)})
    if isinstance(c, q.Known):
        return c.model_copy(update={"known": tuple(as_of_day(x, as_of) for x in c.known)})
    if isinstance(c, q.Not):
        return c.model_copy(update={"not_": as_of_day(c.not_, as_of)})
    if isinstance(c, q.FieldIs | q.CharacteristicIs):
        return c if c.as_of is not None else c.model_copy(update={"as_of": as_of})
    return c


def on_roll(as_of: q.AsOf | None) -> q.Condition:
    """The condition of being in some school on a date."""
    return q.Not(not_=q.FieldIs.model_validate({"field": "school", "in": [None], "as_of": as_of}))
