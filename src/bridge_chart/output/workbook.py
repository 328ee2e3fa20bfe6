"""An answer as a workbook: a page of notes, then its figures as figures, with signs and colours."""

from __future__ import annotations

import datetime as dt
import re
import tempfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Protocol

import xlsxwriter
from xlsxwriter.utility import xl_range_abs

from bridge_chart.terms.errors import InvalidQuestion

SIGNS = {
    "ahead": ("▲", "#0f7285", "ahead by more than chance would give"),
    "behind": ("▼", "#a84a22", "behind by more than chance would give"),
    "alike": ("●", "#52606f", "shown to be close"),
    "unclear": ("○", "#52606f", "too wide to tell"),
    "few": ("◇", "#52606f", "too few to judge"),
}
"""A row's verdict as on screen: the sign, its colour, and what it means."""
DAY = re.compile(r"^\d{4}-\d{2}-\d{2}$")
FIRST, WIDEST, LONGEST = 24, 60, 32_767
"""Characters of the first column's width at least, of any column's at most, and of a cell."""
MOST_ROWS = 1_048_576
ARMS = ("from low", "to high")
"""Columns of a chart with intervals: how far they reach to either side."""
CHARTED = 60
"""Up to so many rows a chart can be read."""


class Chart(Protocol):
    """Bars beside the figures: heads of their columns, stacked where they are several, and their
    colours; low, high: heads of the interval of a single one."""

    @property
    def label(self) -> str: ...
    @property
    def bars(self) -> Sequence[str]: ...
    @property
    def colours(self) -> Sequence[str]: ...
    @property
    def low(self) -> str | None: ...
    @property
    def high(self) -> str | None: ...


@dataclass(frozen=True)
class Page:
    """A sheet of figures: its name, what each column is, its lines. shades: for each cell how
    it is shaded on screen, −3 (far below its line) to 3 (far above), where some are. foot: lines
    under the others, of what the columns come to. The chart names its rows by “label”."""

    name: str
    heads: Sequence[Any]
    lines: Iterable[Sequence[Any]]
    shades: Sequence[Sequence[float | None]] | None = None
    foot: Sequence[Sequence[Any]] = ()
    chart: Chart | None = None


def to_workbook(title: str, notes: Sequence[tuple[str, Sequence[str]]], pages: list[Page]) -> bytes:
    """The bytes of a workbook. notes: headings, each with its lines. Lines are written as they
    come, so that memory does not grow with them; no text becomes a formula or a link."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "answer.xlsx"
        book = xlsxwriter.Workbook(path, {
            "constant_memory": True, "strings_to_formulas": False, "strings_to_urls": False,
            "strings_to_numbers": False, "tmpdir": folder, "default_date_format": "yyyy-mm-dd",
        })  # fmt: skip
        book.set_properties({"title": title[:255]})
        looks = _Looks(book)
        try:
            _notes(book.add_worksheet("Notes"), title, notes, looks)
            for page in pages:
                sheet = book.add_worksheet(_sheet_name(page.name))
                rows = _figures(sheet, page, looks)
                if page.chart is not None and 0 < rows <= CHARTED:
                    _draw(book, sheet, page, page.chart, rows)
            book.close()
        finally:
            for sheet in book.worksheets():
                if sheet.row_data_fh:
                    sheet.row_data_fh.close()
        return path.read_bytes()


def _sheet_name(name: str) -> str:
    """A name that a sheet may have.

    >>> _sheet_name("Spans: by school / class [8]")
    'Spans by school class 8'
    """
    return re.sub(r"\s+", " ", re.sub(r"[\[\]:*?/\\']", " ", name)).strip()[:31] or "Figures"


SHADES = {
    -3: "#e8c8b8", -2: "#f0dacf", -1: "#f6ece7", 0: "#f1f4f7", 1: "#e8f0f3", 2: "#d5e5ea",
    3: "#bfd8df",
}  # fmt: skip
"""Below its own line rust, above it teal, as on screen."""


class _Looks:
    """The formats of one workbook."""

    def __init__(self, book: Any) -> None:
        self.shades = {step: book.add_format({"bg_color": at}) for step, at in SHADES.items()}
        self.title = book.add_format({"bold": True, "font_size": 14, "text_wrap": True})
        self.head = book.add_format({"bold": True, "bottom": 1, "text_wrap": True, "valign": "top"})
        self.wrapped = book.add_format({"text_wrap": True, "valign": "top"})
        self.strong = book.add_format({"bold": True})
        self.day = book.add_format({"num_format": "yyyy-mm-dd"})
        self.signs = {
            key: book.add_format({"font_color": colour, "bold": key in ("ahead", "behind")})
            for key, (_, colour, _) in SIGNS.items()
        }


def _notes(
    sheet: Any, title: str, notes: Sequence[tuple[str, Sequence[str]]], looks: _Looks
) -> None:
    sheet.set_column(0, 0, 110)
    sheet.write_string(0, 0, title[:LONGEST], looks.title)
    at = 2
    for heading, lines in notes:
        sheet.write_string(at, 0, heading, looks.strong)
        for line in lines:
            at += 1
            sheet.write_string(at, 0, line[:LONGEST], looks.wrapped)
        at += 2
    sheet.write_string(at, 0, "Signs", looks.strong)
    for key, (sign, _, means) in SIGNS.items():
        at += 1
        sheet.write_string(at, 0, f"{sign}  {key}: {means}", looks.signs[key])
    for step, words in ((-2, "below its own line, stronger by step"), (2, "on or above it")):
        at += 1
        sheet.write_string(at, 0, f"shaded so: {words}", looks.shades[step])
    sheet.set_paper(9)
    sheet.fit_to_pages(1, 0)


def _figures(sheet: Any, page: Page, looks: _Looks) -> int:
    """Write a page; give how many lines it has."""
    heads = _heads(page)
    for at, head in enumerate(heads):
        # Heads wrap between words; the first column names the row.
        word = max(map(len, head.split()), default=0)
        sheet.set_column(at, at, min(max(word + 3, FIRST if at == 0 else 10), WIDEST))
    for at, head in enumerate(heads):
        sheet.write_string(0, at, head, looks.head)
    n = 0
    for n, line in enumerate(page.lines, start=1):
        if n >= MOST_ROWS:
            raise InvalidQuestion(
                f"A sheet holds {MOST_ROWS - 1} rows at most, and this answer has more.",
                next_step="Take it out as CSV, or narrow it.",
            )
        shades = page.shades[n - 1] if page.shades else ()
        for at, cell in enumerate([*line, *_arms(page, line)]):
            shade = shades[at] if at < len(shades) else None
            look = None if shade is None else looks.shades[round(shade)]
            _write(sheet, n, at, cell, heads[at], looks, look)
    for below, line in enumerate(page.foot, start=n + 2):
        for at, cell in enumerate(line):
            _write(sheet, below, at, cell, heads[at], looks, looks.strong)
    sheet.freeze_panes(1, 2 if len(heads) > 4 else 1)
    if n:
        sheet.autofilter(0, 0, n, len(heads) - 1)
    sheet.repeat_rows(0)
    sheet.set_landscape()
    sheet.set_paper(9)
    sheet.fit_to_pages(1, 0)
    sheet.set_footer("&L&A&R&P / &N")
    return n


def _heads(page: Page) -> list[str]:
    heads = [str(head) for head in page.heads]
    return heads + (list(ARMS) if page.chart and page.chart.low else [])


def _arms(page: Page, line: Sequence[Any]) -> list[float | None]:
    """How far the interval reaches down and up from the bar, which the chart draws."""
    chart = page.chart
    if chart is None or chart.low is None or chart.high is None:
        return []
    heads = list(page.heads)
    value, low, high = (line[heads.index(h)] for h in (chart.bars[0], chart.low, chart.high))
    return [None, None] if None in (value, low, high) else [value - low, high - value]


def _write(
    sheet: Any, row: int, at: int, cell: Any, head: str, looks: _Looks, look: Any = None
) -> None:
    """look: the shade of the cell, if it has one."""
    if cell is None or cell == "":
        return
    if isinstance(cell, bool):
        sheet.write_string(row, at, "yes" if cell else "no")
    elif isinstance(cell, int | float):
        sheet.write_number(row, at, cell, look)
    elif head.endswith(("verdict", "sign")) and cell in SIGNS:
        sheet.write_string(row, at, f"{SIGNS[cell][0]} {cell}", looks.signs[cell])
    elif isinstance(cell, str) and DAY.match(cell):
        sheet.write_datetime(row, at, dt.datetime.fromisoformat(cell), looks.day)
    else:
        sheet.write_string(row, at, str(cell)[:LONGEST], look)


def _draw(book: Any, sheet: Any, page: Page, drawn: Chart, rows: int) -> None:
    """The chart of a page, to the right of its figures."""
    heads, name = _heads(page), sheet.get_name()

    def column(head: str) -> str:
        at = heads.index(head)
        return f"='{name}'!{xl_range_abs(1, at, rows, at)}"

    stacked = len(drawn.bars) > 1
    chart = book.add_chart({"type": "bar", **({"subtype": "stacked"} if stacked else {})})
    arms = {}
    if drawn.low:
        reach = {"minus_values": column(ARMS[0]), "plus_values": column(ARMS[1])}
        arms = {"x_error_bars": {"type": "custom", **reach}}
    for head, colour in zip(drawn.bars, drawn.colours, strict=True):
        chart.add_series({
            "name": head if stacked else drawn.label, "categories": column("label"),
            "values": column(head), "fill": {"color": colour}, "gap": 60,
            "border": {"color": "#ffffff", "width": 0.5}, **arms,
        })  # fmt: skip
    chart.set_title({"name": f"{drawn.label}: {page.name}"})
    chart.set_legend({"position": "bottom"} if stacked else {"none": True})
    chart.set_y_axis({"reverse": True, "label_position": "low"})
    if stacked:
        chart.set_x_axis({"min": 0, "max": 1, "num_format": "0%"})
    chart.set_size({"width": 760, "height": 90 + 24 * rows})
    sheet.insert_chart(1, len(heads) + 1, chart)
