"""Conditions on what rosters say of students: any characteristic that the district keeps."""

from __future__ import annotations

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter
from bridge_chart.answers.bound.names import tidy_values
from bridge_chart.core.arrays import among
from bridge_chart.terms import question as q


def by_characteristic(c: q.CharacteristicIs, binding: Binding) -> Filter:
    """Students whose characteristic has one of some values; null: not known."""
    snapshot, places = binding.snapshot, binding.places
    identity = places.characteristic(c.characteristic)
    found = binding.known_of(c.in_, lambda ref: places.option(identity, ref))
    c = c.model_copy(update={
        "characteristic": identity, "in_": tidy_values(found), "as_of": binding.own_day(c.as_of),
    })  # fmt: skip
    item = next(x for x in snapshot.characteristics if x.id == identity)
    at = [-1 if v is None else [o.id for o in item.options].index(int(v)) for v in c.in_]
    words = [item.options[n].name if n >= 0 else "not known" for n in at]
    roll = binding.roll(c.as_of)
    return Filter(
        c,
        f"{item.name}: {' or '.join(words)}",
        lambda: among(roll.characteristic(identity, snapshot.students), at),
    )
