"""Spread: how do the scores lie, and what share is at or above each?"""

from __future__ import annotations

from bridge_chart.answers.shows.show import Sheet, Show
from bridge_chart.answers.shows.spread.answer import spread_shown
from bridge_chart.answers.shows.spread.body import SpreadBody, SpreadOptions
from bridge_chart.answers.shows.spread.lines import spread_cells, spread_lines

SHOW = Show(
    name="spread", label="Spread", body=SpreadBody, answer=spread_shown, lines=spread_lines,
    terminal=spread_cells, takes=frozenset({"split", "reference", "options"}), pins=("district",),
    sheet=Sheet(), options=SpreadOptions,
)  # fmt: skip
