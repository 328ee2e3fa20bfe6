"""Standing: below, on and above what they are held against, around its line."""

from __future__ import annotations

from bridge_chart.answers.shows.levels.lines import level_cells, level_chart, level_lines
from bridge_chart.answers.shows.show import Sheet, Show
from bridge_chart.answers.shows.standing.answer import standing_shown
from bridge_chart.answers.shows.standing.body import StandingBody, StandingOptions

SHOW = Show(
    name="standing", label="Standing", body=StandingBody, answer=standing_shown, lines=level_lines,
    terminal=level_cells, options=StandingOptions,
    takes=frozenset({"split", "reference", "sort", "options"}), pins=("district", "school"),
    most=1, one_only="Standing is looked at for one measure at a time.",
    sheet=Sheet(beside=False, chart=level_chart),
)  # fmt: skip
