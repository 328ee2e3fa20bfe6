"""A file without the lines of some students: every other line keeps its number, so that what the
record says of them still leads to them.

A text stays a text in its own encoding; a workbook is written anew with what its cells hold, a
Parquet file with empty rows. Formats, formulas and pictures do not come along.
"""

from __future__ import annotations

import csv
import datetime as dt
import io
from typing import Any

import polars as pl
import xlsxwriter
from python_calamine import CalamineSheet, CalamineWorkbook

from bridge_chart.intake.reading.read import OLD_WORKBOOK, read_sheet
from bridge_chart.intake.reading.text import DELIMITERS, decoded
from bridge_chart.intake.reading.whose import Whose
from bridge_chart.intake.reading.workbook import unmerged
from bridge_chart.intake.said.settings import IntakeSettings


def without(
    name: str, data: bytes, said: IntakeSettings, whose: Whose, elsewhere: Whose
) -> tuple[bytes, list[int]]:
    """The file without their lines, and which those were in the table that is read. elsewhere: for
    the other tables of a workbook, of which the record says nothing."""
    if data[:4] == b"PAR1":
        return _parquet(data, whose)
    if data[:4] == b"PK\x03\x04" or data[:8] == OLD_WORKBOOK:
        table = read_sheet(name, data, said.model_copy(update={"lines": []})).how.table
        return _workbook(data, table, whose, elsewhere)
    return _text(name, data, said, whose)


def _text(name: str, data: bytes, said: IntakeSettings, whose: Whose) -> tuple[bytes, list[int]]:
    how = read_sheet(name, data, said.model_copy(update={"lines": []})).how
    delimiter = next(key for key, word in DELIMITERS.items() if word == how.delimiter)
    wanted = said.decisions.get("encoding", "") or said.reading.encoding
    text, encoding, _ = decoded(name, data, wanted)
    lines = text.split("\n")
    reader = csv.reader(io.StringIO(text), delimiter=delimiter)
    before, gone = 0, []
    for row in reader:
        start, before = before + 1, reader.line_num
        if whose.has(start, row):
            gone.append(start)
            lines[start - 1 : before] = [""] * (before - start + 1)
    return ("\n".join(lines).encode(encoding), gone) if gone else (data, [])


def _parquet(data: bytes, whose: Whose) -> tuple[bytes, list[int]]:
    frame = pl.read_parquet(io.BytesIO(data))
    rows = frame.cast(pl.String, strict=False).fill_null("").rows()
    gone = [at for at, row in enumerate(rows) if whose.has(at + 1, row)]
    if not gone:
        return data, []
    stays = ~pl.Series(range(frame.height)).is_in(gone)
    held = [pl.when(stays).then(pl.col(name)).alias(name) for name in frame.columns]
    out = io.BytesIO()
    frame.select(held).write_parquet(out)
    return out.getvalue(), [at + 1 for at in gone]


def _workbook(data: bytes, table: str, whose: Whose, elsewhere: Whose) -> tuple[bytes, list[int]]:
    book = CalamineWorkbook.from_filelike(io.BytesIO(data))
    out = io.BytesIO()
    shown = {one.name: "isible" in str(one.visible) for one in book.sheets_metadata}
    changed, gone = False, []
    with xlsxwriter.Workbook(
        out, {"in_memory": True, "default_date_format": "yyyy-mm-dd hh:mm:ss",
              "strings_to_formulas": False, "strings_to_urls": False},
    ) as made:  # fmt: skip
        for title in book.sheet_names:
            sheet = made.add_worksheet(title)
            if not shown.get(title, True):
                sheet.hide()
            one = whose if title == table else elsewhere
            lost = _copied(book.get_sheet_by_name(title), sheet, one)
            changed = changed or bool(lost)
            gone += lost if title == table else []
    return (out.getvalue() if changed else data), gone


def _copied(source: CalamineSheet, sheet: Any, whose: Whose) -> list[int]:
    """Write a sheet's cells where they stood; which lines were left out."""
    first, left = source.start or (0, 0)
    gone = []
    rows = unmerged(source)
    for at, row in enumerate(rows):
        line = at + first + 1
        if whose.has(line, [_told(cell) for cell in row]):
            gone.append(line)
            continue
        for place, cell in enumerate(row):
            _write(sheet, at + first, place + left, cell)
    return gone


def _told(cell: Any) -> str:
    return str(int(cell)) if isinstance(cell, float) and cell.is_integer() else str(cell)


def _write(sheet: Any, row: int, column: int, cell: Any) -> None:
    if cell in ("", None):
        return
    if isinstance(cell, bool):
        sheet.write_boolean(row, column, cell)
    elif isinstance(cell, int | float):
        sheet.write_number(row, column, cell)
    elif isinstance(cell, dt.datetime | dt.date | dt.time | dt.timedelta):
        sheet.write_datetime(row, column, cell)
    else:
        sheet.write_string(row, column, str(cell))
