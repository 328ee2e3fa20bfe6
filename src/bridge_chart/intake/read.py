"""Reading a delimited text file as it is: every cell a text, every row with its own line."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.terms.errors import UnreadableFile

DELIMITERS = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars"}
ENCODINGS = {
    "utf-8-sig": "UTF-8",
    "utf-16": "UTF-16",
    "cp1252": "Windows-1252",
    "latin-1": "Latin-1",
}
MOST_COLUMNS = 2000
KEPT = "Nothing was changed."


@dataclass(frozen=True)
class Sheet:
    """A table of trimmed texts; columns are named c0, c1 … `lines`: the file's line numbers."""

    name: str
    headers: tuple[str, ...]
    cells: pl.DataFrame
    lines: NDArray[np.int64]
    encoding: str
    delimiter: str

    def column(self, index: int) -> pl.Series:
        return self.cells.to_series(index)


def read_sheet(name: str, data: bytes) -> Sheet:
    """Read delimited text in any usual encoding; UnreadableFile says what is wrong with it."""
    text, encoding = _decode(name, data)
    first = text.split("\n", 1)[0]
    delimiter = max(DELIMITERS, key=first.count)
    try:
        header = next(csv.reader(io.StringIO(text), delimiter=delimiter), [])
    except csv.Error as error:
        raise UnreadableFile(f"{name} cannot be read as a table: {error}.", kept=KEPT) from error
    if not any(cell.strip() for cell in header):
        raise UnreadableFile(
            f"{name} must have its column names in the first line. That line is empty instead.",
            kept=KEPT,
            next_step="Remove the lines above the column names and bring the file in again.",
        )
    if len(header) > MOST_COLUMNS:
        raise UnreadableFile(
            f"{name} has {len(header)} columns; the most that can be read is {MOST_COLUMNS}.",
            kept=KEPT,
        )
    cells, lines = _cells(name, text, delimiter, len(header))
    if cells.height == 0:
        raise UnreadableFile(
            f"{name} has column names but no rows.",
            kept=KEPT,
            next_step="Check that the export finished, then bring the file in again.",
        )
    headers = tuple(h.strip() or f"Column {at + 1}" for at, h in enumerate(header))
    return Sheet(name, headers, cells, lines, ENCODINGS[encoding], DELIMITERS[delimiter])


def _decode(name: str, data: bytes) -> tuple[str, str]:
    if not data.strip():
        raise UnreadableFile(
            f"{name} is empty.", kept=KEPT, next_step="Export it again, and bring in that file."
        )
    if data[:4] == b"PK\x03\x04" or data[:8] == b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1":
        raise UnreadableFile(
            f"{name} is a workbook or an archive; this place reads delimited text (CSV).",
            kept=KEPT,
            next_step="Save the sheet as CSV and bring in that file.",
        )
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        encodings = ["utf-16"]
    else:
        encodings = ["utf-8-sig", "cp1252", "latin-1"]
    for encoding in encodings:
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\0" in text:
            break
        return text.replace("\r\n", "\n").replace("\r", "\n"), encoding
    raise UnreadableFile(
        f"{name} is not a text file.",
        kept=KEPT,
        next_step="Export it as CSV, encoded in UTF-8, and bring in that file.",
    )


def _cells(
    name: str, text: str, delimiter: str, width: int
) -> tuple[pl.DataFrame, NDArray[np.int64]]:
    names = [f"c{at}" for at in range(width)]
    body = text.rstrip("\n")
    first = body.split("\n", 1)[0]
    plain = "\n\n" not in body and first.count('"') % 2 == 0
    if plain and width > 1:
        try:
            frame = pl.read_csv(
                body.encode(),
                separator=delimiter,
                has_header=False,
                skip_rows=1,
                new_columns=names,
                schema=dict.fromkeys(names, pl.String),
            )
        except pl.exceptions.PolarsError:
            frame = None
        if frame is not None and frame.height == body.count("\n"):
            return _trimmed(frame), np.arange(2, frame.height + 2)
    return _cells_slowly(name, text, delimiter, names)


def _cells_slowly(
    name: str, text: str, delimiter: str, names: list[str]
) -> tuple[pl.DataFrame, NDArray[np.int64]]:
    """Line breaks inside cells, blank or ragged lines: exact lines matter more than speed."""
    rows: list[list[str]] = []
    lines: list[int] = []
    reader = csv.reader(io.StringIO(text), delimiter=delimiter)
    before = 0
    try:
        for at, row in enumerate(reader):
            start, before = before + 1, reader.line_num
            if at == 0 or not any(cell.strip() for cell in row):
                continue
            if any(cell.strip() for cell in row[len(names) :]):
                raise UnreadableFile(
                    f"{name}, line {start}: there must be {len(names)} cells. "
                    f"There are {len(row)} instead.",
                    kept=KEPT,
                    next_step="Put quotation marks around cells that hold the delimiter, "
                    "or remove the extra cells.",
                )
            rows.append((row + [""] * len(names))[: len(names)])
            lines.append(start)
    except csv.Error as error:
        raise UnreadableFile(f"{name}, line {reader.line_num}: {error}.", kept=KEPT) from error
    frame = pl.DataFrame(rows, schema=dict.fromkeys(names, pl.String), orient="row")
    return _trimmed(frame), np.array(lines, np.int64)


def _trimmed(frame: pl.DataFrame) -> pl.DataFrame:
    return frame.select(pl.all().fill_null("").str.strip_chars())
