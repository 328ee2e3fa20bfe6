"""Columns of questions that no head calls so: by a row that says what is right, by their numbers.

A stranger's sheet has *Opgave 1a*, *Item 3*, *Aufgabe 2*: one word and a number, in any language.
"""

from __future__ import annotations

import re

import polars as pl

from bridge_chart.intake.cells.marks import KEY_WORDS, MAXIMUM_WORDS
from bridge_chart.intake.columns.column_names import RESULTS
from bridge_chart.intake.reading.sheet import Sheet

ROWS_ABOVE = 20
"""A row that tells of the questions stands above the students."""
FEWEST = 3
NUMBERED = r"(?P<word>[^\W\d_]+)[ .]*(?P<number>\d{1,3})[ .]*\(?(?P<part>[a-z]?)\)?"
BESIDE = {"option": r"option|choice|response|chosen|answer",
          "written": r"explanation|reason|why|wrote|working"}  # fmt: skip


def questions_by_content(sheet: Sheet) -> dict[int, tuple[str, str]]:
    """Columns of questions, with what students chose or wrote beside them: role and why."""
    keys, maxima = _told(sheet, KEY_WORDS), _told(sheet, MAXIMUM_WORDS)
    free = [at for at, header in enumerate(sheet.headers) if not _has_a_name(header)]
    keyed = {at for at in free if keys and keys[at] and sheet.headers[at]}
    out = dict.fromkeys(sorted(keyed), "the key row says what is right")
    if not keyed and not maxima:
        return {}
    for family in _families(sheet, free):
        parts = any(re.fullmatch(NUMBERED, sheet.headers[at].lower())["part"] for at in family)  # type: ignore[index]
        if keyed & set(family) or (parts and maxima):
            out |= {at: out.get(at, "numbered like the others") for at in family}
    found = {at: ("question", why) for at, why in out.items()}
    return found | _beside(sheet, found)


def _told(sheet: Sheet, words: str) -> list[str] | None:
    """The cells of the row above the students that says so, if there is one."""
    top = sheet.cells.head(ROWS_ABOVE)
    hits = pl.Series([False]).new_from_index(0, top.height)
    for index in range(len(sheet.headers)):
        hits |= sheet.column(index).head(ROWS_ABOVE).str.contains(words)
    rows = hits.arg_true().to_list()
    if not rows:
        return None
    held = [sheet.column(index)[rows[0]] for index in range(len(sheet.headers))]
    return ["" if re.match(words, cell) else cell for cell in held]


def _has_a_name(header: str) -> bool:
    """Whether a head says what the column is, in words that are known."""
    plain = re.sub(r"[^a-z0-9%#]+", " ", header.lower()).strip()
    return any(re.fullmatch(p, plain) for role, p in RESULTS.items() if role != "question")


def _families(sheet: Sheet, free: list[int]) -> list[list[int]]:
    """Columns that have one word and numbers of their own."""
    held: dict[str, dict[tuple[str, str], int]] = {}
    for at in free:
        found = re.fullmatch(NUMBERED, sheet.headers[at].strip().lower())
        if found:
            own = held.setdefault(found["word"], {})
            own.setdefault((found["number"], found["part"]), at)
    return [sorted(own.values()) for own in held.values() if len(own) >= FEWEST]


def _beside(sheet: Sheet, questions: dict[int, tuple[str, str]]) -> dict[int, tuple[str, str]]:
    """“Opgave 1a explanation” beside “Opgave 1a”."""
    names = [sheet.headers[at].strip().lower() for at in questions]
    out: dict[int, tuple[str, str]] = {}
    for at, header in enumerate(sheet.headers):
        plain = header.strip().lower()
        whose = next((name for name in names if plain.startswith(name) and plain != name), None)
        if whose is None or at in questions:
            continue
        rest = plain[len(whose) :].strip(" :–-_")
        role = next((role for role, words in BESIDE.items() if re.fullmatch(words, rest)), None)
        if role:
            out[at] = (role, f"beside {sheet.headers[at][: len(whose)].strip()}")
    return out
