"""Workbooks (XLSX, XLS, ODS) and Parquet as lines of texts."""

from __future__ import annotations

import datetime as dt
import io
import zipfile
from typing import Any
from xml.parsers import expat

import numpy as np
import polars as pl
from python_calamine import CalamineSheet, CalamineWorkbook

from bridge_chart.intake.reading.extent import MOST_CELLS, refuse_far_cells
from bridge_chart.intake.reading.sheet import (
    KEPT,
    MOST_COLUMNS,
    MOST_ROWS,
    Grid,
    How,
    Remark,
    trimmed,
)
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.wording import amount

MOST_UNPACKED = 600 << 20
"""Bytes that an archive may hold when unpacked."""
MOST_PARTS = 5000
BLANK = ("", None)


def refuse_bomb(name: str, data: bytes) -> None:
    """Unpack an archive once in small pieces, before anything reads it whole: what it says of its
    own size may be a lie."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            parts = archive.infolist()
            total = 0
            if len(parts) > MOST_PARTS:
                raise _bomb(name, f"{len(parts)} files")
            for part in parts:
                with archive.open(part) as handle:
                    while piece := handle.read(1 << 20):
                        total += len(piece)
                        if total > MOST_UNPACKED:
                            raise _bomb(name, f"more than {MOST_UNPACKED >> 20} MB")
    except UnreadableFile:
        raise
    except Exception as error:
        raise UnreadableFile(
            f"{name} is damaged and cannot be unpacked.",
            kept=KEPT,
            next_step="Export it again, and bring in that file.",
        ) from error


def _bomb(name: str, holds: str) -> UnreadableFile:
    return UnreadableFile(
        f"{name} must hold at most {MOST_UNPACKED >> 20} MB and {MOST_PARTS} files when unpacked. "
        f"It holds {holds} instead.",
        kept=KEPT,
        next_step="Bring the tables in one by one, as CSV.",
    )


def read_workbook(name: str, data: bytes, wanted: str) -> Grid:
    """The table that is wanted, or the largest visible one."""
    if data[:2] == b"PK":
        refuse_bomb(name, data)
        _refuse_far(name, data)
    try:
        book = CalamineWorkbook.from_filelike(io.BytesIO(data))
        names = list(book.sheet_names)
        visible = [
            meta.name for meta in book.sheets_metadata if "isible" in str(meta.visible)
        ] or names
        sheets = {title: book.get_sheet_by_name(title) for title in names}
    except Exception as error:
        raise UnreadableFile(
            f"{name} cannot be read as a workbook: it is damaged, or locked by a password.",
            kept=KEPT,
            next_step="Open it, save it without a password, and bring in that file; or save the "
            "sheet as CSV.",
        ) from error
    held = [title for title in names if sheets[title].total_height > 0]
    if not held:
        raise UnreadableFile(
            f"{name} has no filled sheet.", kept=KEPT,
            next_step="Export it again, and bring in that file.",
        )  # fmt: skip
    if wanted and wanted not in held:
        raise UnreadableFile(
            f"{name} has no filled sheet “{wanted}”. It has {', '.join(held)} instead.", kept=KEPT,
        )  # fmt: skip
    shown = [title for title in held if title in visible] or held
    title = wanted or max(shown, key=lambda one: _size(sheets[one]))
    cells, lines, filled = _texts(name, sheets[title])
    remarks = [_tables(title, held)] if len(held) > 1 else []
    if filled:
        remarks.append(
            Remark("merged", "done", "Merged cells filled", f"{filled} cells that were merged "
                   "downwards hold the value of the first")
        )  # fmt: skip
    kind = "workbook"
    return Grid(cells, lines, How(kind, table=title, tables=tuple(held)), tuple(remarks))


def _refuse_far(name: str, data: bytes) -> None:
    try:
        refuse_far_cells(name, data)
    except expat.ExpatError:
        return  # no XML: what reads it whole says so in its words


def _size(sheet: CalamineSheet) -> int:
    return int(sheet.height * sheet.width)


def _tables(title: str, held: list[str]) -> Remark:
    others = tuple((f"table:{one}", one) for one in held if one != title)
    return Remark(
        "table", "ask", f"The file has {len(held)} sheets; “{title}” is read",
        "The others are left alone. Bring the file in again for each", (),
        ((f"table:{title}", title), *others),
    )  # fmt: skip


def _texts(name: str, sheet: CalamineSheet) -> tuple[pl.DataFrame, Any, int]:
    start = sheet.start or (0, 0)
    if sheet.width > MOST_COLUMNS:
        raise UnreadableFile(
            f"{name} has {sheet.width} columns; the most that can be read is {MOST_COLUMNS}.",
            kept=KEPT,
        )
    if sheet.height > MOST_ROWS:
        raise UnreadableFile(f"{name} has more than {amount(MOST_ROWS)} rows.", kept=KEPT)
    rows = [[_text(cell) for cell in row] for row in sheet.to_python(skip_empty_area=True)]
    filled = _unmerge(rows, sheet.merged_cell_ranges or [], start)
    width = max((len(row) for row in rows), default=0)
    lines = [at + start[0] + 1 for at, row in enumerate(rows) if any(cell.strip() for cell in row)]
    kept = [row + [""] * (width - len(row)) for row in rows if any(cell.strip() for cell in row)]
    schema = {f"c{at}": pl.String for at in range(width)}
    frame = pl.DataFrame(kept, schema=schema, orient="row")
    return trimmed(frame), np.array(lines, np.int64), filled


def unmerged(sheet: CalamineSheet) -> list[list[Any]]:
    """The cells of a sheet as it holds them, those filled that are merged downwards."""
    rows = [list(row) for row in sheet.to_python(skip_empty_area=True)]
    _unmerge(rows, sheet.merged_cell_ranges or [], sheet.start or (0, 0))
    return rows


def _unmerge(rows: list[list[Any]], ranges: Any, start: tuple[int, int]) -> int:
    """Fill cells that are merged downwards; those merged across are left to the column names."""
    filled = 0
    for (top, left), (bottom, _) in ranges:
        at, column = top - start[0], left - start[1]
        if bottom == top or not (0 <= at < len(rows) and 0 <= column < len(rows[at])):
            continue
        value = rows[at][column]
        for line in range(at + 1, min(bottom - start[0] + 1, len(rows))):
            if value not in BLANK and rows[line][column] in BLANK:
                rows[line][column] = value
                filled += 1
    return filled


def _text(cell: Any) -> str:
    """A cell as a person would write it: whole numbers without a point, dates year first.

    >>> [_text(x) for x in (12.0, 0.5, True, dt.datetime(2026, 5, 12), None, " a ")]
    ['12', '0.5', 'TRUE', '2026-05-12', '', ' a ']
    """
    if isinstance(cell, str):
        return cell
    if cell is None:
        return ""
    if isinstance(cell, bool):
        return "TRUE" if cell else "FALSE"
    if isinstance(cell, float):
        return str(int(cell)) if cell.is_integer() and abs(cell) < 1e15 else repr(cell)
    if isinstance(cell, dt.datetime) and cell.time() == dt.time():
        return cell.date().isoformat()
    return str(cell)


def parquet_size(name: str, data: bytes) -> tuple[int, int]:
    """Rows and columns of a Parquet file by its footer, nothing else read."""
    try:
        scan = pl.scan_parquet(io.BytesIO(data))
        columns = len(scan.collect_schema())
        return int(scan.select(pl.len()).collect().item()), columns
    except Exception as error:
        raise UnreadableFile(
            f"{name} is damaged and cannot be read.", kept=KEPT,
            next_step="Export it again, and bring in that file.",
        ) from error  # fmt: skip


def read_parquet(name: str, data: bytes) -> Grid:
    """A Parquet file; its rows are numbered from 1 below a line of column names."""
    rows, columns = parquet_size(name, data)
    if columns > MOST_COLUMNS or rows > MOST_ROWS or rows * columns > MOST_CELLS:
        raise UnreadableFile(
            f"{name} has {amount(columns)} columns and {amount(rows)} rows; the most that can be "
            f"read are {amount(MOST_COLUMNS)} and {amount(MOST_ROWS)}, and {amount(MOST_CELLS)} "
            "cells.", kept=KEPT,
        )  # fmt: skip
    try:
        frame = pl.read_parquet(io.BytesIO(data))
    except Exception as error:
        raise UnreadableFile(
            f"{name} is damaged and cannot be read.", kept=KEPT,
            next_step="Export it again, and bring in that file.",
        ) from error  # fmt: skip
    nested = [c for c, kind in frame.schema.items() if kind.is_nested() or kind == pl.Binary]
    if nested:
        raise UnreadableFile(
            f"{name}: the column “{nested[0]}” must hold single values. It holds lists or bytes "
            "instead.", kept=KEPT,
        )  # fmt: skip
    texts = [_column_text(series) for series in frame.get_columns()]
    head = pl.DataFrame({f"c{at}": [series.name] for at, series in enumerate(frame.get_columns())})
    body = pl.DataFrame({f"c{at}": series for at, series in enumerate(texts)})
    cells = trimmed(pl.concat([head, body])) if texts else head
    told = cells.with_row_index("line").filter(pl.any_horizontal(pl.exclude("line") != ""))
    lines = told["line"].to_numpy().astype(np.int64)
    return Grid(told.drop("line"), lines, How("Parquet", header_line=0))


def _column_text(series: pl.Series) -> pl.Series:
    if series.dtype.is_float():
        whole = (series == series.round(0)).all() and series.abs().max() is not None
        if whole and (series.abs().max() or 0) < 1e15:  # type: ignore[operator]
            return series.cast(pl.Int64, strict=False).cast(pl.String).fill_null("")
    if series.dtype == pl.Datetime:
        return series.dt.to_string("%Y-%m-%d").fill_null("")
    return series.cast(pl.String).fill_null("")
