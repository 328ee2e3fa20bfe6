"""What single cells mean: numbers, dates, year levels, codes for a result that is not there."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass

import polars as pl

from bridge_chart.terms.words import spoken

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
    "iso": (("%Y/%m/%d", "%Y%m%d"), "year-month-day"),
    "dmy": (("%d/%m/%Y", "%d/%m/%y", "%d/%b/%Y", "%d/%B/%Y"), "day-month-year"),
    "mdy": (("%m/%d/%Y", "%m/%d/%y", "%b/%d/%Y", "%B/%d/%Y"), "month-day-year"),
    "serial": ((), "a spreadsheet’s count of days"),
}
SPREADSHEET_DAY_0 = dt.date(1899, 12, 30)
NUMBER_STYLES = {"point": "1,234.5 (a point parts decimals)",
                 "comma": "1.234,5 (a comma parts decimals)"}  # fmt: skip
THOUSANDS = {"point": r"^[+\-−]?\d{1,3}([, '’\x{a0}\x{202f}]\d{3})+(\.\d+)?$",
             "comma": r"^[+\-−]?\d{1,3}([. '’\x{a0}\x{202f}]\d{3})+(,\d+)?$"}  # fmt: skip


def number_style(cells: pl.Series) -> tuple[str, bool]:
    """How a column writes its figures, and whether that is certain: “1,234” alone is not.

    >>> number_style(pl.Series(["1,234", "999"])), number_style(pl.Series(["3,5", "1.234,0"]))
    (('point', False), ('comma', True))
    """
    marked = cells.filter(cells.str.contains(r"^[+\-−]?\d[\d.,]*$") & cells.str.contains("[.,]"))
    if not len(marked):
        return "point", True
    commas = marked.str.contains(r",\d{1,2}$|,\d{4,}$|\.\d{3},")
    points = marked.str.contains(r"\.\d{1,2}$|\.\d{4,}$|,\d{3}\.")
    if commas.any() or points.any():
        return ("comma" if commas.sum() > points.sum() else "point"), True
    return "point", not marked.str.contains(",", literal=True).any()


def numbers(cells: pl.Series, style: str | None = None) -> pl.Series:
    """Cells as floats; null where a cell is no plain number. A percent sign is passed over.

    `style`: “point” or “comma” parts decimals; else as the column itself writes.

    >>> numbers(pl.Series(["12", "3,5", "abs", "", "1e3", "inf", "85 %"])).to_list()
    [12.0, 3.5, None, None, None, None, 85.0]
    >>> numbers(pl.Series(["1,234", "1 234.5", "7"])).to_list()
    [1234.0, 1234.5, 7.0]
    """
    style = style or number_style(cells)[0]
    return _each_once(cells, lambda distinct: _numbers(distinct, style))


def _numbers(cells: pl.Series, style: str) -> pl.Series:
    plain = cells.str.replace(r"\s*%$", "")
    grouped = plain.str.contains(THOUSANDS[style])
    if grouped.any():
        marks = "[, '’\\x{a0}\\x{202f}]" if style == "point" else "[. '’\\x{a0}\\x{202f}]"
        plain = plain.str.replace_all(marks, "").zip_with(grouped, plain)
    plain = plain.str.replace(",", ".", literal=True)
    plain = plain.set(~plain.str.contains(r"^[+\-−]?\d{1,12}(\.\d{0,9})?$"), None)
    return plain.str.replace("−", "-", literal=True).cast(pl.Float64, strict=False)


def year_levels(cells: pl.Series) -> pl.Series:
    """“8”, “Year 8”, “Y08”, “Grade 8” as 8, and the district's own names; null where it reads
    otherwise.

    >>> year_levels(pl.Series(["Year 8", "y03", "11", "Reception", ""])).to_list()
    [8, 3, 11, None, None]
    """
    pattern = r"^(?:year|yr|y|grade|gr|g)?\s*0?(\d{1,2})$"
    own = spoken().level_names
    named = {name.lower(): level for level, name in own.items()}
    before = spoken().level_before.strip().lower()

    def read(distinct: pl.Series) -> pl.Series:
        plain = distinct.str.strip_chars().str.to_lowercase()
        figures = plain.str.strip_prefix(before).str.strip_chars() if before else plain
        found = figures.str.extract(pattern).cast(pl.Int16, strict=False)
        return plain.replace_strict(named, default=found, return_dtype=pl.Int16)

    return _each_once(cells, read)


def _each_once(cells: pl.Series, read: Callable[[pl.Series], pl.Series]) -> pl.Series:
    """Cells read one by one, each that is there often only once: a column of a million dates or
    marks mostly has a few hundred different ones."""
    distinct = cells.unique()
    if len(distinct) > len(cells) // 4:
        return read(cells)
    table = pl.DataFrame({"cell": distinct, "value": read(distinct)})
    held = pl.DataFrame({"cell": cells}).join(table, on="cell", how="left", maintain_order="left")
    return held["value"]


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
    counts = cells.value_counts(name="n")
    read = _dates(counts.to_series(0), counts["n"], order)
    table = pl.DataFrame({"cell": counts.to_series(0), "value": read.values})
    held = pl.DataFrame({"cell": cells}).join(table, on="cell", how="left", maintain_order="left")
    return Dates(held["value"], read.order, read.unread)


def _dates(cells: pl.Series, times: pl.Series, order: str | None) -> Dates:
    """Different cells, each of which is there so many times."""
    tidy = cells.str.replace_all(r"(?i)^(mon|tue|wed|thu|fri|sat|sun)[a-z]*[, ]+", "")
    tidy = tidy.str.replace_all(r"(\d)(st|nd|rd|th)\b", "$1").str.replace_all(r"[.,\-/ ]+", "/")
    tidy = tidy.str.replace(r"[/T]\d\d:\d\d(:\d\d(/\d+)?)?(Z|/?\+\d\d:?\d\d)?$", "")
    filled = int(times.filter(cells != "").sum())
    best: Dates | None = None
    for name in [order] if order else list(DATE_ORDERS):
        values = _days_counted(cells) if name == "serial" else _dates_in(tidy, name)
        unread = filled - int(times.filter(values.is_not_null()).sum())
        if best is None or unread < best.unread:
            best = Dates(values, name, unread)
        if not unread:
            break
    assert best is not None
    return best


def _dates_in(tidy: pl.Series, order: str) -> pl.Series:
    """Dates in one order of day and month, written in any of its ways; null where in none."""
    out = pl.Series([None], dtype=pl.Date).new_from_index(0, len(tidy))
    for pattern in DATE_ORDERS[order][0]:
        left = out.is_null() & (tidy != "")
        if left.any():
            values = tidy.str.to_date(pattern, strict=False)
            sane = values.is_between(dt.date(1900, 1, 1), dt.date(2100, 1, 1)).fill_null(False)
            out = values.zip_with(left & sane, out)
    return out


def _days_counted(cells: pl.Series) -> pl.Series:
    """Days counted as spreadsheets do; only what lies between 1954 and 2064."""
    count = cells.str.extract(r"^(\d{5})(?:\.0*)?$").cast(pl.Int32, strict=False)
    count = count.set(~count.is_between(20_000, 60_000).fill_null(False), None)
    epoch = (SPREADSHEET_DAY_0 - dt.date(1970, 1, 1)).days
    return (count + epoch).cast(pl.Date)
