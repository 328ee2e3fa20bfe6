"""Files that came together, one per class or school: parts of one test, not tests of their own."""

from __future__ import annotations

import secrets
from pathlib import PurePath

from bridge_chart.intake.columns.columns import position_of, understand
from bridge_chart.intake.examine.roster_years import years_in
from bridge_chart.intake.reading.apart import sheet_in
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.terms.errors import BridgeError

Part = tuple[str, bytes, IntakeSettings]
SHARED = 0.02
"""Students in two files, of all in the smaller one, up to which they are other people's files."""
MOST_COMPARED = 40


def as_one_test(kind: str, archive: str, parts: list[Part]) -> list[Part]:
    """The parts of an archive, with its name as their test where they hold the same columns for
    different students; else as they are. A test that the files or a person name goes before."""
    if kind != "results" or len(parts) < 2 or not _apart(kind, parts):
        return parts
    name = PurePath(archive).stem
    return [(n, d, s.model_copy(update={"together": name})) for n, d, s in parts]


def by_year(kind: str, parts: list[Part]) -> list[Part]:
    """A roster of several school years as one part for each of them; others as they are."""
    out: list[Part] = []
    for name, data, said in parts:
        years: list[str] = []
        if kind == "roster" and not said.academic_year:
            sheet = sheet_in(name, data, said)
            years = years_in(sheet, understand(kind, sheet, said))
        mark = said.archive or f"{name} {secrets.token_hex(3)}"
        several = len(years) > 1
        for year in years if several else [""]:
            told = {"academic_year": year, "archive": mark} if several else {}
            out.append((f"{name} {year}".strip(), data, said.model_copy(update=told)))
    return out


def _apart(kind: str, parts: list[Part]) -> bool:
    """Same columns, and hardly a student in two of the files."""
    seen: set[str] = set()
    headers: tuple[str, ...] | None = None
    for name, data, said in parts[:MOST_COMPARED]:
        sheet = sheet_in(name, data, said)
        try:
            at = position_of(understand(kind, sheet, said), "number")
        except BridgeError:
            return False
        if at is None or headers not in (None, sheet.headers):
            return False
        headers = sheet.headers
        numbers = set(sheet.column(at).to_list()) - {""}
        if not numbers or len(numbers & seen) > SHARED * len(numbers):
            return False
        seen |= numbers
    return True
