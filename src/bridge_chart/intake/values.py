"""What single cells mean: numbers, dates, year levels, codes for a result that is not there."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import polars as pl

CODES = {
    "absent": ("a", "abs", "absent", "absence"),
    "exempt": ("e", "ex", "exempt", "exempted", "x", "disapplied"),
    "withheld": ("w", "wh", "withheld"),
    "not_sat": ("n", "ns", "not sat", "not taken", "dns", "-", "–", "—", "n/a", "na"),
}
CODE_MEANS = {word: status for status, words in CODES.items() for word in words}
STATUS_WORDS = {
    "absent": "absent",
    "exempt": "exempt",
    "withheld": "withheld",
    "not_sat": "not sat",
    "sat": "sat",
}
DATE_ORDERS = {
    "iso": ("%Y-%m-%d", "year-month-day"),
    "dmy": ("%d/%m/%Y", "day-month-year"),
    "mdy": ("%m/%d/%Y", "month-day-year"),
}


def numbers(cells: pl.Series) -> pl.Series:
    """Cells as floats, a decimal comma allowed; null where a cell is no plain number.

    >>> numbers(pl.Series(["12", "3,5", "abs", "", "1e3", "inf"])).to_list()
    [12.0, 3.5, None, None, None, None]
    """
    plain = cells.str.replace(",", ".", literal=True)
    plain = plain.set(~plain.str.contains(r"^[+\-−]?\d{1,12}(\.\d{0,9})?$"), None)
    return plain.str.replace("−", "-", literal=True).cast(pl.Float64, strict=False)


def year_levels(cells: pl.Series) -> pl.Series:
    """“8”, “Year 8”, “Y08”, “Grade 8” as 8; null where it reads otherwise.

    >>> year_levels(pl.Series(["Year 8", "y03", "11", "Reception", ""])).to_list()
    [8, 3, 11, None, None]
    """
    found = cells.str.to_lowercase().str.extract(r"^(?:year|yr|y|grade|gr|g)?\s*0?(\d{1,2})$")
    return found.cast(pl.Int16, strict=False)


@dataclass(frozen=True)
class Dates:
    """Parsed dates, and in which order day and month were read."""

    values: pl.Series
    order: str
    unread: int


def dates(cells: pl.Series, order: str | None = None) -> Dates:
    """Cells as dates in the order that reads the most of them (day first where two tie).

    >>> read = dates(pl.Series(["03/04/2014", "25/12/2013", ""]))
    >>> read.order, read.values[0], read.unread
    ('dmy', datetime.date(2014, 4, 3), 0)
    """
    tidy = cells.str.replace_all(r"[.\-/ ]", "/").str.replace(r"/00:00(:00)?$", "")
    filled = int((cells != "").sum())
    best: Dates | None = None
    for name in [order] if order else ["iso", "dmy", "mdy"]:
        pattern = DATE_ORDERS[name][0].replace("-", "/")
        values = tidy.str.to_date(pattern, strict=False)
        sane = values.is_between(dt.date(1900, 1, 1), dt.date(2100, 1, 1))
        values = values.set(~sane.fill_null(False), None)
        unread = filled - int(values.is_not_null().sum())
        if best is None or unread < best.unread:
            best = Dates(values, name, unread)
    assert best is not None
    return best
