"""Pace: steps made, how much a year, and where that ends."""

from __future__ import annotations

from bridge_chart.answers.shows.pace.answer import pace_shown
from bridge_chart.answers.shows.pace.body import PaceBody, PaceOptions
from bridge_chart.answers.shows.pace.lines import pace_cells, pace_lines
from bridge_chart.answers.shows.show import Show

SHOW = Show(
    name="pace", label="Pace", body=PaceBody, answer=pace_shown, lines=pace_lines,
    terminal=pace_cells, options=PaceOptions,
    takes=frozenset({"split", "reference", "sort", "options"}), pins=("district",),
    most=1, one_only="Pace is looked at for one measure at a time.",
)  # fmt: skip
