"""Reading marks question by question: students down, questions across, a row of maximum marks."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.cells.findings import Findings, some
from bridge_chart.intake.cells.values import CODE_MEANS, numbers
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.terms.finding import ColumnInfo
from bridge_chart.terms.wording import count

NO_MARK = -1
HIGHEST_MARK = 1000
MAXIMUM_WORDS = r"(?i)^(max(imum)?|available|out of|possible)( marks?)?( available)?[.:]?$"


@dataclass(frozen=True)
class MarkGrid:
    """`marks`: (rows of the file, questions) int16, −1 = no mark; `maxima`: what the file says
    each question is worth, None where it does not; `topics`: what each is about, blank where it
    does not say; `columns`: the file's own columns; `told`: the rows that say these, no student's.
    Where the file has marks by strand, each strand stands as one question, and `by_strand` is
    true."""

    questions: tuple[str, ...]
    columns: tuple[int, ...]
    marks: NDArray[np.int16]
    maxima: tuple[int, ...] | None
    topics: tuple[str, ...]
    told: tuple[int, ...]
    by_strand: bool = False

    def totals(self) -> pl.Series:
        """Each row's marks added up; null where it has none at all."""
        held = self.marks >= 0
        total = np.where(held, self.marks, 0).sum(axis=1).astype(float)
        return pl.Series(np.where(held.any(axis=1), total, np.nan)).fill_nan(None)


TOPIC_WORDS = r"(?i)^(topics?|strands?|content( area)?|objectives?|skills?|domains?|areas?)[.:]?$"


TOLD = (("maximum", MAXIMUM_WORDS), ("topic", TOPIC_WORDS))
"""What a row above the students may say of the questions, and by which words it is known."""


def told_row(sheet: Sheet, columns: list[ColumnInfo], role: str, words: str) -> int | None:
    """The row that a person said is of a role, else the first that says so by its words instead of
    naming a student."""
    said = [line for line, what in sheet.said.items() if what == role]
    if said:
        found = np.flatnonzero(sheet.lines == said[0])
        return int(found[0]) if len(found) else None
    texts = [c.index for c in columns if c.role in ("number", "full_name", "family_name",
                                                    "given_name")]  # fmt: skip
    hits = pl.Series([False]).new_from_index(0, sheet.cells.height)
    for index in texts:
        hits |= sheet.column(index).str.contains(words)
    rows = [
        row for row in hits.arg_true().to_list() if sheet.said.get(int(sheet.lines[row])) != "row"
    ]
    return rows[0] if rows else None


def without_told(sheet: Sheet, columns: list[ColumnInfo], found: Findings) -> Sheet:
    """A sheet that has no marks by question, without the rows that say what each result is worth or
    is about: they are no student's, and nothing is kept of them."""
    if any(c.role == "question" or c.role.startswith("strand:") for c in columns):
        return sheet
    asked = ((role, told_row(sheet, columns, role, words)) for role, words in TOLD)
    rows = [row for _, row in asked if row is not None]
    if not rows:
        return sheet
    found.about_questions(rows)
    stay = ~np.isin(np.arange(sheet.cells.height), rows)
    return replace(sheet, cells=sheet.cells.filter(pl.Series(stay)), lines=sheet.lines[stay])


def read_marks(sheet: Sheet, columns: list[ColumnInfo], found: Findings) -> MarkGrid | None:
    """The grid, or None where no column holds a question's marks. A mark above its maximum, or
    one that is no whole number, is a stop."""
    asked = [c for c in columns if c.role == "question"]
    strands = [c for c in columns if c.role.startswith("strand:")]
    if not asked and not strands:
        return None
    if asked and strands:
        found.add(
            "strands_beside", "ask", f"{count(len(strands), 'column')} of strands not read",
            "Beside marks by question, strands are added up from the questions", [],
            n=len(strands),
        )  # fmt: skip
    by_strand, asked = not asked, asked or strands
    top, about = (told_row(sheet, columns, role, words) for role, words in TOLD)
    grid = np.full((sheet.cells.height, len(asked)), NO_MARK, np.int16)
    maxima: list[int | None] = []
    odd: dict[int, str] = {}
    for place, column in enumerate(asked):
        cells = sheet.column(column.index)
        values = numbers(cells)
        known = cells.str.to_lowercase().is_in(list(CODE_MEANS)) | (cells == "")
        whole = (values == values.round(0)) & values.is_between(0, HIGHEST_MARK)
        highest = values[top] if top is not None else None
        if highest is None and by_strand:
            highest = worth_of(column.header)
        within = whole & (values <= highest) if highest is not None else whole
        for row in (~within.fill_null(False) & ~known).arg_true().to_list():
            if row != about:
                odd.setdefault(row, f"{column.header}: {cells[row]}")
        held = within.fill_null(False).to_numpy()
        grid[held, place] = values.filter(within).to_numpy().astype(np.int16)
        maxima.append(int(highest) if highest is not None and 0 < highest <= HIGHEST_MARK else None)
    found.must_set_aside(
        "impossible_marks",
        f"{count(len(odd), 'row')} with a mark that cannot be",
        f"{some(list(odd.values()))}: above the maximum, or no whole number",
        sorted(odd),
    )
    said = [m for m in maxima if m is not None]
    return MarkGrid(
        questions=tuple(
            c.role.split(":", 1)[1] if by_strand else tidy_question(c.header) for c in asked
        ),
        columns=tuple(c.index for c in asked),
        marks=grid,
        maxima=tuple(said) if len(said) == len(maxima) else None,
        topics=tuple("" if about is None else sheet.column(c.index)[about] for c in asked),
        told=tuple(row for row in (top, about) if row is not None),
        by_strand=by_strand,
    )


def worth_of(header: str) -> int | None:
    """The marks that a column's name says there are.

    >>> worth_of("Number strand (max 20)"), worth_of("Shape /15"), worth_of("Strand 2: Data")
    (20, 15, None)
    """
    said = re.search(r"(?i)(?:/|out of|max(?:imum)?)[ :]*(\d+)|\((\d+)\)", header)
    return int(said[1] or said[2]) if said else None


def tidy_question(header: str) -> str:
    """A question's name as everybody writes it.

    >>> tidy_question("Question 12 b"), tidy_question("q7"), tidy_question("3")
    ('Q12b', 'Q7', 'Q3')
    """
    plain = re.sub(r"(?i)^q(uestion)?\s*", "", header.strip())
    return "Q" + re.sub(r"[\s()]+", "", plain) if plain[:1].isdigit() else header.strip()
