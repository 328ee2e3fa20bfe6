"""Runs all benchmarks on one large district and prints one table of ratios."""

from __future__ import annotations

import argparse
import sys

from bench.browser import browser_rows
from bench.compare import compare_rows
from bench.core import core_rows
from bench.district import ready
from bench.intake import intake_rows
from bench.latency import latency_lines
from bench.people import people_rows
from bench.workbook import workbook_rows


def main() -> None:
    """Make the district if it is not there, measure, print."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--students", type=int, default=200_000)
    parser.add_argument("--runs", type=int, default=7)
    parser.add_argument("--core", action="store_true", help="the core's calculations only")
    parser.add_argument("--latency", action="store_true", help="people asking at once, only")
    parser.add_argument("--intake", action="store_true", help="bringing a large file in, only")
    parser.add_argument("--browser", action="store_true", help="key press to drawn answer, only")
    parser.add_argument("--people", action="store_true", help="lists and paper, only")
    parser.add_argument("--workbook", action="store_true", help="taking out a workbook, only")
    given = parser.parse_args()
    if given.latency:
        for line in latency_lines(ready(given.students)):
            sys.stdout.write(line + "\n")
        return
    if given.people:
        # On the demo district: BENCH_HOME names its folder.
        rows = people_rows()
    elif given.browser:
        rows = browser_rows(ready(given.students), given.runs)
    elif given.workbook:
        rows = workbook_rows()
    elif given.intake:
        rows = intake_rows(ready(given.students))
    else:
        rows = core_rows(given.runs)
    if not (given.core or given.intake or given.browser or given.workbook or given.people):
        place = ready(given.students)
        rows += [*compare_rows(place, given.runs), *intake_rows(place)]
    width = max(len(row[0]) for row in rows)
    if not given.people:
        sys.stdout.write(f"\n{given.students:,} students\n")
    for what, ratio, note in rows:
        sys.stdout.write(f"{what.ljust(width)}  {ratio:>8.3f}  {note}\n")


if __name__ == "__main__":
    main()
