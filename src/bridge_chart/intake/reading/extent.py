"""How far a workbook's sheets reach, before anything reads them whole.

A reader makes room for every cell of the rectangle that a sheet fills: one cell in the far corner,
or one that says it is repeated a million times, asks for hundreds of gigabytes. Parts are gone
through in small pieces here and only counted.
"""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Iterator
from xml.parsers import expat

from bridge_chart.intake.reading.sheet import KEPT
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.wording import amount

MOST_CELLS = 40_000_000
"""Cells of the rectangle that a table fills."""
PIECE = 1 << 20
CELL = re.compile(rb'\br="([A-Z]{1,3})([0-9]{1,7})"')
TABLE = "urn:oasis:names:tc:opendocument:xmlns:table:1.0"
OFFICE = "urn:oasis:names:tc:opendocument:xmlns:office:1.0"


def refuse_far_cells(name: str, data: bytes) -> None:
    """UnreadableFile where a sheet of a workbook fills more than MOST_CELLS."""
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        parts = archive.namelist()
        for part in parts:
            if part.startswith("xl/worksheets/") and part.endswith(".xml"):
                _refuse_far_sheet(name, archive, part)
        if "content.xml" in parts and "mimetype" in parts:
            _refuse_repeated(name, archive)


def _pieces(archive: zipfile.ZipFile, part: str) -> Iterator[bytes]:
    with archive.open(part) as handle:
        while piece := handle.read(PIECE):
            yield piece


def _go_through(
    archive: zipfile.ZipFile, part: str, counter: _Box | _Repeats, separator: str | None
) -> None:
    """Show a counter every element of a part, in small pieces."""
    parser = expat.ParserCreate(namespace_separator=separator)
    parser.StartElementHandler = counter.start
    parser.EndElementHandler = counter.end
    for piece in _pieces(archive, part):
        parser.Parse(piece, False)


def column_number(letters: bytes) -> int:
    """The place of a column, from 1.

    >>> column_number(b"A"), column_number(b"AA"), column_number(b"XFD")
    (1, 27, 16384)
    """
    out = 0
    for letter in letters:
        out = out * 26 + letter - 64
    return out


def _refuse_far_sheet(name: str, archive: zipfile.ZipFile, part: str) -> None:
    """First by every address that stands in the part; where those reach far, by filled cells."""
    rows, columns, left = 0, 0, b""
    for piece in _pieces(archive, part):
        held = left + piece
        found = CELL.findall(held)
        if found:
            columns = max(columns, max(map(column_number, {one for one, _ in found})))
            rows = max(rows, max(map(int, {one for _, one in found})))
        left = held[-40:]
    if rows * columns > MOST_CELLS:
        _refuse_far_filled(name, archive, part)


def _refuse_far_filled(name: str, archive: zipfile.ZipFile, part: str) -> None:
    """By the cells that hold something: an empty one may be formatted wherever it likes."""
    box = _Box()
    _go_through(archive, part, box, None)
    if box.cells > MOST_CELLS:
        raise UnreadableFile(
            f"{name} has a filled cell at {box.farthest}, so that its table would have "
            f"{amount(box.cells)} cells; the most that can be read are {amount(MOST_CELLS)}.",
            kept=KEPT, next_step="Delete what stands far from the table, and bring it in again.",
        )  # fmt: skip


class _Box:
    """The rectangle around the filled cells of a sheet."""

    def __init__(self) -> None:
        self.at, self.farthest = "", ""
        self.row, self.column = 0, 0

    def start(self, tag: str, attributes: dict[str, str]) -> None:
        tag = tag.rsplit(":", 1)[-1]
        if tag == "c":
            self.at = attributes.get("r", "")
        elif tag in ("v", "is") and self.at:
            found = CELL.match(f'r="{self.at}"'.encode())
            if found:
                row, column = int(found[2]), column_number(found[1])
                if row > self.row or column > self.column:
                    self.farthest = self.at
                self.row, self.column = max(self.row, row), max(self.column, column)

    def end(self, tag: str) -> None:
        """Nothing is counted at an end."""

    @property
    def cells(self) -> int:
        return self.row * self.column


def _refuse_repeated(name: str, archive: zipfile.ZipFile) -> None:
    """Cells of an OpenDocument sheet that say they are repeated."""
    counter = _Repeats()
    _go_through(archive, "content.xml", counter, " ")
    if counter.most > MOST_CELLS:
        raise UnreadableFile(
            f"{name} has cells that are repeated until its table has {amount(counter.most)} cells; "
            f"the most that can be read are {amount(MOST_CELLS)}.",
            kept=KEPT, next_step="Save the table alone as CSV, and bring in that file.",
        )  # fmt: skip


class _Repeats:
    """The rectangle that each table of an OpenDocument workbook fills, by what is repeated."""

    def __init__(self) -> None:
        self.most = 0
        self.height = self.width = 0
        self.filled_row = self.filled_width = self.across = self.row_times = 0

    def start(self, tag: str, attributes: dict[str, str]) -> None:
        def times(what: str) -> int:
            text = attributes.get(f"{TABLE} {what}", "1")
            return int(text) if text.isdecimal() and len(text) < 12 else 1

        if tag == f"{TABLE} table":
            self.height = self.width = self.filled_row = 0
        elif tag == f"{TABLE} table-row":
            self.row_times = times("number-rows-repeated")
            self.across = self.filled_width = 0
        elif tag in (f"{TABLE} table-cell", f"{TABLE} covered-table-cell"):
            self.across += times("number-columns-repeated")
            if f"{OFFICE} value-type" in attributes:
                self.filled_width = self.across

    def end(self, tag: str) -> None:
        if tag == f"{TABLE} table-row":
            self.height += self.row_times
            if self.filled_width:
                self.filled_row = self.height
            self.width = max(self.width, self.filled_width)
        elif tag == f"{TABLE} table":
            self.most = max(self.most, self.filled_row * self.width)
