"""An Answer's numbers as CSV: full precision, and no cell that a spreadsheet would run."""

from __future__ import annotations

import csv
import io
from typing import Any

from bridge_chart.output.lines import lines_of
from bridge_chart.terms.answer import Answer

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
    heads, lines = lines_of(answer)
    for line in [heads, *lines]:
        writer.writerow([safe(cell) for cell in line])
    return out.getvalue()
