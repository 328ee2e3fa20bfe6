"""The split strip: for every characteristic, how far apart its groups are, before any click."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.coverage import coverage
from bridge_chart.answers.figures import Outcome, outcome, rows_of
from bridge_chart.answers.frame import envelope, split_label
from bridge_chart.answers.grouping import Grouping, group
from bridge_chart.answers.method import method_of
from bridge_chart.answers.population import population
from bridge_chart.answers.view import View
from bridge_chart.core.arrays import Mask
from bridge_chart.core.clustered import Difference, clustered_difference
from bridge_chart.core.gaps import welch
from bridge_chart.core.trust import discoveries, heterogeneity
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Answer, Row, StripBody, StripEntry, StripMark

FIELDS = ("school", "class", "teacher", "year_level")
MOST_MARKS = 60


def strip(view: View) -> Answer:
    """One entry per dimension: the gap of two groups, or the spread of more beyond chance."""
    people = population(view)
    out = outcome(view)
    dimensions: list[q.Dimension] = [q.ByField(field=f) for f in FIELDS]
    dimensions += [q.ByCharacteristic(characteristic=c.id) for c in view.snapshot.characteristics]
    measured = [_entry(view, out, people, dimension) for dimension in dimensions]
    found = [pair for pair in measured if pair is not None]
    stands = discoveries(np.array([p for _, p in found], float))
    entries = [
        entry.model_copy(update={"beyond_chance": bool(beyond) if np.isfinite(p) else None})
        for (entry, p), beyond in zip(found, stands, strict=True)
    ]
    return envelope(
        view,
        out,
        body=StripBody(show="strip", entries=entries),
        coverage=[coverage(view, people, out.reasons)],
        method=method_of(view, out, [], group(view, None, people)),
    )


def _entry(
    view: View, out: Outcome, people: Mask, dimension: q.Dimension
) -> tuple[StripEntry, float] | None:
    """The entry and its p-value; None where there are fewer than two groups."""
    grouping = group(view, dimension, people)
    rows = rows_of(view, out, grouping)
    known = [row for row in rows if row.key != "unknown"]
    if len(known) < 2:
        return None
    told = [row for row in known if row.mean is not None]
    entry = StripEntry(
        dimension=dimension,
        label=split_label(view, dimension).capitalize(),
        groups=len(known),
        kind="gap" if len(known) == 2 else "spread",
        size=None,
        n=sum(row.n for row in known),
        missing=sum(row.missing for row in known),
        marks=[_mark(row, out) for row in _some(told)],
    )
    if len(told) < 2:
        return entry, float("nan")
    if len(known) == 2:
        gap = _gap(view, out, grouping, told)
        figures = {"size": gap.value, "low": gap.low, "high": gap.high}
        held = {k: float(v) if np.isfinite(v) else None for k, v in figures.items()}
        return entry.model_copy(update=held), gap.p
    centres = np.array([_centre(row, out) for row in told], float)
    test = heterogeneity(centres, np.array([row.se for row in told], float))
    size = float(test.spread) if np.isfinite(test.spread) else None
    return entry.model_copy(update={"size": size}), test.p


def _some(rows: list[Row]) -> list[Row]:
    """All rows, or evenly some of very many, the ends always among them."""
    ordered = sorted(rows, key=lambda row: row.span if row.span is not None else row.mean or 0.0)
    if len(ordered) <= MOST_MARKS:
        return ordered
    picked = np.linspace(0, len(ordered) - 1, MOST_MARKS).round().astype(int)
    return [ordered[n] for n in picked]


def _centre(row: Row, out: Outcome) -> float | None:
    return row.span if out.held is not None else row.mean


def _mark(row: Row, out: Outcome) -> StripMark:
    return StripMark(label=row.label, n=row.n, value=_centre(row, out) or 0.0, verdict=row.verdict)


def _gap(view: View, out: Outcome, grouping: Grouping, told: list[Row]) -> Difference:
    """Second group minus first, students of one school not taken as independent."""
    keys = [group.key for group in grouping.groups]
    first, second = keys.index(told[0].key), keys.index(told[1].key)
    code = np.select([grouping.code == first, grouping.code == second], [0, 1], -1)
    values = out.drawn[grouping.at]
    roll = view.sitting_roll
    if roll is not None and not grouping.within_school:
        schools = np.asarray(roll.school)[grouping.at]
        gap = clustered_difference(values, code, schools, len(view.snapshot.schools))
        if np.isfinite(gap.se):
            return gap
    return welch(values[code == 1], values[code == 0])
