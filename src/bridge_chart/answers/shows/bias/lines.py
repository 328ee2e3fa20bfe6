"""Fairness as lines, for files and for a terminal."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.bias.body import BiasBody
from bridge_chart.answers.shows.lines import SYMBOLS, figure
from bridge_chart.answers.shows.show import Lines

OF_GROUP = ("difference", "low", "high", "delta", "delta_low", "delta_high", "p", "size", "verdict")


def bias_lines(body: BiasBody) -> Lines:
    """A line for each question and group."""
    heads: list[Any] = ["question", "place", "marks", body.dimension, "n", "others", *OF_GROUP]
    return heads, [
        [row.label, row.place, row.maximum, group.label, group.reached, group.rest,
         *(getattr(row.of[at], name) for name in OF_GROUP)]
        for row in body.rows
        for at, group in enumerate(body.groups)
    ]  # fmt: skip


def bias_cells(body: BiasBody) -> list[list[str]]:
    """What fits a terminal: points at equal totals, with the mark."""
    heads = ["question", "marks", *(f"{g.label} ({g.reached})" for g in body.groups)]
    return [heads, *[
        [row.label, figure(row.maximum), *(
            "" if one.difference is None
            else f"{figure(100 * one.difference, sign=True)} {SYMBOLS[one.verdict]}"
            for one in row.of
        )]
        for row in body.rows
    ]]  # fmt: skip
