"""An Answer's numbers as CSV: full precision, and no cell that a spreadsheet would run."""

from __future__ import annotations

import csv
import io
from typing import Any

from bridge_chart.terms.answer import Answer, Row, RowsBody, StripBody, StudentsBody

ROW_COLUMNS = (
    "label", "n", "missing", "mean", "sd", "q1", "median", "q3", "yardstick", "span", "span_raw",
    "low", "high", "se", "se_kind", "df", "p", "effect", "verdict", "undefined",
)  # fmt: skip
DANGEROUS = ("=", "+", "-", "@", "\t", "\r")


def safe(cell: Any) -> Any:
    """A text that a spreadsheet would take for a formula gets an apostrophe before it.

    >>> safe("=HYPERLINK(1)"), safe("O'Ferran"), safe(-4.1), safe(None)
    ("'=HYPERLINK(1)", "O'Ferran", -4.1, '')
    """
    if cell is None:
        return ""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(DANGEROUS) else cell


def to_csv(answer: Answer) -> str:
    """The body as CSV with a header line; reference rows come first and say so."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for line in _lines(answer):
        writer.writerow([safe(cell) for cell in line])
    return out.getvalue()


def _lines(answer: Answer) -> list[list[Any]]:
    body = answer.body
    if isinstance(body, StudentsBody):
        heads = [column.label or column.key for column in body.columns]
        return [heads, *map(list, zip(*(c.values for c in body.columns), strict=True))]
    if isinstance(body, StripBody):
        heads = ["label", "kind", "groups", "size", "low", "high", "beyond_chance", "n", "missing"]
        return [heads, *[[getattr(e, head) for head in heads] for e in body.entries]]
    assert isinstance(body, RowsBody)
    lines: list[list[Any]] = [["row", *ROW_COLUMNS]]
    lines += [_row("reference", row) for row in answer.reference]
    return lines + [_row(body.dimension, row) for row in body.rows]


def _row(kind: str, row: Row) -> list[Any]:
    return [kind, *[getattr(row, column) for column in ROW_COLUMNS]]
