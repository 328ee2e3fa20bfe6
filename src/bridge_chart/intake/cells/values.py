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
    "dmy": (("%d/%m/%Y", "%d/%m/%y", "%d/%b/%Y", "%d/%B/%Y", "%d/%b/%y"), "day-month-year"),
    "mdy": (("%m/%d/%Y", "%m/%d/%y", "%b/%d/%Y", "%B/%d/%Y", "%b/%d/%y"), "month-day-year"),
    "serial": ((), "a spreadsheet’s count of days"),
}
SPREADSHEET_DAY_0 = dt.date(1899, 12, 30)
NUMBER_STYLES = {"point": "1,234.5 (a point parts decimals)",
                 "comma": "1.234,5 (a comma parts decimals)"}  # fmt: skip
THOUSANDS = {"point": r"^[+\-−]?[1-9]\d{0,2}([, '’\x{a0}\x{202f}]\d{3})+(\.\d+)?$",
             "comma": r"^[+\-−]?[1-9]\d{0,2}([. '’\x{a0}\x{202f}]\d{3})+(,\d+)?$"}  # fmt: skip
CERTAIN = {
    style: rf"^[+\-−]?(0\d*|\d{{4,}}){sign}\d+$|{sign}(\d{{1,2}}|\d{{4,}})$|"
    rf"{other}\d{{3}}{sign}|\d{other}\d{{3}}{other}\d{{3}}$"
    for style, sign, other in (("point", r"\.", ","), ("comma", ",", r"\."))
}
"""Figures that can be read in one style only: no thousands begin with a nought, and three digits
stand in each group of them."""
EITHER = r"^[+\-−]?[1-9]\d{0,2}[.,]\d{3}$"
ENOUGH = 0.95
FEW = 5
"""From so many figures without a sign on, their range says how large the others can be."""
Range = tuple[float, float]


def number_style(cells: pl.Series, within: Range | None = None) -> tuple[str, bool]:
    """How a column writes its figures, and whether that is certain: “1,234” alone is not, unless
    only one reading lies in the range of the scale (`within`) or of the column's other figures.

    >>> number_style(pl.Series(["1,234", "999"])), number_style(pl.Series(["0,234", "3,512"]))
    (('point', False), ('comma', True))
    >>> number_style(pl.Series(["61,250", "58,125"]), (0, 100))
    ('comma', True)
    """
    plain = cells.str.replace(r"\s*%$", "")
    marked = plain.filter(plain.str.contains(r"^[+\-−]?\d[\d.,]*$") & plain.str.contains("[.,]"))
    if not len(marked):
        return "point", True
    commas, points = (int(marked.str.contains(CERTAIN[s]).sum()) for s in ("comma", "point"))
    if commas or points:
        either = marked.str.contains(EITHER).any()
        sure = not (commas and points and either)
        return ("comma" if commas > points else "point"), sure
    return _by_range(marked, plain, within)


def _by_range(marked: pl.Series, cells: pl.Series, within: Range | None) -> tuple[str, bool]:
    """The style of figures that could be either, by how large they can be."""
    if within is None:
        others = _numbers(cells.filter(~cells.str.contains("[.,]")), "point").drop_nulls()
        low, high = (others.min(), others.max()) if len(others) >= FEW else (None, None)
        if isinstance(low, float) and isinstance(high, float):
            within = low - (high - low), high + (high - low)
    if within is not None:
        inside = {}
        for style in ("point", "comma"):
            held = _numbers(marked, style).is_between(*within).fill_null(False)
            inside[style] = int(held.sum()) >= ENOUGH * len(marked)
        if inside["point"] != inside["comma"]:
            return ("point" if inside["point"] else "comma"), True
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
    """A figure that can be read in one style only is read in that, whatever the column's."""
    plain = cells.str.replace(r"\s*%$", "")
    certain = {name: plain.str.contains(CERTAIN[name]) for name in CERTAIN}
    by_style = {
        name: certain[name] if name != style else ~certain[other]
        for name, other in (("point", "comma"), ("comma", "point"))
    }
    for name, sign in (("point", ","), ("comma", ".")):
        grouped = by_style[name] & plain.str.contains(THOUSANDS[name])
        if grouped.any():
            marks = f"[{sign} '’\\x{{a0}}\\x{{202f}}]"
            plain = plain.str.replace_all(marks, "").zip_with(grouped, plain)
    plain = plain.str.replace(",", ".", literal=True)
    plain = plain.set(~plain.str.contains(r"^[+\-−]?\d{1,12}(\.\d{0,9})?$"), None)
    return plain.str.replace("−", "-", literal=True).cast(pl.Float64, strict=False)


def year_levels(cells: pl.Series) -> pl.Series:
    """“8”, “Year 8”, “Y08”, “8. klasse” as 8, and the district's own names; null where it reads
    otherwise.

    >>> year_levels(pl.Series(["Year 8", "y03", "11", "7th grade", "7A", ""])).to_list()
    [8, 3, 11, 7, None, None]
    """
    before_it = r"(?:(?:year|yr|y|grade|gr|g)?\s*|\p{L}{2,12}\s+)"
    pattern = rf"^{before_it}0?(\d{{1,2}})(?:(?:st|nd|rd|th|\.)?\s+\p{{L}}{{2,12}})?$"
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
    """Parsed dates, and in which order day and month were read. `otherwise`: cells that can only
    be read in the other order, and are; `either`: those that could be read in both."""

    values: pl.Series
    order: str
    unread: int
    otherwise: int = 0
    either: int = 0


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
    return Dates(held["value"], read.order, read.unread, read.otherwise, read.either)


def _dates(cells: pl.Series, times: pl.Series, order: str | None) -> Dates:
    """Different cells, each of which is there so many times."""
    tidy = cells.str.replace_all(r"(?i)^(mon|tue|wed|thu|fri|sat|sun)[a-z]*[, ]+", "")
    tidy = tidy.str.replace_all(r"(\d)(st|nd|rd|th)\b", "$1").str.replace_all(r"[.,\-/ ]+", "/")
    tidy = tidy.str.replace(r"(?i)(?:^|/)sept/", "/Sep/").str.strip_prefix("/")
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
    other = {"dmy": "mdy", "mdy": "dmy"}.get(best.order)
    if other is None or not best.unread or order:
        return best
    # A column in both orders: what can only be read in one is read in that.
    there = _dates_in(tidy, other)
    only = best.values.is_null() & there.is_not_null()
    either = best.values.is_not_null() & there.is_not_null() & (best.values != there)
    turned, doubtful = (int(times.filter(rows).sum()) for rows in (only, either))
    values = there.zip_with(only, best.values)
    return Dates(values, best.order, best.unread - turned, turned, doubtful)


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
