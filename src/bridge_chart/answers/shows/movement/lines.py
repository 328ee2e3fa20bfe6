"""Movement as lines, for files and for a terminal."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.lines import SYMBOLS, percent
from bridge_chart.answers.shows.movement.body import MovementBody
from bridge_chart.answers.shows.show import Lines


def movement_lines(body: MovementBody) -> Lines:
    """First the moves, then the groups: who earned what, beside similar starters."""
    heads: list[Any] = [
        "row", "label", "now", "n", "missing", "full", "part", "none", "credit", "low", "high",
        "similar_starters", "span", "span_low", "span_high", "error_alone", "verdict",
    ]  # fmt: skip
    names = [level.name for level in body.now_in]
    empty: list[Any] = [None] * 4
    lines: list[list[Any]] = [
        ["move", names[flow.before], names[flow.now], flow.n, None, None, None, None, flow.credit,
         None, None, *empty, None, None]
        for flow in body.flows
    ]  # fmt: skip
    for kind, rows in (("reference", body.reference), (body.dimension, body.rows)):
        lines += [
            [kind, row.label, None, row.n, row.missing, row.full.n, row.part.n, row.none.n,
             row.credit, row.low, row.high, row.similar, row.span, row.span_low, row.span_high,
             row.alone, row.verdict]
            for row in rows
        ]  # fmt: skip
    return heads, lines


def movement_cells(body: MovementBody) -> list[list[str]]:
    """The matrix, then the groups."""
    names = [level.name for level in body.now_in]
    held = {(flow.before, flow.now): flow.n for flow in body.flows}
    out = [[f"{body.before} \\ {body.now}", *names, "", "", ""]]
    out += [
        [name, *[str(held.get((b, n), "")) for n in range(len(names))], "", "", ""]
        for b, name in enumerate(names)
    ]
    blank = [""] * max(len(names) - 4, 0)
    out.append([body.dimension, "n", "missing", "full", "credit", *blank, "95% interval",
                "similar starters", ""])  # fmt: skip
    for row in [*body.reference, *body.rows]:
        between = "" if row.low is None else f"{percent(row.low)} to {percent(row.high)}"
        out.append([
            row.label, str(row.n), str(row.missing), percent(row.full.share), percent(row.credit),
            *blank, between, percent(row.similar), SYMBOLS[row.verdict],
        ])  # fmt: skip
    return out
