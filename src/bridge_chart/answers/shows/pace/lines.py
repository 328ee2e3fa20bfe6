"""Pace as lines, for files and for a terminal."""

from __future__ import annotations

from typing import Any

from bridge_chart.answers.shows.lines import percent
from bridge_chart.answers.shows.pace.answer import FURTHEST
from bridge_chart.answers.shows.pace.body import PaceBody, PaceRow
from bridge_chart.answers.shows.show import Lines
from bridge_chart.terms.wording import number

STEPS = tuple(range(-FURTHEST, FURTHEST + 1))


def _head(step: int) -> str:
    """
    >>> _head(-2), _head(0), _head(2)
    ('−2 or less', '0', '+2 or more')
    """
    sign = "+" if step > 0 else "−" if step < 0 else ""
    more = " or more" if step == FURTHEST else " or less" if step == -FURTHEST else ""
    return f"{sign}{abs(step)}{more}"


def pace_lines(body: PaceBody) -> Lines:
    """Every figure of a row."""
    heads: list[Any] = [
        "row", "label", "n", "missing", "with_both_levels",
        *[f"made {_head(step)}" for step in STEPS],
        f"made_{body.wanted}_or_more", "share", "share_low", "share_high", "mean_steps",
        "pace_n", "pace_a_year", "pace_low", "pace_high", "ends_n", "ends_at", "ends_low",
        "ends_high",
    ]  # fmt: skip
    lines = [
        _line(kind, row)
        for kind, rows in (("reference", body.reference), (body.dimension, body.rows))
        for row in rows
    ]
    return heads, lines


def _line(kind: str, row: PaceRow) -> list[Any]:
    made: list[Any] = [one.n for one in row.made] or [None] * len(STEPS)
    told: list[Any] = []
    for one in (row.pace, row.ends):
        told += [one.n, one.mean, one.low, one.high]
    enough = None if row.enough is None else row.enough.n
    return [kind, row.label, row.n, row.missing, row.stepped, *made, enough, row.share, row.low,
            row.high, row.steps, *told]  # fmt: skip


def pace_cells(body: PaceBody) -> list[list[str]]:
    out = [[body.dimension, "n", "missing", *map(_head, STEPS), f"{body.wanted} or more",
            "95% interval", "a year", "ends at"]]  # fmt: skip
    for row in [*body.reference, *body.rows]:
        made = [str(one.n) for one in row.made] or [""] * len(STEPS)
        between = "" if row.low is None else f"{percent(row.low)} to {percent(row.high)}"
        pace, ends = row.pace.mean, row.ends.mean
        out.append([
            row.label, str(row.n), str(row.missing), *made, percent(row.share), between,
            "" if pace is None else number(pace), "" if ends is None else number(ends),
        ])  # fmt: skip
    return out
