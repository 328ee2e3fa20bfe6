"""Start to now: where students started against where they are, with what was expected."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.filter import holds
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.rows import rows_of
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.shows.start_to_now.body import (
    Cells,
    Dots,
    ExpectedLine,
    Region,
    StartBody,
)
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.method import method_of
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.describing.densest import densest_half
from bridge_chart.core.trust.verdicts import FEWEST_FOR_VERDICT
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Mark, Reading, RowStep
from bridge_chart.terms.wording import count, number
from bridge_chart.terms.words import spoken

MOST_DOTS = 1500
"""Of more, dots lie over one another and hide how many there are."""
CELLS = 48
LINE_POINTS = 60
MOST_GROUPS = 6


def start_shown(parts: Sequence[Slice]) -> Shown:
    """A dot for each student who has both scores, or how many there are where dots lie close."""
    part = parts[0]
    view, out = part.view, part.out
    held = out.held
    with_start: tuple[q.Condition, ...] = ()
    if held is not None and held.start is not None:
        start, label = held.start, held.start_label
        if held.fit is not None and len(held.fit.priors) > 1:
            start, label = held.expected, f"expected from {held.start_label}"
    else:
        prior = view.start()
        any_score = q.MeasureIs.model_validate({"measure": prior.measure, "from": 0})
        with_start = (q.Known(known=(any_score,)),)
        start, label = figures_of_students(view.snapshot, prior), prior.label
    people = part.people & view.meant
    both = people & ~np.isnan(start) & ~np.isnan(out.values)
    at = np.flatnonzero(both)
    groups, code = _groups(part, at)
    x, y = np.asarray(start)[at], out.values[at]
    expected = held.expected[at] if held is not None and held.fit is not None else None
    beyond = None if expected is None else y - expected
    grid, over = _grid(x, y), None if beyond is None else _grid(x, beyond)
    opened = q.Open(add=with_start, what=view.stands)
    body = StartBody(
        show="start_to_now",
        x_label=label,
        y_label=f"{view.quantity.label}, {view.quantity.unit}",
        groups=groups,
        n=len(at),
        missing=int(people.sum()) - len(at),
        unit=view.quantity.unit,
        opens=opened,
        correlation=_correlation(x, y),
        dots=None if len(at) > MOST_DOTS else Dots(
            marks=[Mark(n=1, opens=opened.model_copy(update={"students": (student,)}))
                   for student in view.snapshot.student_ids[at].tolist()],
            x=x.tolist(), y=y.tolist(), beyond=[] if beyond is None else _plain(beyond),
            group=code.tolist(), focus=_focus(view)[at].tolist(),
        ),
        grid=grid,
        beyond=over,
        regions=_regions(x, y, beyond, code, len(groups), grid, over) if len(groups) > 1 else [],
        lines=_lines(part, np.asarray(start), at),
    )  # fmt: skip
    covered = [coverage(view, part.people, out.reasons)]
    return Shown(
        body=body,
        coverage=covered,
        readings=_readings(body, held is not None),
        method=method_of(part, rows_of(part)),
        warnings=warnings_of([part], covered, []),
    )


def _groups(part: Slice, at: Integers) -> tuple[list[RowStep], Integers]:
    """The group of each dot; one for all where there are many groups, or students are in two."""
    grouping = part.grouping
    if len(grouping.groups) > MOST_GROUPS or grouping.overlaps:
        return [RowStep(key="all", label="All of them")], np.zeros(len(at), np.int64)
    code = np.full(part.view.snapshot.students, -1, np.int64)
    code[grouping.at] = grouping.code
    return [RowStep(key=g.name, label=g.label) for g in grouping.groups], code[at]


def _focus(view: View) -> Mask:
    if view.focus is None:
        return np.zeros(view.snapshot.students, bool)
    return holds(view.focus, view.snapshot.students)


def _correlation(x: Floats, y: Floats) -> float | None:
    if len(x) < 3 or x.std() == 0 or y.std() == 0:
        return None
    return float(np.corrcoef(x, y)[0, 1])


def _plain(values: Floats) -> list[float | None]:
    return [None if value != value else float(value) for value in values]


def _grid(x: Floats, y: Floats) -> Cells:
    """How many there are in each cell; those without one of the two in none."""
    known = ~np.isnan(x) & ~np.isnan(y)
    counts, x_edges, y_edges = np.histogram2d(x[known], y[known], bins=CELLS)
    return Cells(
        x_edges=x_edges.tolist(),
        y_edges=y_edges.tolist(),
        counts=counts.astype(int).tolist(),
    )


def _regions(
    x: Floats, y: Floats, beyond: Floats | None, code: Integers, groups: int, grid: Cells,
    over: Cells | None,
) -> list[Region]:  # fmt: skip
    """Where the half of each group lies that is closest together; groups too small have none."""
    found = []
    for group in range(groups):
        mine = code == group
        n = int(mine.sum())
        if n < FEWEST_FOR_VERDICT:
            continue
        found.append(Region(
            group=group, n=n, cells=_half(x[mine], y[mine], grid),
            beyond=[] if beyond is None or over is None else _half(x[mine], beyond[mine], over),
        ))  # fmt: skip
    return found


def _half(x: Floats, y: Floats, grid: Cells) -> list[int]:
    cells = densest_half(x, y, np.array(grid.x_edges), np.array(grid.y_edges))
    return [int(at) for at in np.flatnonzero(cells)]


def _lines(part: Slice, start: Floats, at: Integers) -> list[ExpectedLine]:
    """What similar starters reach, by year level, along the starts that occur in the view."""
    held = part.out.held
    if held is None or held.fit is None:
        return []
    levels = np.asarray(tested_year_level(part.view.snapshot, part.view.measure))
    lines = []
    for level in np.unique(levels[at]):
        mine = at[levels[at] == level]
        known = np.unique(start[mine], return_index=True)
        expected = held.expected[mine[known[1]]]
        told = ~np.isnan(expected)
        xs, ys = known[0][told], expected[told]
        if len(xs) < 2:
            continue
        if len(xs) > LINE_POINTS:
            pick = np.linspace(0, len(xs) - 1, LINE_POINTS).round().astype(int)
            xs, ys = xs[pick], ys[pick]
        year = next((y for y in held.fit.years if y.year_level == level), None)
        label = spoken().level_name(int(level))
        lines.append(
            ExpectedLine(label=label, n=year.n if year else 0, x=xs.tolist(), y=ys.tolist())
        )
    return lines


def _readings(body: StartBody, held: bool) -> list[Reading]:
    said = []
    if body.correlation is not None:
        strength = abs(body.correlation)
        word = "closely" if strength >= 0.8 else "well" if strength >= 0.5 else "loosely"
        text = (
            f"Start and outcome go {word} together: correlation {number(body.correlation, 2)} "
            f"({count(body.n, 'student')})."
        )
        said.append(Reading(kind="list", rows=[], text=text))
    if held:
        text = (
            "A dot above its line did better than students who started alike usually do; "
            "one test says little about one student."
        )
        said.append(Reading(kind="none", rows=[], text=text))
    return said
