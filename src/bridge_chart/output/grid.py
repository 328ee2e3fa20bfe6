"""A grid of students by results as a file that people type into and bring back."""

from __future__ import annotations

import csv
import io
from typing import Any

import numpy as np
import xlsxwriter

from bridge_chart.output.csv import safe
from bridge_chart.terms.grid import NAME, NUMBER, Grid


def to_csv(grid: Grid) -> bytes:
    """The grid as CSV with a mark of its encoding, so that spreadsheets read it rightly."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow([NUMBER, NAME, *grid.headers])
    for row in grid.rows:
        writer.writerow(_safe(cell) for cell in (row.number, row.name, *row.cells))
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def to_xlsx(grid: Grid) -> bytes:
    """The grid as a workbook: numbers of students as texts, so that no zero is lost."""
    out = io.BytesIO()
    book = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False,
                                     "strings_to_urls": False})  # fmt: skip
    sheet: Any = book.add_worksheet("Results")
    text, head = book.add_format({"num_format": "@"}), book.add_format({"bold": True})
    for at, header in enumerate([NUMBER, NAME, *grid.headers]):
        sheet.write_string(0, at, header, head)
    for line, row in enumerate(grid.rows, start=1):
        sheet.write_string(line, 0, row.number, text)
        sheet.write_string(line, 1, row.name)
        for at, cell in enumerate(row.cells, start=2):
            figure = _figure(cell)
            if figure is not None:
                sheet.write_number(line, at, figure)
            elif cell:
                sheet.write_string(line, at, cell, text)
    sheet.freeze_panes(1, 2)
    sheet.set_column(0, 0, 16, text)
    sheet.set_column(1, 1, 28)
    sheet.set_column(2, 1 + len(grid.headers), 22)
    book.close()
    return out.getvalue()


def _figure(cell: str) -> float | None:
    try:
        value = float(cell)
    except ValueError:
        return None
    return value if np.isfinite(value) and f"{value:.10g}" == cell else None


def _safe(cell: str) -> str:
    """A negative figure is no formula."""
    return cell if _figure(cell) is not None else str(safe(cell))
