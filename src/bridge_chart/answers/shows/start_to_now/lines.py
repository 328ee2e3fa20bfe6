"""Start to now as lines."""

from __future__ import annotations

from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.start_to_now.body import StartBody


def start_lines(body: StartBody) -> Lines:
    """A line for each student, without a name; or for each cell that has students."""
    if body.dots is not None:
        groups = [group.label for group in body.groups]
        beyond = body.dots.beyond or [None] * len(body.dots.x)
        cells = zip(body.dots.x, body.dots.y, beyond, body.dots.group, strict=True)
        return [body.x_label, body.y_label, "beyond expected", "group"], [
            [x, y, past, groups[group] if group >= 0 else ""] for x, y, past, group in cells
        ]
    lines = [
        [body.grid.x_edges[i], body.grid.y_edges[j], n]
        for i, row in enumerate(body.grid.counts)
        for j, n in enumerate(row)
        if n
    ]
    return [f"{body.x_label} from", f"{body.y_label} from", "students"], lines
