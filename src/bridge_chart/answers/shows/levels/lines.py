"""Levels as lines, for files and for a terminal."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.levels.body import LevelsRow, SteppedBody
from bridge_chart.answers.shows.lines import name_of, percent
from bridge_chart.answers.shows.outside import HIDDEN, counted_in, in_no_order, shown_cells
from bridge_chart.answers.shows.show import Chart, Lines
from bridge_chart.core.hiding.shares import FEWEST_SHOWN


def level_lines(body: SteppedBody) -> Lines:
    """Counts, shares and shares at or above, for each step; pinned rows come first."""
    names = [step.name for step in body.steps]
    means = list(dict.fromkeys(kind for row in body.rows for kind in row.means))
    heads: list[Any] = [
        "row", "label", "n", "missing", *names, *map(_share_head, names),
        *[f"{name} or better" for name in names], "passed", "pass_share", "pass_low",
        "pass_high", "others", "others_low", "others_high", "by_yardstick", "span", "span_low",
        "span_high", "verdict",
        *[f"mean {kind}" for kind in means],
    ]  # fmt: skip
    lines = []
    for kind, rows in (("reference", body.reference), (body.dimension, body.rows)):
        for row in rows:
            empty: list[Any] = [None] * len(names)
            lines.append([
                kind, name_of(row), row.n, row.missing, *(row.counts or empty),
                *(row.share or empty), *(row.at_or_above or empty), row.pass_count,
                row.pass_share, row.pass_low, row.pass_high, row.others, row.others_low,
                row.others_high, _passing(row, body), row.span, row.span_low, row.span_high,
                row.verdict, *[row.means.get(m) for m in means],
            ])  # fmt: skip
    return heads, lines


def _passing(row: LevelsRow, body: SteppedBody) -> float | None:
    """The share that passes by the yardstick."""
    return row.by_yardstick[body.pass_at] if row.by_yardstick and body.pass_at else None


def _share_head(step: str) -> str:
    return f"{step}, share"


AHEAD, BEHIND, PAPER = (15, 114, 133), (168, 74, 34), (251, 252, 253)


def level_chart(body: SteppedBody) -> Chart:
    """The share in each step, one after the other: rust below the pass line, teal from it on."""
    steps = len(body.steps)
    return Chart(
        "Share in each level",
        tuple(_share_head(step.name) for step in body.steps),
        tuple(_colour(step, steps, body.pass_at) for step in range(steps)),
    )


def _colour(step: int, steps: int, pass_at: int | None) -> str:
    """The further from the line, the deeper, as on screen.

    >>> _colour(3, 4, 2), _colour(0, 4, 2)
    ('#1b798b', '#b46543')
    """
    line = pass_at or 0
    if step >= line:
        tone, depth = AHEAD, 0.25 + 0.7 * (step - line + 1) / max(steps - line, 1)
    else:
        tone, depth = BEHIND, 0.2 + 0.65 * (line - step) / line
    mixed = (round(depth * a + (1 - depth) * b) for a, b in zip(tone, PAPER, strict=True))
    return "#" + "".join(f"{part:02x}" for part in mixed)


def level_cells(body: SteppedBody) -> list[list[str]]:
    """Counts in each step, with the share that passed; the pass line is a bar."""
    steps = [("| " if n == body.pass_at else "") + s.name for n, s in enumerate(body.steps)]
    lines = [[body.dimension, "n", "missing", *steps, "passed", "95% interval"]]
    for row in [*body.reference, *body.rows]:
        cells = [str(n) for n in row.counts] or [percent(x) for x in row.share]
        between = ""
        if row.pass_low is not None and row.pass_high is not None:
            between = f"{percent(row.pass_low)} to {percent(row.pass_high)}"
        lines.append([
            name_of(row), str(row.n), str(row.missing), *(cells or [""] * len(steps)),
            percent(row.pass_share), between,
        ])  # fmt: skip
    return lines


def levels_outside(parts: Sequence[Slice]) -> Lines:
    """Counts that may be shown, and their shares."""
    steps = parts[0].view.quantity.steps
    heads: list[Any] = ["row", "label", "n", *steps, *[f"{name}, share" for name in steps]]
    lines: list[list[Any]] = []
    for part in parts:
        at, code = counted_in(part)
        place = part.out.values[at].astype(np.int64) - 1
        shown = shown_cells(part, code, place, len(steps))
        groups = part.grouping.groups
        counts = np.zeros((len(groups), len(steps)), np.int64)
        np.add.at(counts, (code, place), 1)
        for n in in_no_order([group.label for group in groups]):
            size = int(counts[n].sum())
            told = [int(c) if s else HIDDEN for c, s in zip(counts[n], shown[n], strict=True)]
            share = [HIDDEN if isinstance(c, str) else f"{100 * c / size:.0f}%" for c in told]
            whole = size if size >= FEWEST_SHOWN and shown[n].any() else HIDDEN
            lines.append([part.grouping.label, groups[n].label, whole, *told, *share])
    return heads, lines
