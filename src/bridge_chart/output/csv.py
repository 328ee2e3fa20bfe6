"""Lines as CSV: full precision, and no cell that a spreadsheet would run."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence
from typing import Any

DANGEROUS = ("=", "+", "-", "@", "\t", "\r")


def safe(cell: Any) -> Any:
    """A text that a spreadsheet would take for a formula gets an apostrophe before it.

    >>> safe("=HYPERLINK(1)"), safe("O'Ferran"), safe(-4.1), safe(None)
    ("'=HYPERLINK(1)", "O'Ferran", -4.1, '')
    """
    if cell is None:
        return ""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(DANGEROUS) else cell


def to_csv(heads: Sequence[Any], lines: Iterable[Sequence[Any]]) -> str:
    """Heads and lines as CSV."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    for line in [heads, *lines]:
        writer.writerow([safe(cell) for cell in line])
    return out.getvalue()
