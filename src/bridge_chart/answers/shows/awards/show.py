"""Awards: each condition met, on course or not yet, and the award by group."""

from __future__ import annotations

from bridge_chart.answers.shows.awards.answer import awards_shown
from bridge_chart.answers.shows.awards.body import AwardsBody, AwardsOptions
from bridge_chart.answers.shows.awards.lines import award_cells, award_lines
from bridge_chart.answers.shows.show import Show

SHOW = Show(
    name="awards", label="Awards", body=AwardsBody, answer=awards_shown, lines=award_lines,
    terminal=award_cells, options=AwardsOptions, steps=True,
    takes=frozenset({"split", "reference", "sort", "options"}), pins=("district", "school"),
    most=4,
)  # fmt: skip
