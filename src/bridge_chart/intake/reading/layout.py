"""Which lines of a table hold column names, which hold rows, and which are neither."""

from __future__ import annotations

import re
from dataclasses import replace

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.reading.sheet import KEPT, Grid, Remark, Sheet
from bridge_chart.intake.reading.text import too_many_cells
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.wording import count

LOOK = 40
"""How many lines are looked at for the column names."""
NUMBER = re.compile(r"^[+\-−]?[\d.,\s']*\d%?$")
TOTALS = r"(?i)^(grand |sub ?)?(total|sum|average|mean|median|count|overall)s?\b"
UNIT = re.compile(r"(?i)^(\(.*\)|\[.*\]|marks?|%|percent|points?|out of \d+|/ ?\d+)$")
NOTE_WORDS = 3


def lay_out(
    name: str,
    grid: Grid,
    header_line: int | None,
    header_lines: int | None,
    keep: frozenset[str],
) -> Sheet:
    """The sheet of a grid. `header_line`: the line with the names as a person said it (0: there
    is none); `keep`: remarks that a person undid (“totals”, “notes”, “names_again”)."""
    if grid.cells.height == 0:
        raise UnreadableFile(
            f"{name} is empty.", kept=KEPT, next_step="Export it again, and bring in that file."
        )
    top = [list(row) for row in grid.cells.head(LOOK).rows()]
    at = _header_at(name, grid, top, header_line)
    unnamed = at < 0 and header_line is None
    lines = header_lines or (_header_lines(top, at) if at >= 0 else 0)
    headers = _names(top, at, lines) if at >= 0 else [f"Column {n + 1}" for n in range(len(top[0]))]
    body = grid.cells.slice(at + max(lines, 1) if at >= 0 else 0)
    numbers = grid.lines[grid.cells.height - body.height :]
    said = grid.widths[at + max(lines, 1) - 1] if 0 <= at < len(grid.widths) - 1 else 0
    width = _width(name, headers, body, numbers, said)
    body = body.select(body.columns[:width])
    if body.height == 0:
        raise UnreadableFile(
            f"{name} has column names but no rows.",
            kept=KEPT,
            next_step="Check that the export finished, then bring the file in again.",
        )
    remarks = list(grid.remarks)
    if unnamed:
        remarks.append(
            Remark("no_names", "ask", "No line of column names was found",
                   f"The first line reads “{' '.join(top[0])[:60]}”; the columns are numbered",
                   (int(grid.lines[0]),))
        )  # fmt: skip
    if at > 0:
        remarks.append(_titles(grid, top, at))
    if lines > 1:
        joined = f"“{headers[-1]}”"
        remarks.append(
            Remark("two_headers", "done", f"Column names stand in {lines} lines",
                   f"They were put together, like {joined}",
                   tuple(int(n) for n in grid.lines[at : at + lines]))
        )  # fmt: skip
    left, more = _no_rows(body, numbers, headers[:width], keep)
    remarks += more
    stay = ~np.isin(np.arange(body.height), list(left))
    where = int(grid.lines[at]) if at >= 0 else 0
    return Sheet(
        name,
        tuple(headers[:width]),
        body.filter(pl.Series(stay)),
        numbers[stay],
        replace(grid.how, header_line=where, header_lines=lines),
        tuple(remarks),
        {int(numbers[row]): list(body.row(row)) for row in sorted(left)},
    )


def _filled(row: list[str]) -> int:
    return sum(1 for cell in row if cell)


def _header_at(name: str, grid: Grid, top: list[list[str]], said: int | None) -> int:
    """Place of the line with the column names; −1 where there is none."""
    if said == 0:
        return -1
    if said is not None:
        places = np.flatnonzero(grid.lines[: len(top)] == said)
        if not len(places):
            raise UnreadableFile(
                f"{name} has no filled line {said} among its first {len(top)}.", kept=KEPT
            )
        return int(places[0])
    usual = float(np.median([_filled(row) for row in top[len(top) // 2 :]] or [1]))
    enough = min(max(2.0, 0.6 * usual), len(top[0]))
    found = next((at for at, row in enumerate(top) if _filled(row) >= enough), 0)
    here = top[found]
    for at in range(found + 1, min(found + 6, len(top))):
        # A line of words that fills the table tells more than a shorter one above it.
        fuller = _filled(top[at]) > _filled(here) and _filled(here) < 0.7 * len(here)
        if fuller and not any(NUMBER.match(cell) for cell in top[at] if cell):
            return at if _header_lines(top, found) < 2 else found
    if all(NUMBER.match(cell) for cell in here if cell):
        return -1
    return found - 1 if found and _spans(top[found - 1], here) else found


def _spans(upper: list[str], lower: list[str]) -> bool:
    """Whether the upper line names spans of columns: the lower one repeats names under them."""
    held = [cell.casefold() for cell in lower if cell]
    words = [cell for cell in upper if cell]
    plain = not any(NUMBER.match(cell) for cell in [*words, *held])
    fewer = 1 < len(words) < len(held)
    return fewer and plain and len(set(held)) < len(held)


def _header_lines(top: list[list[str]], at: int) -> int:
    """2 where the line below fills the gaps of merged names, or holds units alone."""
    if at + 2 > len(top) - 1:
        return 1
    first, second = top[at], top[at + 1]
    held = [cell for cell in second if cell]
    if not held or any(NUMBER.match(cell) for cell in held):
        return 1
    if not second[0] and all(UNIT.match(cell) for cell in held):
        return 2
    if _spans(first, second):
        return 2
    gaps = [n for n, cell in enumerate(first) if not cell and second[n]]
    # Names that are merged across leave gaps, and the line below them is blank where they are not.
    return 2 if gaps and _filled(first) and any(not cell for cell in second) else 1


def _names(top: list[list[str]], at: int, lines: int) -> list[str]:
    first = top[at]
    if lines < 2:
        return [cell or f"Column {n + 1}" for n, cell in enumerate(first)]
    second = top[at + 1]
    names, last = [], ""
    for n, (upper, lower) in enumerate(zip(first, second, strict=True)):
        last = upper or (last if lower else "")
        names.append(f"{last} {lower}".strip() or f"Column {n + 1}")
    return names


def _width(
    name: str, headers: list[str], body: pl.DataFrame, lines: NDArray[np.int64], said: int
) -> int:
    """Columns up to the last that has a name or a cell. `said`: the cells of the line of names in
    a delimited text, where a longer row is a slip of its delimiters; 0 elsewhere."""
    width = max((n + 1 for n, h in enumerate(headers) if h != f"Column {n + 1}"), default=0)
    for n in range(width, body.width):
        filled = (body.to_series(n) != "").arg_true().to_list()
        if filled and said and n >= said:
            found = max(k + 1 for k, cell in enumerate(body.row(filled[0])) if cell)
            raise too_many_cells(name, int(lines[filled[0]]), said, found)
        if filled:
            width = n + 1
    return width


def _titles(grid: Grid, top: list[list[str]], at: int) -> Remark:
    held = [" ".join(cell for cell in row if cell) for row in top[:at]]
    words = "; ".join(held[:2])
    return Remark(
        "titles", "done", f"{count(at, 'line')} above the column names left out",
        f"“{words[:120]}”", tuple(int(line) for line in grid.lines[:at]),
    )  # fmt: skip


def _no_rows(
    body: pl.DataFrame, lines: NDArray[np.int64], headers: list[str], keep: frozenset[str]
) -> tuple[set[int], list[Remark]]:
    """Rows that are totals, notes, or the column names once more."""
    filled = body.select(pl.sum_horizontal(pl.all() != "")).to_series()
    first = _first_texts(body)
    again = _again(body, headers)
    totals = first.str.contains(TOTALS) & (filled > 1) & ~again
    totals = totals & _no_number_first(body)
    notes = _notes(body, filled)
    out: set[int] = set()
    remarks = []
    for key, hits, title, detail in (
        ("totals", totals, "of totals", "They are no student’s"),
        ("notes", notes, "of notes below the rows", "Text in a single cell"),
        ("names_again", again, "that repeat the column names", "As at the top of a new page"),
    ):
        rows = hits.arg_true().to_list()
        if not rows:
            continue
        chosen = key in keep
        left = "" if chosen else " left out"
        remarks.append(
            Remark(
                key, "done", f"{count(len(rows), 'line')} {title}{left}",
                f"{detail}: “{' '.join(c for c in body.row(rows[0]) if c)[:60]}”",
                tuple(int(lines[row]) for row in rows),
                (("leave_out", "Leave out"), ("keep", "They are rows")),
            )
        )  # fmt: skip
        if not chosen:
            out.update(rows)
    return out, remarks


def _first_texts(body: pl.DataFrame) -> pl.Series:
    """The first filled cell of each row."""
    held = [pl.when(pl.col(c) != "").then(pl.col(c)) for c in body.columns]
    return body.select(pl.coalesce(*held).fill_null("")).to_series()


def _no_number_first(body: pl.DataFrame) -> pl.Series:
    """The word stands alone in front: nothing with a digit comes before it."""
    first = body.to_series(0)
    return ~first.str.contains(r"\d")


def _again(body: pl.DataFrame, headers: list[str]) -> pl.Series:
    same = [pl.col(c) == headers[n] for n, c in enumerate(body.columns)]
    return body.select(pl.all_horizontal(same)).to_series()


def _notes(body: pl.DataFrame, filled: pl.Series) -> pl.Series:
    """Sentences in a single cell at the end of a wide table."""
    hits = np.zeros(body.height, bool)
    if body.width >= 3:
        for row in range(body.height - 1, max(-1, body.height - 12), -1):
            text = next((cell for cell in body.row(row) if cell), "")
            if filled[row] > 1 or (text and len(text.split()) < NOTE_WORDS):
                break
            hits[row] = bool(text)
    return pl.Series(hits)
