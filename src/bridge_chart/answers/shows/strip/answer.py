"""The split strip: for every characteristic, how far apart its groups are, before any click."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.figures import Figures, figures_of
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.kept.turns import TURNS
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.shows.strip.body import StripBody, StripEntry, StripMark
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.method import method_of
from bridge_chart.core.arrays import Integers, Mask
from bridge_chart.core.describing.clustered import clustered_difference
from bridge_chart.core.estimate import Estimate
from bridge_chart.core.gaps.means import welch
from bridge_chart.core.trust.discoveries import discoveries
from bridge_chart.core.trust.spread import spread
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms import question as q

FIELDS = ("school", "class", "teacher", "course", "year_level")
MOST_MARKS = 60


def strip_shown(parts: Sequence[Slice]) -> Shown:
    """One entry per dimension: the gap of two groups, or the spread of more beyond chance."""
    part = parts[0]
    view, out = part.view, part.out
    people = part.people & view.meant
    dimensions: list[q.Dimension] = [q.ByField(field=f) for f in FIELDS]
    dimensions += [q.ByCharacteristic(characteristic=c.id) for c in view.snapshot.characteristics]
    measured = [_entry(view, out, people, dimension) for dimension in dimensions]
    found = [pair for pair in measured if pair is not None]
    stands = discoveries(np.array([p for _, p in found], float))
    entries = [
        entry.model_copy(update={"beyond_chance": bool(beyond) if np.isfinite(p) else None})
        for (entry, p), beyond in zip(found, stands, strict=True)
    ]
    return Shown(
        body=StripBody(show="strip", entries=entries),
        coverage=[coverage(view, part.people, out.reasons)],
        method=method_of(part, []),
    )


def _entry(
    view: View, out: Outcome, people: Mask, dimension: q.Dimension
) -> tuple[StripEntry, float] | None:
    """The entry and its p-value; None where there are fewer than two groups."""
    TURNS.give_way()
    split = view.split_by(dimension)
    grouping = split.group(people)
    known = grouping.known()
    if known.sum() < 2:
        return None
    figures = figures_of(view, out, grouping, quartiles=False)
    told = np.flatnonzero(known & (figures.values.n >= FEWEST_TO_SHOW))
    label = split.label
    entry = StripEntry(
        dimension=dimension,
        label=label[:1].upper() + label[1:],
        groups=int(known.sum()),
        kind="gap" if known.sum() == 2 else "spread",
        size=None,
        n=int(figures.values.n[known].sum()),
        missing=int(figures.values.missing[known].sum()),
        marks=_marks(figures, grouping, told),
    )
    if len(told) < 2:
        return entry, float("nan")
    if known.sum() == 2:
        gap = _gap(view, out, grouping, told)
        held = {"size": gap.value, "low": gap.low, "high": gap.high}
        return entry.model_copy(update={k: v if v == v else None for k, v in held.items()}), gap.p
    code = np.where(np.isin(grouping.code, np.flatnonzero(known)), grouping.code, -1)
    test = spread(out.drawn[grouping.at], code)
    return entry.model_copy(update={"size": test.sd if test.sd == test.sd else None}), test.p


def _marks(figures: Figures, grouping: Grouping, told: Integers) -> list[StripMark]:
    """All groups, or evenly some of very many, the ends always among them."""
    ordered = told[np.argsort(figures.span[told], kind="stable")]
    if len(ordered) > MOST_MARKS:
        ordered = ordered[np.linspace(0, len(ordered) - 1, MOST_MARKS).round().astype(int)]
    return [
        StripMark(
            label=grouping.groups[n].label,
            n=int(figures.values.n[n]),
            value=float(figures.span[n]),
            verdict=figures.verdict[n],
        )
        for n in ordered
    ]


def _gap(view: View, out: Outcome, grouping: Grouping, told: Integers) -> Estimate:
    """Second group minus first, students of one school not taken as independent."""
    code = np.select([grouping.code == told[0], grouping.code == told[1]], [0, 1], -1)
    values = out.drawn[grouping.at]
    roll = view.sitting_roll
    if roll is not None and not grouping.within_school:
        schools = np.asarray(roll.school)[grouping.at]
        gap = clustered_difference(values, code, schools, len(view.snapshot.schools))
        if np.isfinite(gap.se):
            return gap
    return welch(values[code == 1], values[code == 0])
