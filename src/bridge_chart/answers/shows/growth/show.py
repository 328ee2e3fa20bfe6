"""Growth: beside similar starters, beside a table of growth, beside the nation."""

from __future__ import annotations

from bridge_chart.answers.shows.growth.answer import growth_shown
from bridge_chart.answers.shows.growth.body import GrowthBody, GrowthOptions
from bridge_chart.answers.shows.growth.lines import growth_cells, growth_lines
from bridge_chart.answers.shows.show import Show

SHOW = Show(
    name="growth", label="Growth", body=GrowthBody, answer=growth_shown, lines=growth_lines,
    terminal=growth_cells, options=GrowthOptions,
    takes=frozenset({"split", "reference", "sort", "options"}), pins=("district",),
    most=1, one_only="Growth is looked at for one measure at a time.",
)  # fmt: skip
