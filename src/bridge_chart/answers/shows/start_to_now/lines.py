"""Start to now as lines."""

from __future__ import annotations

from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.start_to_now.body import StartBody


def start_lines(body: StartBody) -> Lines:
    """A line for each student, without a name; or for each cell that has students."""
    if body.dots is not None:
        groups = [group.label for group in body.groups]
        cells = zip(body.dots.x, body.dots.y, body.dots.group, strict=True)
        return [body.x_label, body.y_label, "group"], [
            [x, y, groups[group] if group >= 0 else ""] for x, y, group in cells
        ]
    assert body.density is not None
    lines = [
        [body.density.x_edges[i], body.density.y_edges[j], n]
        for i, row in enumerate(body.density.counts)
        for j, n in enumerate(row)
        if n
    ]
    return [f"{body.x_label} from", f"{body.y_label} from", "students"], lines
