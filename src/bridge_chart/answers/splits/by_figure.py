"""Splits by a measure: starting bands, levels."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.split import UNKNOWN, Conditions, Group, Grouping, Split, present
from bridge_chart.answers.what.bands import BANDS, band_names, band_numbers
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q


def by_band(d: q.ByBand, binding: Binding) -> Split:
    """Thirds of the district by where they started; “prior”: by the yardstick's own start."""
    prior = binding.start() if d.band == "prior" else binding.quantity(d.band)
    asked = d if d.band == "prior" else d.model_copy(update={"band": prior.measure})
    return ByBand(asked, binding.snapshot, prior, binding.own.key, band_names(d.scheme))


@dataclass(frozen=True, eq=False)
class ByBand(Split):
    asked: q.ByBand
    snapshot: Snapshot
    prior: Quantity
    key: MeasureKey
    names: tuple[str, ...]
    label = "starting band"

    def group(self, people: Mask) -> Grouping:
        at = np.flatnonzero(people)

        def make(n: int) -> Group:
            name = self.names[n]
            label = f"{name.capitalize()} start" if name in BANDS else name
            return Group(("band", n), label, lambda: self._narrow(name))

        last = Group(UNKNOWN, "Start not known", lambda: self._narrow(None))
        code = band_numbers(self.snapshot, self.prior, self.key, self.asked.scheme)[at]
        return present(self.label, make, len(self.names), last, at, code)

    def _narrow(self, value: str | None) -> Conditions:
        asked = {"band": self.prior.measure, "in": [value], "scheme": self.asked.scheme}
        return (q.BandIs.model_validate(asked),)


def by_level(d: q.ByLevel, binding: Binding) -> Split:
    """A row for each step of a measure in levels or grades."""
    own = binding.quantity(d.level_of, steps=True)
    return ByLevel(d.model_copy(update={"level_of": own.measure}), binding.snapshot, own)


@dataclass(frozen=True, eq=False)
class ByLevel(Split):
    asked: q.ByLevel
    snapshot: Snapshot
    of: Quantity
    label = "level"

    def group(self, people: Mask) -> Grouping:
        at, steps = np.flatnonzero(people), self.of.steps
        values = np.asarray(figures_of_students(self.snapshot, self.of))[at]
        code = np.nan_to_num(values, nan=0.0).astype(np.int64) - 1

        def make(n: int) -> Group:
            return Group(("level", n), steps[n], lambda: (self._narrow([steps[n]]),))

        last = Group(UNKNOWN, "No level", lambda: (q.Not(not_=self._narrow(list(steps))),))
        return present(f"level in {self.of.label}", make, len(steps), last, at, code)

    def _narrow(self, steps: list[str]) -> q.Condition:
        return q.MeasureIs.model_validate({"measure": self.of.measure, "level": steps})
