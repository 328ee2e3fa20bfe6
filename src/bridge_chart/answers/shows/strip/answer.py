"""The split strip: for every characteristic, how far apart its groups are, before any click."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.names import grouping
from bridge_chart.answers.bound.split import Grouping
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.figures import Figures, figures_of
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.answers.figures.sample import in_each, sample_of
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.kept.turns import TURNS
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.shows.strip.body import StripBody, StripEntry, StripMark
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.method import method_of
from bridge_chart.core.arrays import Integers, Mask
from bridge_chart.core.contrasts.differ import groups_differ
from bridge_chart.core.contrasts.rows import Contrasts, Sample, against_rest
from bridge_chart.core.trust.discoveries import discoveries
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
    dimensions += [q.ByCharacteristic(characteristic=c.id) for c in grouping(view.snapshot)]
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
    if len(told) < 2 or _by_construction(out, figures, told):
        return entry, float("nan")
    sample = sample_of(view, out)
    if known.sum() == 2:
        gap = _gap(sample, grouping, told)
        p = in_each(view, out, lambda one: float(_gap(one, grouping, told).p[0]))
        held = {"size": gap.value, "low": gap.low, "high": gap.high}
        update = {k: float(v[0]) if v[0] == v[0] else None for k, v in held.items()}
        return entry.model_copy(update=update), p
    code = np.where(np.isin(grouping.code, np.flatnonzero(known)), grouping.code, -1)
    test = groups_differ(sample, grouping.at, code)
    p = in_each(view, out, lambda one: groups_differ(one, grouping.at, code).p)
    return entry.model_copy(update={"size": test.sd if test.sd == test.sd else None}), p


def _by_construction(out: Outcome, figures: Figures, told: Integers) -> bool:
    """Whether the yardstick was fitted for each group apart, so that none can be off it."""
    fit = out.held is not None and out.held.fit is not None
    return fit and bool((figures.contrast.rest_n[told] == 0).all())


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
        )
        for n in ordered
    ]


def _gap(sample: Sample, grouping: Grouping, told: Integers) -> Contrasts:
    """Second group minus first; what classes add goes out where both sit in the same ones."""
    code = np.select([grouping.code == told[0], grouping.code == told[1]], [-1, 0], -1)
    both = np.zeros(len(sample.values), bool)
    both[grouping.at[np.isin(grouping.code, told)]] = True
    return against_rest(sample, grouping.at, code, 1, both)
