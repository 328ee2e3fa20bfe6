"""Chances: what a level on this test has meant for a later one."""

from __future__ import annotations

from bridge_chart.answers.shows.chances.answer import chances_shown
from bridge_chart.answers.shows.chances.body import ChancesBody, ChancesOptions
from bridge_chart.answers.shows.chances.lines import chances_cells, chances_lines
from bridge_chart.answers.shows.show import Show

SHOW = Show(
    name="chances", label="Chances", body=ChancesBody, answer=chances_shown, lines=chances_lines,
    terminal=chances_cells, options=ChancesOptions, takes=frozenset({"options"}), steps=True,
    most=1, one_only="Chances are looked at for one measure at a time.",
)  # fmt: skip
