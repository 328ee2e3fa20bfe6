"""Students as lines."""

from __future__ import annotations

from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.students.body import StudentsBody


def student_lines(body: StudentsBody) -> Lines:
    """A line for each student."""
    heads = [column.label or column.key for column in body.columns]
    return heads, [list(line) for line in zip(*(c.values for c in body.columns), strict=True)]
