"""Awards as lines, for files and for a terminal: a line for each condition, then the groups."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.awards.body import AwardsBody
from bridge_chart.answers.shows.levels.lines import level_cells
from bridge_chart.answers.shows.lines import name_of
from bridge_chart.answers.shows.show import Lines


def award_lines(body: AwardsBody) -> Lines:
    """Counts of each condition and award, and of each group in the award."""
    names = [step.name for step in body.steps]
    heads: list[Any] = [
        "row", "award", "label", "needed", "unit", "n", "missing", *names, "met_share", "met_low",
        "met_high", "verdict",
    ]  # fmt: skip
    called = {award.measure: award.name for award in body.awards}
    empty: list[Any] = [None] * len(names)
    lines: list[list[Any]] = [
        [
            "award" if one.whole else "condition", called[one.measure], one.name, one.needed,
            one.unit, one.n, one.missing, *(one.counts or empty),
            one.counts[-1] / one.n if one.counts and one.n else None, None, None, "none",
        ]
        for one in body.conditions
    ]  # fmt: skip
    for kind, rows in (("reference", body.reference), (body.dimension, body.rows)):
        lines += [
            [
                kind, called[row.measure], name_of(row), None, None, row.n, row.missing,
                *(row.counts or empty), row.pass_share, row.pass_low, row.pass_high, row.verdict,
            ]
            for row in rows
        ]  # fmt: skip
    return heads, lines


def award_cells(body: AwardsBody) -> list[list[str]]:
    """The conditions, then the groups."""
    names = [step.name for step in body.steps]
    lines = [["condition", "needs", "n", "missing", *names]]
    lines += [
        [
            one.name, f"{one.needed:g} {one.unit}", str(one.n), str(one.missing),
            *([str(n) for n in one.counts] or ["too few"] * len(names)),
        ]
        for one in body.conditions
    ]  # fmt: skip
    return [*lines, [], *level_cells(body)]
