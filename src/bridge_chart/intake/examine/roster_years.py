"""Rosters that hold several school years: each year is a roster of its own."""

from __future__ import annotations

from dataclasses import replace

import polars as pl

from bridge_chart.intake.cells.findings import Findings, some
from bridge_chart.intake.columns.columns import position_of
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.terms.calendar import YEAR_WRITTEN
from bridge_chart.terms.finding import ColumnInfo
from bridge_chart.terms.wording import count, listed


def years_in(sheet: Sheet, columns: list[ColumnInfo]) -> list[str]:
    """The school years that a column of the roster names, earliest first."""
    at = position_of(columns, "academic_year")
    return [] if at is None else sorted(set(_years(sheet.column(at)).drop_nulls().to_list()))


def _years(cells: pl.Series) -> pl.Series:
    """Each cell as “2025-26”; null where it is none.

    >>> _years(pl.Series(["2025/2026", "SY 2024–25", "7"])).to_list()
    ['2025-26', '2024-25', None]
    """
    parts = cells.str.to_lowercase().str.extract_groups(YEAR_WRITTEN)
    frame = parts.struct.unnest()
    first, second = frame.to_series(0), frame.to_series(1)
    follows = (first.cast(pl.Int32) + 1) % 100 == second.cast(pl.Int32)
    written = first + "-" + second
    return written.set(~follows.fill_null(False), None)


def of_year(sheet: Sheet, columns: list[ColumnInfo], year: str, found: Findings) -> Sheet:
    """The rows of one school year; the others are said, and those that name none set aside."""
    at = position_of(columns, "academic_year")
    if at is None:
        return sheet
    years = _years(sheet.column(at))
    other = (years.is_not_null() & (years != year)).fill_null(False)
    if other.any():
        names = sorted(set(years.filter(other).to_list()))
        n = int(other.sum())
        found.add(
            "other_years", "ask", f"{count(n, 'row')} of other school years left out",
            f"They are of {listed(names)}; each year is a roster of its own", [], n=n,
        )  # fmt: skip
        stay = ~other
        sheet = replace(sheet, cells=sheet.cells.filter(stay), lines=sheet.lines[stay.to_numpy()])
        found.lines = sheet.lines
    cells = sheet.column(at)
    unread = (_years(cells).is_null() & (cells != "")).arg_true().to_list()
    found.must_set_aside(
        "unread_school_year", f"{count(len(unread), 'row')} whose school year cannot be read",
        f"{some([cells[row] for row in unread])}; one is written like 2025-26", unread,
    )  # fmt: skip
    return sheet
