"""How did these groups do, against what? The rows behind Spans and Table."""

from __future__ import annotations

from collections.abc import Sequence

from bridge_chart.answers.figures.order import in_order
from bridge_chart.answers.figures.pinned import pinned_rows
from bridge_chart.answers.figures.rows import rows_together
from bridge_chart.answers.figures.several import by_outer, several_of
from bridge_chart.answers.figures.slices import Slice, one_axis
from bridge_chart.answers.shows.show import Keys, Shown
from bridge_chart.answers.shows.spans.body import RowsBody
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.method import method_of
from bridge_chart.answers.words.readings import readings_of
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Row

ROW_KEYS: Keys = frozenset({"split", "focus", "reference", "sort"})
SORTABLE = (
    "label", "n", "missing", "mean", "sd", "q1", "median", "q3", "value", "yardstick", "span",
    "span_raw", "low", "high", "effect", "reliability",
)  # fmt: skip
IN_ORDER = ("figure", "sitting", "question")
"""Measures that keep their own order: predicted after actual, winter after autumn."""


def rows_shown(parts: Sequence[Slice]) -> Shown:
    """A row for each group and quantity; the figures are the same in both lenses."""
    question = parts[0].view.question
    if question.show == "spans" and not question.against:
        one_axis([part.view for part in parts])
    body = _body(parts)
    covered = [coverage(part.view, part.people, part.out.reasons) for part in parts]
    return Shown(
        body=body,
        coverage=covered,
        readings=readings_of(parts, body.rows, body.reference),
        method=method_of(parts[0], body.rows),
        warnings=warnings_of(parts, covered, body.rows, district=True),
    )


def _body(parts: Sequence[Slice]) -> RowsBody:
    first, several = parts[0], len(parts) > 1
    question = first.view.question
    sort = question.sort
    if not sort and not any(_ordered(d) for d in question.split):
        sort = (q.SortBy(by="span" if first.out.spans else "value"),)
    blocks = [_sorted(rows, sort) for rows in rows_together(parts)]
    pinned = [row for part in parts for row in pinned_rows(part)]
    dimension, within = first.grouping.label, first.grouping.within or None
    rows = [row for block in blocks for row in block]
    if several:
        beside = several_of(parts)
        rows, pinned = list(map(beside.called, rows)), list(map(beside.called_pinned, pinned))
        dimension, within = beside.dimensions
        if not beside.split:
            keep = question.sort or beside.word in IN_ORDER
            rows = _sorted(rows, question.sort if keep else sort)
        elif not beside.outside:
            rows = by_outer(rows)
    elif within:
        rows = by_outer(rows, inner=True)
    return RowsBody(
        show="table" if question.show == "table" else "spans",
        dimension=dimension, within=within, rows=rows, reference=pinned,
    )  # fmt: skip


def _ordered(dimension: q.Dimension) -> bool:
    """Whether the groups have an order of their own, which is kept unless another is asked for."""
    year = isinstance(dimension, q.ByField) and dimension.field == "year_level"
    return year or isinstance(dimension, q.ByBand | q.ByLevel)


def _sorted(rows: Sequence[Row], sort: Sequence[q.SortBy]) -> list[Row]:
    return in_order(rows, sort, SORTABLE, "Rows", getattr)
