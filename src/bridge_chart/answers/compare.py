"""Spans and Table: how did these groups do, against what?"""

from __future__ import annotations

import re

from bridge_chart.answers.coverage import coverage
from bridge_chart.answers.frame import envelope
from bridge_chart.answers.method import method_of
from bridge_chart.answers.nation import national
from bridge_chart.answers.population import everybody
from bridge_chart.answers.readings import readings_of
from bridge_chart.answers.rows import Slice, reference_row, rows_of
from bridge_chart.answers.slices import measure_dimension, measure_outside, one_axis, slices_of
from bridge_chart.answers.view import View
from bridge_chart.answers.warnings import warnings_of
from bridge_chart.core.describing.describe import moments
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Answer, Row, RowsBody, RowStep
from bridge_chart.terms.errors import InvalidQuestion, NotFound

SORTABLE = (
    "label", "n", "missing", "mean", "sd", "q1", "median", "q3", "value", "yardstick", "span",
    "span_raw", "low", "high", "effect", "reliability",
)  # fmt: skip

IN_ORDER = ("figure", "sitting", "question")
"""Measures that keep their own order: predicted after actual, winter after autumn."""


def compare(views: list[View]) -> Answer:
    """The Answer to a question shown as spans or as a table; the figures are the same."""
    question = views[0].question
    if question.show == "spans" and not question.against:
        one_axis(views)
    parts = slices_of(views)
    first = parts[0]
    several = len(parts) > 1
    sort = question.sort
    if not sort and not any(_ordered(d) for d in question.split):
        sort = [q.SortBy(by="span" if first.out.spans else "value")]
    blocks = [sort_rows(rows_of(part, several=several), sort) for part in parts]
    references = [row for part in parts for row in _references(part)]
    if several:
        rows, references, dimension, within = _several(parts, blocks, references)
    else:
        rows, within = blocks[0], first.grouping.within or None
        rows = _by_outer(rows) if within else rows
        dimension = first.grouping.label
    covered = [coverage(part.view, part.people, part.out.reasons) for part in parts]
    return envelope(
        views,
        first.out,
        body=RowsBody(
            show="table" if question.show == "table" else "spans",
            dimension=dimension,
            within=within,
            rows=rows,
        ),
        coverage=covered,
        reference=references,
        readings=readings_of(parts, rows, references),
        method=method_of(first, rows),
        warnings=warnings_of(parts, covered, rows),
    )


def _ordered(dimension: q.Dimension) -> bool:
    """Whether the groups have an order of their own, which is kept unless another is asked for."""
    year = isinstance(dimension, q.ByField) and dimension.field == "year_level"
    return year or isinstance(dimension, q.ByBand | q.ByLevel)


def _references(part: Slice) -> list[Row]:
    """Everyone, the schools in scope, the nation: as the question asks."""
    view, wanted = part.view, part.view.question.reference
    rows = []
    # Against a group, everybody is the yardstick already: the row would be held against itself.
    asked = "district" in wanted and part.out.group is None
    everyone = everybody(view) if asked else None
    if everyone is not None:
        rows.append(reference_row(part, everyone))
    if "nation" in wanted:
        row = nation_row(part)
        if row is not None:
            rows.append(row)
    return rows


def nation_row(part: Slice) -> Row | None:
    """The nation's mean for those counted, by their forms and year levels; None without it."""
    view, out = part.view, part.out
    try:
        held = national(view.snapshot, view.quantity)
    except NotFound:
        return None
    at = part.grouping.at[out.reasons[part.grouping.at] == 0]
    told = held.expected[at]
    if not len(told):
        return None
    mean = float(moments(told, (told != told) * 0, 1).mean[0])
    return Row(
        key="nation", label="The nation", measure=view.quantity.name,
        n=int(held.table_n) if held.table_n == held.table_n else 0, missing=0,
        mean=mean, value=mean, open=False,
    )  # fmt: skip


def _several(
    parts: list[Slice], blocks: list[list[Row]], references: list[Row]
) -> tuple[list[Row], list[Row], str, str | None]:
    """Rows of several quantities as one list: by group with the quantities inside, or each
    quantity with its groups; and what the two dimensions are called."""
    word, names = measure_dimension([part.view for part in parts])
    short = {p.view.quantity.name: name for p, name in zip(parts, names, strict=True)}

    def called(row: Row) -> Row:
        step = RowStep(key=row.measure, label=short[row.measure])
        if not split:
            return row.model_copy(update={"label": step.label, "path": [step]})
        group = row.path[0]
        path = [step, group] if outside else [group, step]
        label = f"{path[0].label}, {path[1].label}"
        return row.model_copy(update={"label": label, "path": path})

    split = [d for d in parts[0].view.question.split if not isinstance(d, str)]
    outside = measure_outside(parts[0].view.question)
    named = [
        row.model_copy(update={
            "label": f"{row.label}, {short[row.measure]}", "key": f"{row.key}:{row.measure}",
            "path": [
                RowStep(key=row.key, label=row.label),
                RowStep(key=row.measure, label=short[row.measure]),
            ],
        })
        for row in references
    ]  # fmt: skip
    rows = [called(row) for block in blocks for row in block]
    if not split:
        question = parts[0].view.question
        if not question.sort and word not in IN_ORDER:
            by = "span" if parts[0].out.spans else "value"
            rows = sort_rows(rows, [q.SortBy(by=by)])
        return sort_rows(rows, question.sort), named, word, None
    dimension = parts[0].grouping.label
    if outside:
        return rows, named, word, dimension
    order: dict[str, int] = {}
    for row in rows:
        order.setdefault(row.path[0].key, len(order))
    rows.sort(key=lambda row: order[row.path[0].key])
    return rows, named, dimension, word


def _by_outer(rows: list[Row]) -> list[Row]:
    """Rows of a two-way split: outer groups in the order of their first row, kept together."""
    order: dict[str, int] = {}
    for row in rows:
        order.setdefault(row.path[0].key, len(order))
    return sorted(rows, key=lambda row: (order[row.path[0].key], row.path[1].key))


def sort_rows(rows: list[Row], sort: list[q.SortBy]) -> list[Row]:
    """By the wanted columns; undefined last."""
    for by in reversed(sort):
        if by.by not in SORTABLE:
            raise InvalidQuestion(
                f"Rows cannot be sorted by “{by.by}”.",
                next_step=f"They can by: {', '.join(SORTABLE)}.",
            )
        have = [row for row in rows if getattr(row, by.by) is not None]
        lack = [row for row in rows if getattr(row, by.by) is None]
        have.sort(key=lambda row: sort_key(getattr(row, by.by)), reverse=by.dir == "desc")
        rows = have + lack
    return rows


def sort_key(value: object) -> tuple[object, ...]:
    """“Year 10” after “Year 9”: runs of digits in a text compare as numbers."""
    if not isinstance(value, str):
        return (value,)
    parts = re.split(r"(\d+)", value.lower())
    return tuple((0, int(part), "") if part.isdigit() else (1, 0, part) for part in parts)
