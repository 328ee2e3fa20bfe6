"""Taking out: our workbook against a plain loop of XlsxWriter over the same cells."""

from __future__ import annotations

import multiprocessing
import resource
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from tempfile import TemporaryDirectory

import xlsxwriter

from bridge_chart.output.workbook import Page, to_workbook

Row = tuple[str, float, str]
ROWS, COLUMNS = 100_000, 40


def _heads() -> list[str]:
    return ["label", "verdict", "day", *(f"figure {n}" for n in range(COLUMNS - 3))]


def _lines(rows: int) -> Iterator[list[object]]:
    for n in range(rows):
        yield [f"Row {n}", "ahead" if n % 2 else "unclear", "2026-03-02",
               *(n / (at + 1) for at in range(COLUMNS - 3))]  # fmt: skip


def _ours(rows: int) -> None:
    to_workbook("Many rows", [("Notes", ["none"])], [Page("Figures", _heads(), _lines(rows))])


def _plain(rows: int) -> None:
    with TemporaryDirectory() as folder:
        book = xlsxwriter.Workbook(Path(folder) / "plain.xlsx")
        sheet = book.add_worksheet()
        for at, head in enumerate(_heads()):
            sheet.write(0, at, head)
        for n, line in enumerate(_lines(rows), start=1):
            for at, cell in enumerate(line):
                sheet.write(n, at, cell)
        book.close()


def _measured(
    run: Callable[[int], None], rows: int, told: multiprocessing.SimpleQueue[object]
) -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    start = time.perf_counter()
    run(rows)
    took = time.perf_counter() - start
    told.put((took, resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before))


def _alone(run: Callable[[int], None], rows: int) -> tuple[float, float]:
    """Seconds and the growth of memory (MB), in a process of its own."""
    context = multiprocessing.get_context("spawn")
    told = context.SimpleQueue()
    process = context.Process(target=_measured, args=(run, rows, told))
    process.start()
    seconds, kilobytes = told.get()
    process.join()
    return float(seconds), float(kilobytes) / 1024


def workbook_rows(rows: int = ROWS) -> list[Row]:
    """Ratios to the plain loop; below 1 we are quicker, or take less memory."""
    (ours, held), (plain, all_) = _alone(_ours, rows), _alone(_plain, rows)
    return [
        ("workbook / plain loop of XlsxWriter", ours / plain,
         f"{rows:,} × {COLUMNS}; {ours:.1f} s against {plain:.1f} s"),
        ("memory of the workbook / of the plain loop", held / all_,
         f"{held:.0f} MB against {all_:.0f} MB"),
    ]  # fmt: skip
