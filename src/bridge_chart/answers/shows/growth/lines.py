"""Growth as lines, for files and for a terminal."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.growth.body import GrowthBody, GrowthRow
from bridge_chart.answers.shows.lines import SYMBOLS, percent
from bridge_chart.answers.shows.show import Lines


def growth_lines(body: GrowthBody) -> Lines:
    """Every figure of a row."""
    heads: list[Any] = [
        "row", "label", "n", "missing", "ranked", "median_growth_percentile", "median_low",
        "median_high", "mean_growth_percentile", "score_then", "score_now", "change", "change_low",
        "change_high", "national_rank_then", "national_rank_now",
    ]  # fmt: skip
    for goal in body.goals:
        heads += [f"met_{goal}", f"of_{goal}", f"share_{goal}", f"low_{goal}", f"high_{goal}"]
    heads += [
        "rank_fell", "rank_fell_of", "rank_fell_share", "error_alone", "fell_beyond_error",
        "beyond_by_error_alone",
        "span", "low", "high", "verdict",
    ]  # fmt: skip
    lines = [
        _line(kind, row, body)
        for kind, rows in (("reference", body.reference), (body.dimension, body.rows))
        for row in rows
    ]
    return heads, lines


def _line(kind: str, row: GrowthRow, body: GrowthBody) -> list[Any]:
    met = {one.goal: one for one in row.met}
    told: list[Any] = [
        kind, row.label, row.n, row.missing, row.ranked, row.median, row.median_low,
        row.median_high, row.mean, row.then_score, row.now_score, row.change, row.change_low,
        row.change_high, row.then_rank, row.now_rank,
    ]  # fmt: skip
    for goal in body.goals:
        one = met.get(goal)
        told += [None] * 5 if one is None else [one.n, one.of, one.share, one.low, one.high]
    fell = row.fell
    told += [None] * 6 if fell is None else [
        fell.n, fell.of, fell.share, fell.alone, fell.beyond.n, fell.beyond_alone
    ]  # fmt: skip
    return [*told, row.span, row.low, row.high, row.verdict]


def growth_cells(body: GrowthBody) -> list[list[str]]:
    """The groups with what was asked first."""
    goals = [f"met {goal}" for goal in body.goals]
    out = [[body.dimension, "n", "missing", "growth percentile", "95% interval", *goals,
            "rank fell", "by error", ""]]  # fmt: skip
    for row in [*body.reference, *body.rows]:
        middle = "" if row.median is None else f"{row.median:.0f}"
        between = "" if row.median_low is None else f"{row.median_low:.0f} to {row.median_high:.0f}"
        met = {one.goal: percent(one.share) for one in row.met}
        out.append([
            row.label, str(row.n), str(row.missing), middle, between,
            *[met.get(goal, "") for goal in body.goals],
            percent(row.fell.share if row.fell else None),
            percent(row.fell.alone if row.fell else None), SYMBOLS[row.verdict],
        ])  # fmt: skip
    return out
