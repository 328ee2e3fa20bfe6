"""An answer as a workbook: a page of notes, then its figures as figures, with signs and colours."""

from __future__ import annotations

import datetime as dt
import re
import tempfile
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

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
SPANS = {"label", "span", "low", "high"}
ARMS = ("from low", "to high")
"""Columns of a page of spans: how far its interval reaches to either side."""
CHARTED = 60
"""Up to so many rows a chart of spans can be read."""


@dataclass(frozen=True)
class Page:
    """A sheet of figures: its name, what each column is, its lines. shades: for each cell how
    it is shaded on screen, −3 (far below its line) to 3 (far above), where some are."""

    name: str
    heads: Sequence[Any]
    lines: Iterable[Sequence[Any]]
    shades: Sequence[Sequence[float | None]] | None = None


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
                if 0 < rows <= CHARTED:
                    _chart(book, sheet, page, rows)
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
    return heads + (list(ARMS) if set(heads) >= SPANS else [])


def _arms(page: Page, line: Sequence[Any]) -> list[float | None]:
    """How far the interval reaches down and up from the span, which the chart draws."""
    heads = [str(head) for head in page.heads]
    if not set(heads) >= SPANS:
        return []
    span, low, high = (line[heads.index(head)] for head in ("span", "low", "high"))
    return [None, None] if None in (span, low, high) else [span - low, high - span]


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


def _chart(book: Any, sheet: Any, page: Page, rows: int) -> None:
    """Where the page holds spans with their intervals: each as a bar with its interval."""
    heads = _heads(page)
    if not set(heads) >= SPANS:
        return
    name, last = sheet.get_name(), len(heads)

    def column(head: str) -> str:
        at = heads.index(head)
        return f"='{name}'!{xl_range_abs(1, at, rows, at)}"

    chart = book.add_chart({"type": "bar"})
    chart.add_series({
        "name": "Span", "categories": column("label"), "values": column("span"),
        "fill": {"color": "#8fa1b8"}, "gap": 60,
        "x_error_bars": {"type": "custom", "minus_values": column(ARMS[0]),
                         "plus_values": column(ARMS[1])},
    })  # fmt: skip
    chart.set_title({"name": page.name})
    chart.set_legend({"none": True})
    chart.set_y_axis({"reverse": True, "label_position": "low"})
    chart.set_size({"width": 760, "height": 60 + 24 * rows})
    sheet.insert_chart(1, last + 1, chart)
