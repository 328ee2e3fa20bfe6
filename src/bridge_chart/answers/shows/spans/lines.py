"""The rows of a comparison as lines, for files and for a terminal."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.lines import SYMBOLS, figure, name_of
from bridge_chart.answers.shows.show import Chart, Lines
from bridge_chart.answers.shows.spans.body import RowsBody
from bridge_chart.terms.answer import Row

COLUMNS = (
    "label", "n", "missing", "mean", "sd", "q1", "median", "q3", "yardstick", "span", "span_raw",
    "low", "high", "se", "se_kind", "df", "p", "effect", "reliability", "firmness", "rank",
    "verdict", "because", "bound_low", "bound_high", "stable_n", "stable_value", "undefined",
)  # fmt: skip


def row_lines(body: RowsBody) -> Lines:
    """Every figure; pinned rows come first and say so."""
    lines = [_line("reference", row) for row in body.reference]
    return ["row", *COLUMNS], lines + [_line(body.dimension, row) for row in body.rows]


def _line(kind: str, row: Row) -> list[Any]:
    cells = [name_of(row), *(getattr(row, column) for column in COLUMNS[1:])]
    if row.rank is not None:
        cells[COLUMNS.index("rank")] = f"{row.rank[0]} ({row.rank[1]} to {row.rank[2]})"
    return [kind, *cells]


def row_chart(_body: RowsBody) -> Chart:
    """Each span as a bar with its interval."""
    return Chart("Span", ("span",), ("#8fa1b8",), low="low", high="high")


def row_cells(body: RowsBody) -> list[list[str]]:
    """What fits a terminal."""
    heads = [body.dimension, "n", "missing", "mean", "sd", "expected", "span", "95% interval", ""]
    return [heads, *[
        [
            name_of(row), str(row.n), str(row.missing), figure(row.mean), figure(row.sd),
            figure(row.yardstick), figure(row.span, sign=True),
            "" if row.low is None else f"{figure(row.low)} to {figure(row.high)}",
            SYMBOLS[row.verdict],
        ]
        for row in [*body.reference, *body.rows]
    ]]  # fmt: skip
