"""Make-up as lines."""

from __future__ import annotations

from bridge_chart.answers.shows.lines import columns_of
from bridge_chart.answers.shows.make_up.body import MakeUpBody
from bridge_chart.answers.shows.show import Lines

COLUMNS = (
    "dimension", "label", "in_set", "in_rest", "set_share", "rest_share", "everyone_share",
    "ratio", "low", "high", "p", "verdict",
)  # fmt: skip


def make_up_lines(body: MakeUpBody) -> Lines:
    """A line for each category."""
    return list(COLUMNS), columns_of(body.entries, COLUMNS)
