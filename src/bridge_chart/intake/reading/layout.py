"""Which lines of a table hold column names, which hold rows, and which are neither."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.reading.heading_lines import LOOK, Lines, joined, names_at
from bridge_chart.intake.reading.sheet import KEPT, Grid, Remark, Sheet, TopLine
from bridge_chart.intake.reading.text import too_many_cells
from bridge_chart.intake.said.settings import HowToRead, LineRole
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.wording import count

LINE_ROLES = ("maximum", "topic", "left_out", "row")
SHOWN = 12
"""How many of the first lines are shown as the file has them."""
TOTALS = r"(?i)^(grand |sub ?)?(total|sum|average|mean|median|count|overall)s?\b"
NOTE_WORDS = 3


def lay_out(name: str, grid: Grid, how: HowToRead, keep: frozenset[str]) -> Sheet:
    """The sheet of a grid. how: which lines a person said what of; keep: remarks that a person
    undid (“totals”, “notes”, “names_again”)."""
    if grid.cells.height == 0:
        raise UnreadableFile(
            f"{name} is empty.", kept=KEPT, next_step="Export it again, and bring in that file."
        )
    top = [list(row) for row in grid.cells.head(LOOK).rows()]
    told = _told(name, grid, len(top), how)
    places = [at for at, role in told.items() if role == "names"]
    if not places:
        places = [*names_at(name, grid, top, how.header_line, how.header_lines)]
    unnamed = not places and how.header_line is None
    headers = (
        joined([top[at] for at in places])
        if places
        else [f"Column {n + 1}" for n in range(len(top[0]))]
    )
    after = max(places, default=-1) + 1
    special = [at for at, role in told.items() if role in LINE_ROLES and at not in places]
    above = [at for at in special if at < after and told[at] != "left_out"]
    body = pl.concat([grid.cells[above], grid.cells.slice(after)])
    numbers = np.concatenate([grid.lines[above], grid.lines[after:]])
    last = after - 1
    said = grid.widths[last] if 0 <= last < len(grid.widths) - 1 else 0
    width = _width(name, headers, body, numbers, said)
    body = body.select(body.columns[:width])
    if body.height == 0:
        raise UnreadableFile(
            f"{name} has column names but no rows.",
            kept=KEPT,
            next_step="Check that the export finished, then bring the file in again.",
        )
    remarks = [*grid.remarks, *_remarks(grid, top, places, headers, unnamed)]
    left, more = _no_rows(body, numbers, headers[:width], keep)
    out = {int(grid.lines[at]) for at in special if told[at] == "left_out"}
    left |= set(np.flatnonzero(np.isin(numbers, list(out))).tolist())
    stay = ~np.isin(np.arange(body.height), list(left))
    where = int(grid.lines[places[0]]) if places else 0
    return Sheet(
        name,
        tuple(headers[:width]),
        body.filter(pl.Series(stay)),
        numbers[stay],
        replace(grid.how, header_line=where, header_lines=max(len(places), 1)),
        tuple(remarks + more),
        {int(numbers[row]): list(body.row(row)) for row in sorted(left)},
        {int(grid.lines[at]): told[at] for at in special},
        _shown(grid, top, places, told, left, numbers),
    )


def _told(name: str, grid: Grid, look: int, how: HowToRead) -> dict[int, LineRole]:
    """Places of the lines that somebody said what they are of."""
    place = {int(line): at for at, line in enumerate(grid.lines[:look])}
    unknown = [line for line in how.lines if line not in place]
    if unknown:
        raise UnreadableFile(
            f"{name} has no filled line {unknown[0]} among its first {look}.", kept=KEPT
        )
    return {place[line]: role for line, role in sorted(how.lines.items())}


def _shown(
    grid: Grid, top: Lines, places: list[int], told: dict[int, LineRole], left: set[int],
    numbers: NDArray[np.int64],
) -> tuple[TopLine, ...]:  # fmt: skip
    """The first lines of the file as it has them, with what each was taken for."""
    gone = {int(numbers[row]) for row in left}
    out = []
    for at, cells in enumerate(top[:SHOWN]):
        line = int(grid.lines[at])
        plain: LineRole = "names" if at in places else "row"
        if line in gone or at < min(places, default=0):
            plain = "left_out"
        out.append(TopLine(line, told.get(at, plain) if at not in places else "names", cells))
    return tuple(out)


def _remarks(
    grid: Grid, top: Lines, places: list[int], headers: list[str], unnamed: bool
) -> list[Remark]:
    """What was done with the lines at the top."""
    if unnamed:
        return [
            Remark("no_names", "ask", "No line of column names was found",
                   f"The first line reads “{' '.join(top[0])[:60]}”; the columns are numbered",
                   (int(grid.lines[0]),))
        ]  # fmt: skip
    remarks = [_titles(grid, top, places[0])] if places and places[0] > 0 else []
    if len(places) > 1:
        several = next((h for h in reversed(headers) if " " in h), headers[-1])
        remarks.append(
            Remark("two_headers", "done", f"Column names stand in {len(places)} lines",
                   f"They were put together, like “{several}”",
                   tuple(int(grid.lines[at]) for at in places))
        )  # fmt: skip
    return remarks


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
