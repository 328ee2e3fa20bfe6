"""An Answer's body as a table: heads and lines, at full precision; the same for every output."""

from __future__ import annotations

from typing import Any

from bridge_chart.terms.answer import (
    Answer,
    LevelsBody,
    LevelsRow,
    MakeUpBody,
    Row,
    RowsBody,
    SpreadBody,
    StartBody,
    StripBody,
    StudentsBody,
    TimeBody,
)

Line = list[Any]
ROW_COLUMNS = (
    "label", "n", "missing", "mean", "sd", "q1", "median", "q3", "yardstick", "span", "span_raw",
    "low", "high", "se", "se_kind", "df", "p", "effect", "reliability", "rank", "verdict",
    "undefined",
)  # fmt: skip
MAKE_UP_COLUMNS = (
    "dimension", "label", "in_set", "in_rest", "set_share", "rest_share", "everyone_share",
    "ratio", "low", "high", "p", "verdict",
)  # fmt: skip
TIME_COLUMNS = (
    "label", "date", "n", "missing", "value", "low", "high", "change", "change_low",
    "change_high", "change_n",
)  # fmt: skip


def lines_of(answer: Answer) -> tuple[Line, list[Line]]:
    """Heads and lines of the body; reference rows come first and say so."""
    body = answer.body
    if isinstance(body, StudentsBody):
        heads: Line = [column.label or column.key for column in body.columns]
        return heads, [list(line) for line in zip(*(c.values for c in body.columns), strict=True)]
    if isinstance(body, StripBody):
        heads = ["label", "kind", "groups", "size", "low", "high", "beyond_chance", "n", "missing"]
        return heads, [[getattr(e, head) for head in heads] for e in body.entries]
    if isinstance(body, LevelsBody):
        return _levels(body, answer.reference_levels)
    if isinstance(body, SpreadBody):
        return _spread(body)
    if isinstance(body, StartBody):
        return _start(body)
    if isinstance(body, TimeBody):
        lines = [
            [one.label, *[getattr(point, c) for c in TIME_COLUMNS]]
            for one in body.series
            for point in one.points
        ]
        return [body.dimension, *TIME_COLUMNS], lines
    if isinstance(body, MakeUpBody):
        return list(MAKE_UP_COLUMNS), [
            [getattr(e, c) for c in MAKE_UP_COLUMNS] for e in body.entries
        ]
    assert isinstance(body, RowsBody)
    lines = [_row("reference", row) for row in answer.reference]
    return ["row", *ROW_COLUMNS], lines + [_row(body.dimension, row) for row in body.rows]


def _row(kind: str, row: Row) -> Line:
    cells = [getattr(row, column) for column in ROW_COLUMNS]
    at = ROW_COLUMNS.index("rank")
    if row.rank is not None:
        cells[at] = f"{row.rank[0]} ({row.rank[1]} to {row.rank[2]})"
    return [kind, *cells]


def _levels(body: LevelsBody, reference: list[LevelsRow]) -> tuple[Line, list[Line]]:
    names = [step.name for step in body.steps]
    means = list(dict.fromkeys(kind for row in body.rows for kind in row.means))
    heads = ["row", "label", "n", "missing", *names, *[f"{name}, share" for name in names],
             *[f"{name} or better" for name in names], "passed", "pass_share", "pass_low",
             "pass_high", *[f"mean {kind}" for kind in means]]  # fmt: skip
    lines = []
    for kind, rows in (("reference", reference), (body.dimension, body.rows)):
        for row in rows:
            empty: Line = [None] * len(names)
            lines.append([
                kind, row.label, row.n, row.missing, *(row.counts or empty),
                *(row.share or empty), *(row.at_or_above or empty), row.pass_count,
                row.pass_share, row.pass_low, row.pass_high, *[row.means.get(m) for m in means],
            ])  # fmt: skip
    return heads, lines


def _spread(body: SpreadBody) -> tuple[Line, list[Line]]:
    """A line for every group and score: the share that scored this much or more."""
    heads = ["group", "n", "missing", "score", "share_at_or_above", "low", "high"]
    lines = [
        [curve.label, curve.n, curve.missing, *cells]
        for curve in body.curves
        for cells in zip(curve.at, curve.share, curve.low, curve.high, strict=True)
    ]
    return heads, lines


def _start(body: StartBody) -> tuple[Line, list[Line]]:
    if body.dots is not None:
        groups = [group.label for group in body.groups]
        cells = zip(body.dots.x, body.dots.y, body.dots.group, strict=True)
        return [body.x_label, body.y_label, "group"], [
            [x, y, groups[group] if group >= 0 else ""] for x, y, group in cells
        ]
    assert body.density is not None
    lines = [
        [body.density.x_edges[i], body.density.y_edges[j], n]
        for i, row in enumerate(body.density.counts)
        for j, n in enumerate(row)
        if n
    ]
    return [f"{body.x_label} from", f"{body.y_label} from", "students"], lines
