"""Chances as lines, for files and for a terminal."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.chances.body import ChancesBody
from bridge_chart.answers.shows.lines import percent
from bridge_chart.answers.shows.show import Lines

WHY = {"too_few": "too few", "one_cohort": "one cohort alone"}


def chances_lines(body: ChancesBody) -> Lines:
    """A line for each level and outcome."""
    heads: list[Any] = [
        "level", "now", "past", "cohorts", "outcome", "share", "low", "high", "or_better",
        "or_better_low", "or_better_high", "rounded_to", "why_none",
    ]  # fmt: skip
    lines: list[list[Any]] = []
    for row in body.rows:
        about = [row.label, row.n, row.past, row.cohorts]
        if not row.share:
            why = WHY.get(row.undefined or "")
            lines.append([*about, *[None] * 8, why])
            continue
        lines += [
            [*about, outcome.name, row.share[n], row.low[n], row.high[n], row.at_or_above[n],
             row.above_low[n], row.above_high[n], row.coarse, None]
            for n, outcome in enumerate(body.outcomes)
        ]  # fmt: skip
    return heads, lines


def chances_cells(body: ChancesBody) -> list[list[str]]:
    out = [["level", "now", "past", *[one.name for one in body.outcomes], ""]]
    for row in body.rows:
        shares = [percent(share) for share in row.share] or [""] * len(body.outcomes)
        past = "" if row.past is None else str(row.past)
        out.append([row.label, str(row.n), past, *shares, WHY.get(row.undefined or "", "")])
    return out
