"""Awards as lines, for files and for a terminal: a line for each condition, then the groups."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.awards.body import AwardsBody
from bridge_chart.answers.shows.awards.words import needed
from bridge_chart.answers.shows.lines import name_of, percent
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
    called = {award.measure: award.name for award in body.awards}
    lines = [["", "label", "needs", "n", "missing", *names, "met", "95% interval"]]
    for one in body.conditions:
        of = f"{called[one.measure]}: " if len(called) > 1 and not one.whole else ""
        counts = [str(n) for n in one.counts] or ["too few"] * len(names)
        share = percent(one.counts[-1] / one.n) if one.counts and one.n else ""
        lines.append([
            "award" if one.whole else "condition", f"{of}{one.name}", needed(one), str(one.n),
            str(one.missing), *counts, share, "",
        ])  # fmt: skip
    for row in [*body.reference, *body.rows]:
        between = ""
        if row.pass_low is not None and row.pass_high is not None:
            between = f"{percent(row.pass_low)} to {percent(row.pass_high)}"
        counts = [str(n) for n in row.counts] or [percent(x) for x in row.share]
        lines.append([
            body.dimension, name_of(row), "", str(row.n), str(row.missing),
            *(counts or [""] * len(names)), percent(row.pass_share), between,
        ])  # fmt: skip
    return lines
