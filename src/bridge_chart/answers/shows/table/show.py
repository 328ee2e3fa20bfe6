"""Table: the rows of Spans with every figure, listed."""

from __future__ import annotations

from bridge_chart.answers.shows.outside import rows_outside
from bridge_chart.answers.shows.show import Sheet, Show
from bridge_chart.answers.shows.spans.answer import ROW_KEYS, rows_shown
from bridge_chart.answers.shows.spans.body import RowsBody
from bridge_chart.answers.shows.spans.lines import row_cells, row_lines

SHOW = Show(
    name="table", label="Table", body=RowsBody, answer=rows_shown, lines=row_lines,
    terminal=row_cells, takes=ROW_KEYS, pins=("district", "school", "nation"), shares=True,
    outside=rows_outside, sheet=Sheet(),
)  # fmt: skip
