"""Levels: who is in which level or grade, around the pass line."""

from __future__ import annotations

from bridge_chart.answers.shows.levels.answer import levels_shown
from bridge_chart.answers.shows.levels.body import LevelsBody
from bridge_chart.answers.shows.levels.lines import (
    level_cells,
    level_chart,
    level_lines,
    levels_outside,
)
from bridge_chart.answers.shows.show import Sheet, Show

SHOW = Show(
    name="levels", label="Levels", body=LevelsBody, answer=levels_shown, lines=level_lines,
    terminal=level_cells, outside=levels_outside, takes=frozenset({"split", "reference", "sort"}),
    pins=("district", "school", "nation"), steps=True, sheet=Sheet(chart=level_chart),
)  # fmt: skip
