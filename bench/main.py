"""Runs all benchmarks on one large district and prints one table of ratios."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable

from bench.awards import award_rows
from bench.browser import browser_rows
from bench.compare import compare_rows
from bench.core import core_rows
from bench.district import ready
from bench.inside import inside_rows
from bench.intake import intake_rows
from bench.latency import latency_lines
from bench.people import people_rows
from bench.workbook import workbook_rows

PARTS: dict[str, str] = {
    "core": "the core's calculations only",
    "latency": "people asking at once, only",
    "intake": "bringing a large file in, only",
    "browser": "key press to drawn answer, only",
    "people": "lists and paper, only (on the demo district: BENCH_HOME names its folder)",
    "workbook": "taking out a workbook, only",
    "inside": "inside a test, only",
    "awards": "awards, only",
}


def main() -> None:
    """Make the district if it is not there, measure, print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--students", type=int, default=200_000)
    parser.add_argument("--runs", type=int, default=7)
    for part, told in PARTS.items():
        parser.add_argument(f"--{part}", action="store_true", help=told)
    given = parser.parse_args()
    if given.latency:
        for line in latency_lines(ready(given.students)):
            sys.stdout.write(line + "\n")
        return
    rows = _rows(next((part for part in PARTS if getattr(given, part)), ""), given)
    width = max(len(row[0]) for row in rows)
    if not given.people:
        sys.stdout.write(f"\n{given.students:,} students\n")
    for what, ratio, note in rows:
        sys.stdout.write(f"{what.ljust(width)}  {ratio:>8.3f}  {note}\n")


def _rows(part: str, given: argparse.Namespace) -> list[tuple[str, float, str]]:
    """The ratios of one part, or of the core and all that the large district is needed for."""
    ways: dict[str, Callable[[], list[tuple[str, float, str]]]] = {
        "core": lambda: core_rows(given.runs),
        "people": people_rows,
        "awards": award_rows,
        "workbook": workbook_rows,
        "browser": lambda: browser_rows(ready(given.students), given.runs),
        "intake": lambda: intake_rows(ready(given.students)),
        "inside": lambda: inside_rows(ready(given.students), given.runs),
        "compare": lambda: compare_rows(ready(given.students), given.runs),
    }
    asked = [part] if part else ["core", "awards", "compare", "inside", "intake"]
    return [row for one in asked for row in ways[one]()]


if __name__ == "__main__":
    main()
