"""One table of a file of any format that is read here."""

from __future__ import annotations

from bridge_chart.intake.reading.layout import lay_out
from bridge_chart.intake.reading.sheet import KEPT, UNDOABLE, Grid, Sheet
from bridge_chart.intake.reading.text import DELIMITERS, read_text
from bridge_chart.intake.reading.workbook import read_parquet, read_workbook
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.terms.errors import InvalidQuestion, UnreadableFile

OLD_WORKBOOK = b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
OTHER_KINDS = {
    b"%pdf": "a PDF", b"<html": "a web page", b"<!doctype html": "a web page",
    b"<table": "a web page", b"<?xml": "an XML file", b"{\\rtf": "a text document",
    b"\x89png": "a picture", b"\xff\xd8\xff": "a picture", b"gif8": "a picture",
}  # fmt: skip
"""How files begin that are no tables, in small letters."""


def read_sheet(name: str, data: bytes, said: IntakeSettings | None = None) -> Sheet:
    """The table in a file as rows of texts; UnreadableFile says what is wrong with it.

    `said`: which table, encoding, delimiter and line of column names, where a person said so.
    """
    said = said or IntakeSettings()
    how, decided = said.reading, said.decisions
    keep = frozenset(key for key in UNDOABLE if decided.get(key) == "keep")
    grid = _grid(name, data, said)
    sheet = lay_out(name, grid, how, keep)
    return sheet.only(said.lines) if said.lines else sheet


def _grid(name: str, data: bytes, said: IntakeSettings) -> Grid:
    if not data.strip():
        raise UnreadableFile(
            f"{name} is empty.", kept=KEPT, next_step="Export it again, and bring in that file."
        )
    head = data[:200].lstrip().lower()
    other = next((what for start, what in OTHER_KINDS.items() if head.startswith(start)), None)
    if other is not None:
        raise UnreadableFile(
            f"{name} is {other}, whatever its name says.", kept=KEPT,
            next_step="Open it where it was made, and save the table as a workbook or as CSV.",
        )  # fmt: skip
    how = said.reading
    table = said.decisions.get("table", "").removeprefix("table:") or how.table
    if data[:4] == b"PAR1":
        return read_parquet(name, data)
    if data[:4] == b"PK\x03\x04" or data[:8] == OLD_WORKBOOK:
        return read_workbook(name, data, table)
    delimiter = "\t" if how.delimiter in ("tab", "tabs") else how.delimiter
    if delimiter and delimiter not in DELIMITERS:
        raise InvalidQuestion(
            f"“{how.delimiter}” is no delimiter.",
            next_step="Delimiters are , ; | and tab.",
        )
    return read_text(name, data, said.decisions.get("encoding", "") or how.encoding, delimiter)
