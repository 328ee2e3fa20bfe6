"""Questions as lines, for files and for a terminal."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.items.body import Item, ItemsBody
from bridge_chart.answers.shows.lines import SYMBOLS, figure, percent
from bridge_chart.answers.shows.show import Lines

OF_SHARE = ("n", "missing", "omitted", "not_reached", "share", "low", "high", "nation")
OF_BESIDE = ("rest", "rest_n", "span", "low", "high", "p", "verdict")


def item_lines(body: ItemsBody) -> Lines:
    """A line for each row: of every group its share, and how far from its rest."""
    tags = list(dict.fromkeys(tag for row in body.rows for tag in row.about))
    heads: list[Any] = [
        body.by, "place", "questions", "marks", *tags, "discrimination", "alpha", "report", "again",
    ]  # fmt: skip
    for at, group in enumerate(body.groups):
        heads += [f"{group.label}: {name}" for name in OF_SHARE]
        if any(len(row.beside) > at for row in body.rows):
            heads += [f"{group.label} beside its rest: {name}" for name in OF_BESIDE]
    return heads, [_line(row, tags) for row in body.rows]


def _line(row: Item, tags: list[str]) -> list[Any]:
    line: list[Any] = [
        row.label, row.place, row.questions, row.maximum, *(row.about.get(tag) for tag in tags),
        row.discrimination, row.alpha, row.report, row.again,
    ]  # fmt: skip
    for at, share in enumerate(row.shares):
        line += [getattr(share, name) for name in OF_SHARE]
        if len(row.beside) > at:
            line += [getattr(row.beside[at], name) for name in OF_BESIDE]
    return line


def item_cells(body: ItemsBody) -> list[list[str]]:
    """What fits a terminal: the share of each group, and the first one beside its rest."""
    heads = [body.by, "marks", *(f"{g.label} ({g.n})" for g in body.groups)]
    beside = ["the rest", "apart", "95% interval", ""] if body.against else []
    lines = [[*heads, *beside]]
    for row in body.rows:
        cells = [row.label, figure(row.maximum), *(percent(one.share) for one in row.shares)]
        if row.beside:
            one = row.beside[0]
            between = (
                "" if one.low is None or one.high is None
                else f"{_points(one.low)} to {_points(one.high)}"
            )  # fmt: skip
            cells += [percent(one.rest), _points(one.span), between, SYMBOLS[one.verdict]]
        lines.append(cells)
    return lines


def _points(span: float | None) -> str:
    return "" if span is None else figure(100 * span, sign=True)
