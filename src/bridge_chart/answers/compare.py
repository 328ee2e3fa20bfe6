"""Spans and Table: how did these groups do, against what?"""

from __future__ import annotations

import re

from bridge_chart.answers.coverage import coverage
from bridge_chart.answers.figures import Outcome, outcome, reference_row, rows_of
from bridge_chart.answers.frame import envelope
from bridge_chart.answers.grouping import group
from bridge_chart.answers.method import method_of
from bridge_chart.answers.population import population
from bridge_chart.answers.readings import readings_of
from bridge_chart.answers.view import View
from bridge_chart.answers.warnings import warnings_of
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Answer, Row, RowsBody
from bridge_chart.terms.errors import InvalidQuestion, TooWide

MOST_ROWS = 5000
SORTABLE = (
    "label", "n", "missing", "mean", "sd", "q1", "median", "q3", "value", "yardstick", "span",
    "span_raw", "low", "high", "effect",
)  # fmt: skip


def compare(view: View) -> Answer:
    """The Answer to a question shown as spans or as a table; the figures are the same."""
    question = view.question
    people = population(view)
    out = outcome(view)
    grouping = group(view, question.split[0] if question.split else None, people)
    if len(grouping.groups) > MOST_ROWS:
        raise TooWide(
            f"This split has {len(grouping.groups)} rows; the most that can be shown is "
            f"{MOST_ROWS}.",
            next_step="Narrow it first, to a school or a year level.",
        )
    rows = sort_rows(rows_of(view, out, grouping), question.sort, out)
    reference = []
    if "district" in question.reference:
        everyone = population(view, everywhere=True)
        reference = [reference_row(view, out, everyone)]
    covered = coverage(view, people, out.reasons)
    return envelope(
        view,
        out,
        body=RowsBody(
            show="table" if question.show == "table" else "spans",
            dimension=grouping.label,
            rows=rows,
        ),
        coverage=[covered],
        reference=reference,
        readings=readings_of(view, out, grouping, rows, reference),
        method=method_of(view, out, rows, grouping),
        warnings=warnings_of(view, out, people, covered, rows),
    )


def sort_rows(rows: list[Row], sort: list[q.SortBy], out: Outcome) -> list[Row]:
    """By the wanted columns; furthest behind first if nothing is said; undefined last."""
    wanted = sort or [q.SortBy(by="span" if out.held is not None else "value")]
    for by in reversed(wanted):
        if by.by not in SORTABLE:
            raise InvalidQuestion(
                f"Rows cannot be sorted by “{by.by}”.",
                next_step=f"They can by: {', '.join(SORTABLE)}.",
            )
        have = [row for row in rows if getattr(row, by.by) is not None]
        lack = [row for row in rows if getattr(row, by.by) is None]
        have.sort(key=lambda row: _sort_key(row, by.by), reverse=by.dir == "desc")
        rows = have + lack
    return rows


def _sort_key(row: Row, column: str) -> tuple[object, ...]:
    value = getattr(row, column)
    if column != "label":
        return (value,)
    # “Year 10” after “Year 9”: runs of digits compare as numbers.
    parts = re.split(r"(\d+)", value.lower())
    return tuple((0, int(part), "") if part.isdigit() else (1, 0, part) for part in parts)
