"""Reading marks question by question: students down, questions across, a row of maximum marks."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
import polars as pl
from numpy.typing import NDArray

from bridge_chart.intake.cells.chosen import (
    Chosen,
    check_chosen,
    holds_letters,
    marked,
    read_chosen,
    shortened,
)
from bridge_chart.intake.cells.findings import Findings, some
from bridge_chart.intake.cells.values import CODE_MEANS, numbers
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.store.mark_build import NOTHING, added_up
from bridge_chart.store.reference_tables import QuestionInfo, same
from bridge_chart.terms.finding import ColumnInfo
from bridge_chart.terms.wording import count

NO_MARK = -1
HIGHEST_MARK = 1000
ABOUT_A_QUESTION = ("question", "option", "written")
"""Roles of columns that are about one question of a test."""
OF_A_QUESTION = r"option|choice|chosen|answer|response|explanation|reason|why|wrote|working|marks?"
"""What stands behind a question's name in the name of a column."""
MAXIMUM_WORDS = r"(?i)^(max(imum)?|available|out of|possible)( marks?)?( available)?[.:]?$"


@dataclass(frozen=True)
class MarkGrid:
    """`marks`: (rows of the file, questions) int16 as the file has them, −1 = none; `maxima`: what
    it says each question is worth, None where it does not; `topics`: what each is about, blank
    where it does not say; `columns`: the file's own columns; `told`: the rows that say these, no
    student's; `chosen`: which option each chose, and what they wrote; `known`: what is known of
    the questions. Where the file has marks by strand, each strand stands as one question, and
    `by_strand` is true."""

    questions: tuple[str, ...]
    columns: tuple[int, ...]
    marks: NDArray[np.int16]
    maxima: tuple[int | None, ...]
    topics: tuple[str, ...]
    told: tuple[int, ...]
    by_strand: bool = False
    chosen: Chosen | None = None
    known: Mapping[str, QuestionInfo] = field(default_factory=dict)

    def totals(self) -> pl.Series:
        """Each row's marks added up, those of letters by the key; null where nothing is said."""
        marks, some_ = self.marks, np.asarray((self.marks >= 0).any(axis=1))
        if self.chosen is not None and self.chosen.choices.size:
            by_key = marked(self.chosen, self.questions, self.known, self.maxima)
            marks = np.where(by_key >= 0, by_key, marks)
            some_ |= (self.chosen.choices >= 0).any(axis=1)
        infos = [self.known.get(same(name)) for name in self.questions]
        total = added_up(np.where(some_[:, None], marks, NOTHING), infos)
        return pl.Series(total).fill_nan(None)

    def told_by(self, rows: NDArray[np.integer]) -> list[bytes]:
        """All that each row says of its questions, to tell copies from others."""
        parts = [self.marks[rows]]
        if self.chosen is not None and self.chosen.choices.size:
            parts.append(self.chosen.choices[rows])
        written = self.chosen.written.values() if self.chosen else ()
        texts = zip(*(cells.gather(rows).to_list() for cells in written), strict=True)
        said = ["\0".join(of) for of in texts] if written else [""] * len(rows)
        held = np.concatenate(parts, axis=1)
        return [row.tobytes() + text.encode() for row, text in zip(held, said, strict=True)]

    def says(self) -> NDArray[np.bool_]:
        """(rows of the file,) whether a row says anything of a question."""
        out = np.asarray((self.marks >= 0).any(axis=1))
        if self.chosen is not None:
            if self.chosen.choices.size:
                out |= (self.chosen.choices >= 0).any(axis=1)
            for cells in self.chosen.written.values():
                out |= (cells != "").to_numpy()
        return out


TOPIC_WORDS = r"(?i)^(topics?|strands?|content( area)?|objectives?|skills?|domains?|areas?)[.:]?$"


A_NUMBER = r"\d{1,3}[\s.]*\(?[a-z]?\)?\s*\(?[ivx]*\)?"
"""A question's number, with a part of it."""
KEY_WORDS = r"(?i)^(key|answer key|(right|correct)( options?| answers?)?)[.:]?$"
TOLD = (("maximum", MAXIMUM_WORDS), ("topic", TOPIC_WORDS), ("key", KEY_WORDS))
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
    if any(c.role in ABOUT_A_QUESTION or c.role.startswith("strand:") for c in columns):
        return sheet
    asked = ((role, told_row(sheet, columns, role, words)) for role, words in TOLD)
    rows = [row for _, row in asked if row is not None]
    if not rows:
        return sheet
    found.about_questions(rows)
    stay = ~np.isin(np.arange(sheet.cells.height), rows)
    return replace(sheet, cells=sheet.cells.filter(pl.Series(stay)), lines=sheet.lines[stay])


def read_marks(
    sheet: Sheet,
    columns: list[ColumnInfo],
    found: Findings,
    known: Mapping[str, QuestionInfo] | None = None,
) -> MarkGrid | None:
    """The grid, or None where no column is about a question. A mark above its maximum, or one that
    is no whole number, is a stop. known: what is known of the test's questions."""
    asked = [c for c in columns if c.role in ABOUT_A_QUESTION]
    strands = [c for c in columns if c.role.startswith("strand:")]
    if not asked and not strands:
        return None
    if asked and strands:
        found.add(
            "strands_beside", "ask", f"{count(len(strands), 'column')} of strands not read",
            "Beside marks by question, strands are added up from the questions", [],
            n=len(strands),
        )  # fmt: skip
    return _Reading(sheet, asked or strands, not asked, columns, found, known or {}).grid()


class _Reading:
    """Lays out the columns by question: marks, letters, and what was written."""

    def __init__(
        self,
        sheet: Sheet,
        asked: list[ColumnInfo],
        by_strand: bool,
        columns: list[ColumnInfo],
        found: Findings,
        known: Mapping[str, QuestionInfo],
    ) -> None:
        self.sheet, self.asked, self.by_strand = sheet, asked, by_strand
        self.found, self.known = found, known
        self.top, self.about, self.key = (
            told_row(sheet, columns, role, words) for role, words in TOLD
        )
        self.odd: dict[int, str] = {}
        tidied = Counter(self._name(c) for c in asked if c.role == "question")
        self.twice = {name for name, times in tidied.items() if times > 1}
        self.questions = tuple({self._named(c): None for c in asked})
        self.place = {name: at for at, name in enumerate(self.questions)}

    def _name(self, column: ColumnInfo) -> str:
        return column.role.split(":", 1)[1] if self.by_strand else tidy_question(column.header)

    def _named(self, column: ColumnInfo) -> str:
        """Its name; of two that would be called the same (“Opgave 1”, “Ekstra 1”) the head."""
        name = self._name(column)
        return column.header.strip() if name in self.twice else name

    def grid(self) -> MarkGrid:
        size = self.sheet.cells.height, len(self.questions)
        marks = np.full(size, NO_MARK, np.int16)
        maxima: list[int | None] = [None] * len(self.questions)
        topics = [""] * len(self.questions)
        letters: dict[int, pl.Series] = {}
        written: dict[str, pl.Series] = {}
        for column in self.asked:
            at, cells = self.place[self._named(column)], self.sheet.column(column.index)
            if self.about is not None:
                topics[at] = topics[at] or cells[self.about]
            if column.role == "written":
                written[self.questions[at]] = shortened(cells, self.questions[at], self.found)
            elif column.role == "option" or (not self.by_strand and self._letters(cells)):
                maxima[at] = maxima[at] or self._worth(cells, column)
                letters[at] = self._answers(cells)
            else:
                marks[:, at], maxima[at] = self._marks(cells, column)
        self.found.must_set_aside(
            "impossible_marks",
            f"{count(len(self.odd), 'row')} with a mark that cannot be",
            f"{some(list(self.odd.values()))}: above the maximum, or no whole number",
            sorted(self.odd),
        )
        worth = tuple(maxima)
        chosen = None
        if letters or written:
            read = read_chosen(letters, self.questions, self.key)
            chosen = replace(read, written=written)
        if chosen is not None and letters:
            check_chosen(chosen, self.questions, self.known, self.found)
        told = tuple(row for row in (self.top, self.about, self.key) if row is not None)
        return MarkGrid(
            questions=self.questions, columns=tuple(c.index for c in self.asked), marks=marks,
            maxima=worth, topics=tuple(topics), told=told, by_strand=self.by_strand,
            chosen=chosen, known=self.known,
        )  # fmt: skip

    def _letters(self, cells: pl.Series) -> bool:
        return holds_letters(self._answers(cells).set(self._is_key(cells), ""))

    def _is_key(self, cells: pl.Series) -> pl.Series:
        rows = [] if self.key is None else [self.key]
        return pl.int_range(len(cells), eager=True).is_in(rows)

    def _answers(self, cells: pl.Series) -> pl.Series:
        """The cells without the rows that say what a question is worth and is about."""
        rows = [row for row in (self.top, self.about) if row is not None]
        return cells.set(pl.int_range(len(cells), eager=True).is_in(rows), "")

    def _worth(self, cells: pl.Series, column: ColumnInfo) -> int | None:
        highest = numbers(cells)[self.top] if self.top is not None else None
        if highest is None and self.by_strand:
            highest = worth_of(column.header)
        return int(highest) if highest is not None and 0 < highest <= HIGHEST_MARK else None

    def _marks(self, cells: pl.Series, column: ColumnInfo) -> tuple[NDArray[np.int16], int | None]:
        values = numbers(cells)
        out = np.full(len(cells), NO_MARK, np.int16)
        known = cells.str.to_lowercase().is_in(list(CODE_MEANS)) | (cells == "")
        whole = (values == values.round(0)) & values.is_between(0, HIGHEST_MARK)
        highest = self._worth(cells, column)
        within = whole & (values <= highest) if highest is not None else whole
        for row in (~within.fill_null(False) & ~known).arg_true().to_list():
            if row not in (self.about, self.key):
                self.odd.setdefault(row, f"{column.header}: {cells[row]}")
        held = within.fill_null(False).to_numpy()
        out[held] = values.filter(within).to_numpy().astype(np.int16)
        return out, highest


def worth_of(header: str) -> int | None:
    """The marks that a column's name says there are.

    >>> worth_of("Number strand (max 20)"), worth_of("Shape /15"), worth_of("Strand 2: Data")
    (20, 15, None)
    """
    said = re.search(r"(?i)(?:/|out of|max(?:imum)?)[ :]*(\d+)|\((\d+)\)", header)
    return int(said[1] or said[2]) if said else None


def paper_of(question: str) -> str:
    """The paper that a question's name says it is in.

    >>> paper_of("P1 Q3"), paper_of("Paper 2 Q1a"), paper_of("Q3")
    ('Paper 1', 'Paper 2', '')
    """
    found = re.match(r"(?i)p(?:aper)? ?(\d{1,2})\b", question)
    return f"Paper {found[1]}" if found else ""


def tidy_question(header: str) -> str:
    """A question's name as everybody writes it.

    >>> tidy_question("Question 12 b"), tidy_question("q7"), tidy_question("3")
    ('Q12b', 'Q7', 'Q3')
    >>> tidy_question("Q9 explanation"), tidy_question("Question 4: option")
    ('Q9', 'Q4')
    >>> tidy_question("Opgave 1 a"), tidy_question("item 3(ii)"), tidy_question("P1 Q3")
    ('Q1a', 'Q3ii', 'P1 Q3')
    """
    bare = re.sub(rf"(?i)[\s:–-]+({OF_A_QUESTION})$", "", header.strip())
    plain = re.sub(rf"(?i)^[^\W\d_]+\.?\s*(?=({A_NUMBER})$)", "", bare)
    return "Q" + re.sub(r"[\s().]+", "", plain) if plain[:1].isdigit() else bare
