"""Every kind of split, each once; a new one is a class of this room and a line here."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.split import Split
from bridge_chart.answers.splits.by_characteristic import by_characteristic
from bridge_chart.answers.splits.by_figure import by_band, by_level
from bridge_chart.answers.splits.by_place import by_field
from bridge_chart.answers.splits.by_population import by_populations
from bridge_chart.terms import question as q

KINDS: dict[type[q.Strict], Callable[[Any, Binding], Split]] = {
    q.ByField: by_field,
    q.ByCharacteristic: by_characteristic,
    q.ByBand: by_band,
    q.ByLevel: by_level,
    q.ByPopulations: by_populations,
}


def bind_split(d: q.Dimension, binding: Binding) -> Split:
    """A dimension with everything found; not one of the words for the measures."""
    if isinstance(d, str):
        raise TypeError("a word for the measures is no split of its own")
    return KINDS[type(d)](d, binding)
