"""Spread as lines, for files and for a terminal."""

from __future__ import annotations

from bridge_chart.answers.shows.lines import figure
from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.spread.body import SpreadBody

BOX = ("minimum", "p10", "q1", "median", "q3", "p90", "maximum", "mean", "sd")


def spread_lines(body: SpreadBody) -> Lines:
    """A line for every group and score: the share that scored this much or more; of many groups a
    line each, with its box."""
    if not body.curves_drawn:
        return ["group", "n", "missing", *BOX], [
            [c.label, c.n, c.missing, *[getattr(c, name) for name in BOX]] for c in body.curves
        ]
    heads = ["group", "n", "missing", "score", "share_at_or_above", "low", "high"]
    return heads, [
        [curve.label, curve.n, curve.missing, *cells]
        for curve in body.curves
        for cells in zip(curve.at, curve.share, curve.low, curve.high, strict=True)
    ]


def spread_cells(body: SpreadBody) -> list[list[str]]:
    """Each group's box; the whole curve is in the CSV and JSON."""
    return [[body.dimension, "n", "missing", *BOX], *[
        [c.label, str(c.n), str(c.missing), *[figure(getattr(c, name)) for name in BOX]]
        for c in body.curves
    ]]  # fmt: skip
