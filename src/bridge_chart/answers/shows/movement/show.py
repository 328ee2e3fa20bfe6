"""Movement: from which level to which, and what that is worth."""

from __future__ import annotations

from bridge_chart.answers.shows.movement.answer import movement_shown
from bridge_chart.answers.shows.movement.body import MovementBody, MovementOptions
from bridge_chart.answers.shows.movement.lines import movement_cells, movement_lines
from bridge_chart.answers.shows.show import Show

SHOW = Show(
    name="movement", label="Movement", body=MovementBody, answer=movement_shown,
    lines=movement_lines, terminal=movement_cells, options=MovementOptions,
    takes=frozenset({"split", "reference", "sort", "options"}), pins=("district",), steps=True,
    most=1, one_only="Movement is looked at for one measure at a time.",
)  # fmt: skip
