"""Over time as lines."""

from __future__ import annotations

from bridge_chart.answers.shows.over_time.body import TimeBody
from bridge_chart.answers.shows.show import Lines

COLUMNS = (
    "label", "date", "n", "missing", "value", "low", "high", "change", "change_low",
    "change_high", "change_n", "moved", "verdict",
)  # fmt: skip


def time_lines(body: TimeBody) -> Lines:
    """A line for each group and sitting."""
    return [body.dimension, *COLUMNS], [
        [one.label, *[getattr(point, c) for c in COLUMNS]]
        for one in body.series
        for point in one.points
    ]
