"""Splits by a characteristic."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.split import UNKNOWN, Conditions, Group, Grouping, Split, present
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import Characteristic, Roll
from bridge_chart.terms import question as q

BARE = ("yes", "no", "y", "n", "true", "false", "1", "0")
"""Values that mean nothing without the name of their characteristic."""


def by_characteristic(d: q.ByCharacteristic, binding: Binding) -> Split:
    """A row for each value of a characteristic, and one for those of whom it is not known."""
    identity = binding.places.characteristic(d.characteristic)
    item = next(c for c in binding.snapshot.characteristics if c.id == identity)
    asked = d.model_copy(update={"characteristic": identity, "as_of": binding.own_day(d.as_of)})
    return ByCharacteristic(asked, item, binding.roll(d.as_of))


@dataclass(frozen=True, eq=False)
class ByCharacteristic(Split):
    """`label`: as the district writes it (SEN stays SEN)."""

    asked: q.ByCharacteristic
    item: Characteristic
    roll: Roll

    @property
    def label(self) -> str:  # type: ignore[override]
        return self.item.name

    def group(self, people: Mask) -> Grouping:
        at, item = np.flatnonzero(people), self.item

        def make(n: int) -> Group:
            option = item.options[n]
            # “yes” alone says nothing once it stands in a sentence.
            plain = option.name.casefold() not in BARE
            label = option.name if plain else f"{item.name}: {option.name}"
            return Group(("option", option.id), label, lambda: self._narrow(option.id))

        codes = self.roll.characteristic(item.id, len(people))
        last = Group(UNKNOWN, "Not known", lambda: self._narrow(None))
        return present(item.name, make, len(item.options), last, at, np.asarray(codes)[at])

    def _narrow(self, value: int | None) -> Conditions:
        asked = {"characteristic": self.item.id, "in": [value], "as_of": self.asked.as_of}
        return (q.CharacteristicIs.model_validate(asked),)
