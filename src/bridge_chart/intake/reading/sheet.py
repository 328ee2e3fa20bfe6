"""What reading gives: a table of texts, how it was read, and what was left out of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.said.settings import LineRole

KEPT = "Nothing was changed."
UNDOABLE = ("totals", "notes", "names_again")
SHAPES_READING = (*UNDOABLE, "table", "encoding")
"""Decisions that change how a file is read."""
MOST_COLUMNS = 2000
AROUND = (
    " \t\r\n\x0b\x0c\x85\u00a0\u1680\u2028\u2029\u202f\u205f\u3000\ufeff\u200b\u200e\u200f"
    + "".join(chr(code) for code in range(0x2000, 0x200B))
)
"""Blanks of every kind, and marks of no width."""
MOST_ROWS = 4_000_000


@dataclass(frozen=True)
class Remark:
    """Something that reading did with lines of the file, or chose: a finding in the making.
    `choices`: (key, words); the first is what was done."""

    key: str
    kind: str
    title: str
    detail: str
    lines: tuple[int, ...] = ()
    choices: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True)
class How:
    """How a file was read. `tables`: the tables that it holds; `header_lines`: lines that hold
    the column names; `width`: columns, `titles`: filled lines above the names."""

    format: str
    encoding: str = ""
    delimiter: str = ""
    table: str = ""
    tables: tuple[str, ...] = ()
    header_line: int = 1
    header_lines: int = 1

    @property
    def words(self) -> str:
        """As people say it.

        >>> How("text", encoding="UTF-8", delimiter="commas").words
        'commas, UTF-8'
        """
        if self.format == "text":
            return f"{self.delimiter}, {self.encoding}"
        several = f", table “{self.table}” of {len(self.tables)}" if len(self.tables) > 1 else ""
        return f"{self.format}{several}"


@dataclass(frozen=True)
class Grid:
    """Every filled line of a table as trimmed texts, the column names not yet told from the rest.
    `lines`: the file's own line numbers; `widths`: how many cells the first lines really have,
    where a line may be shorter than the table."""

    cells: pl.DataFrame
    lines: NDArray[np.int64]
    how: How
    remarks: tuple[Remark, ...] = ()
    widths: tuple[int, ...] = ()


@dataclass(frozen=True)
class TopLine:
    """One of the file's first lines as it has them, and what it was taken for."""

    line: int
    role: LineRole
    cells: list[str]


@dataclass(frozen=True)
class Sheet:
    """A table of trimmed texts; columns are named c0, c1 … `lines`: the file's line numbers;
    `left_out`: lines that are no rows (titles, totals, notes), by their number; `said`: what a
    person said of single lines; `top`: the first lines as the file has them."""

    name: str
    headers: tuple[str, ...]
    cells: pl.DataFrame
    lines: NDArray[np.int64]
    how: How
    remarks: tuple[Remark, ...] = ()
    left_out: dict[int, list[str]] = field(default_factory=dict)
    said: dict[int, str] = field(default_factory=dict)
    top: tuple[TopLine, ...] = ()

    def column(self, index: int) -> pl.Series:
        return self.cells.to_series(index)

    def only(self, lines: Sequence[int]) -> Sheet:
        """The sheet with just these lines of the file."""
        stay = np.isin(self.lines, np.asarray(list(lines), np.int64))
        return replace(self, cells=self.cells.filter(pl.Series(stay)), lines=self.lines[stay])

    def rows_at(self, lines: Sequence[int]) -> list[tuple[int, list[str]]]:
        """The file's rows with these line numbers, in the file's order."""
        at = np.flatnonzero(np.isin(self.lines, np.asarray(list(lines), np.int64)))
        rows = [(int(self.lines[n]), list(self.cells.row(int(n)))) for n in at]
        rows += [(line, self.left_out[line]) for line in lines if line in self.left_out]
        return sorted(dict(rows).items())


def trimmed(frame: pl.DataFrame) -> pl.DataFrame:
    """Every cell without blanks around it (hard spaces and marks of no width included), and without
    the apostrophe by which an export keeps a spreadsheet from running it."""
    return pl.DataFrame([_trimmed(frame.to_series(at)) for at in range(frame.width)])


def _trimmed(cells: pl.Series) -> pl.Series:
    bare = cells.fill_null("").str.strip_chars(AROUND)
    if bare.str.starts_with("'").any():
        bare = bare.str.replace(r"^'([=+\-@\d])", "$1")
    return bare
