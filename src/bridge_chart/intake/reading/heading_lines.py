"""Which lines of a table hold its column names: one to four of them, merged cells unfolded."""

from __future__ import annotations

import re

import numpy as np

from bridge_chart.intake.reading.sheet import KEPT, Grid
from bridge_chart.terms.errors import UnreadableFile

LOOK = 40
"""How many lines are looked at for the column names."""
MOST_LINES = 4
NUMBER = re.compile(r"^[+\-−]?[\d.,\s']*\d%?$")
UNIT = re.compile(r"(?i)^(\(.*\)|\[.*\]|marks?|%|percent|points?|out of \d+|/ ?\d+)$")
Lines = list[list[str]]


def names_at(name: str, grid: Grid, top: Lines, said: int | None, lines: int | None) -> range:
    """Places of the lines with the column names; empty where there are none. said: the file's line
    that a person named (0: there is none), lines: how many they said."""
    if said == 0:
        return range(0)
    if said is not None:
        places = np.flatnonzero(grid.lines[: len(top)] == said)
        if not len(places):
            raise UnreadableFile(
                f"{name} has no filled line {said} among its first {len(top)}.", kept=KEPT
            )
        first = int(places[0])
        return range(first, _down(top, first, first) if lines is None else first + lines)
    fullest = _fullest(top)
    if fullest is None:
        return range(0)
    first = _up(top, fullest)
    return range(first, _down(top, first, fullest) if lines is None else first + lines)


def joined(lines: Lines) -> list[str]:
    """The names of columns whose parts stand in several lines.

    >>> joined([["No", "Maths", "", "Art"], ["", "mark", "grade", "grade"]])
    ['No', 'Maths mark', 'Maths grade', 'Art grade']
    """
    width = len(lines[0])
    parts: list[list[str]] = [[] for _ in range(width)]
    held = [""] * len(lines)
    for n in range(width):
        for level, line in enumerate(lines):
            below = any(deeper[n] for deeper in lines[level + 1 :])
            if line[n]:
                held[level:] = [line[n], *[""] * (len(lines) - level - 1)]
            elif not below:
                held[level] = ""
            if held[level] and (not parts[n] or parts[n][-1] != held[level]):
                parts[n].append(held[level])
    return [" ".join(part) or f"Column {n + 1}" for n, part in enumerate(parts)]


def _filled(row: list[str]) -> int:
    return sum(1 for cell in row if cell)


def _figures(row: list[str]) -> bool:
    return any(NUMBER.match(cell) for cell in row if cell)


def _fullest(top: Lines) -> int | None:
    """The first line that fills the table with words; None where the first that fills it is all
    figures."""
    usual = float(np.median([_filled(row) for row in top[len(top) // 2 :]] or [1]))
    enough = min(max(2.0, 0.6 * usual), len(top[0]))
    found = next((at for at, row in enumerate(top) if _filled(row) >= enough), 0)
    here = top[found]
    for at in range(found + 1, min(found + 6, len(top))):
        # A line of words that fills the table tells more than a shorter one above it.
        fuller = _filled(top[at]) > _filled(here) and _filled(here) < 0.7 * len(here)
        if fuller and not _figures(top[at]):
            return at
    return None if all(NUMBER.match(cell) for cell in here if cell) else found


def _up(top: Lines, found: int) -> int:
    """The first of the lines of names that end at `found` or below."""
    first = found
    while first and found - first < MOST_LINES - 1 and _leads(top[first - 1], top[first]):
        first -= 1
    return first


def _leads(upper: list[str], lower: list[str]) -> bool:
    """Whether a line stands above names as a part of them: it names spans of columns, or it names
    the first column, which the lower one does not."""
    if _figures(upper) or not _filled(upper):
        return False
    names_first = bool(upper[0]) and not lower[0] and _filled(upper) > 1
    filled = [n for n, cell in enumerate(upper) if cell]
    # A title stands in the first column; a name over several columns begins further right.
    one_span = len(filled) == 1 and 0 < filled[0] < len(lower) - 1 and bool(lower[0])
    return _spans(upper, lower) or names_first or one_span


def _spans(upper: list[str], lower: list[str]) -> bool:
    """Whether the upper line names spans of columns: the lower one repeats names under them."""
    held = [cell.casefold() for cell in lower if cell]
    words = [cell for cell in upper if cell]
    fewer = 1 < len(words) < len(held)
    return fewer and not _figures([*words, *held]) and len(set(held)) < len(held)


def _down(top: Lines, first: int, found: int) -> int:
    """The place after the last line of names."""
    after = found + 1
    while (
        after - first < MOST_LINES and after < len(top) - 1 and _goes_on(top[after - 1], top[after])
    ):
        after += 1
    return after


def _goes_on(first: list[str], second: list[str]) -> bool:
    """Whether the second line fills gaps of merged names, or holds units alone."""
    held = [cell for cell in second if cell]
    if not held or _figures(second):
        return False
    if not second[0] and all(UNIT.match(cell) for cell in held):
        return True
    if _spans(first, second):
        return True
    gaps = [n for n, cell in enumerate(first) if not cell and second[n]]
    # Names that are merged across leave gaps, and the line below them is blank where they are not.
    return bool(gaps) and _filled(first) > 0 and any(not cell for cell in second)
