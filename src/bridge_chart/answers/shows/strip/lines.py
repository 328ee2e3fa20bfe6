"""The strip as lines."""

from __future__ import annotations

from bridge_chart.answers.shows.lines import columns_of
from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.strip.body import StripBody

COLUMNS = ("label", "kind", "groups", "size", "low", "high", "beyond_chance", "n", "missing")


def strip_lines(body: StripBody) -> Lines:
    """A line for each dimension."""
    return list(COLUMNS), columns_of(body.entries, COLUMNS)
