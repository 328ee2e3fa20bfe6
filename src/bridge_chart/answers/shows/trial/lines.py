"""A try as lines, for files and for a terminal; each line says that it is none of results."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.lines import SYMBOLS
from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.trial.body import TrialBody
from bridge_chart.answers.shows.trial.words import said

A_TRY = "a try, not results"


def trial_lines(body: TrialBody) -> Lines:
    """Rows without and with the try, then the curve."""
    heads: list[Any] = [
        "what", "label", "n", "missing", "moved", "now", "tried", "low", "high", "verdict_now",
        "verdict", "kept",
    ]  # fmt: skip
    whole = ["group", body.wanted_words, body.group.n, None, body.moved, body.now,
             body.with_try, None, None, None, None, A_TRY]  # fmt: skip
    rows = [
        [body.dimension, row.label, row.n, row.missing, row.moved, row.now, row.tried, row.low,
         row.high, row.verdict_now, row.verdict, A_TRY]
        for row in body.rows
    ]  # fmt: skip
    curve = [
        ["students who gain a step", str(n), None, None, n, None, figure, None, None, None, None,
         A_TRY]
        for n, figure in enumerate(body.curve)
    ]  # fmt: skip
    return heads, [whole, *rows, *curve]


def trial_cells(body: TrialBody) -> list[list[str]]:
    out = [["a try, not results", "n", "moved", "now", "tried", ""]]
    out.append([
        body.wanted_words, str(body.group.n), str(body.moved), said(body.now, body),
        said(body.with_try, body), "" if body.reachable else "not reachable",
    ])  # fmt: skip
    out += [
        [row.label, str(row.n), str(row.moved), said(row.now, body), said(row.tried, body),
         f"{SYMBOLS[row.verdict_now]} {SYMBOLS[row.verdict]}".strip()]
        for row in body.rows
    ]  # fmt: skip
    return out
