"""How far the students of a row moved from one sitting to the next, and the others beside them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.split import Grouping, cells
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.figures import placed
from bridge_chart.answers.figures.ground import dimensions, family_of
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.sample import estimated_on, sampled
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.published.fits import judged
from bridge_chart.answers.who.population import population
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.contrasts.rows import Contrasts, Sample, against_rest, alone
from bridge_chart.core.trust.verdicts import Judging
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.people import ScopeField


@dataclass(frozen=True)
class Changes:
    """Of the groups of the later part, (groups,). own: the mean change of the students counted at
    both; beside: that minus the others' change. family: p-values of both, of all groups of the
    split in the district."""

    own: Contrasts
    beside: Contrasts
    family: Floats

    @property
    def judging(self) -> Judging:
        """What the verdicts on the changes rest on; none where there are no others."""
        found = self.beside
        return Judging(
            found.value, found.value, found.low, found.high, found.p, found.n,
            np.nan_to_num(found.df), float("nan"), self.family, found.rest_n == 0,
        )  # fmt: skip


@dataclass(frozen=True)
class _Both:
    sample: Sample
    counted: Mask
    family: Floats


def changes_between(before: Slice, now: Slice) -> Changes:
    """The same students, in the same group at both, take their difference as the figure; classes
    are those of the later."""
    first, view = before.view, now.view
    asked = tuple(None if v.yardstick is None else v.yardstick.key for v in (first, view))
    who, split = (tuple(one.asked for one in some) for some in (view.who, view.split))
    scope = view.snapshot.scope.field
    name = (
        "changes", first.quantity.id, view.quantity.id, asked, view.question.who.as_of, who, split,
        scope,
    )  # fmt: skip
    moved = now.out.drawn - before.out.drawn
    at, rows = now.grouping.at, len(now.grouping.groups)
    stayed = ~np.isnan(moved)[at] & _stayed(before.grouping, now.grouping)
    code = np.where(stayed, now.grouping.code, -1).astype(np.int64)

    def make(snapshot: Snapshot) -> tuple[_Both, Mask]:
        found = _both(first.on(snapshot), view.on(snapshot), scope=scope)
        return found, found.counted

    def read(both: _Both, places: Integers) -> Changes:
        there, held = placed(places, at, code)
        own = alone(both.sample, there, held, rows)
        beside = against_rest(both.sample, there, held, rows, both.counted)
        return Changes(own, beside, both.family)

    return judged(view.snapshot, name, make, read, (view.measure, first.measure))


def _stayed(before: Grouping, now: Grouping) -> Mask:
    """(memberships of the later,) whether the student was in the same group before."""
    place = {group.name: n for n, group in enumerate(now.groups)}
    wide = len(place) + 1
    same = np.array([place.get(group.name, len(place)) for group in before.groups], np.int64)
    then = before.at.astype(np.int64) * wide + same[before.code]
    return np.isin(now.at.astype(np.int64) * wide + now.code, then)


def _both(first: View, view: View, *, scope: ScopeField) -> _Both:
    moved = outcome(view).drawn - outcome(first).drawn
    found = estimated_on(view.snapshot, view.measure, moved)
    sample = sampled(view.snapshot, view.measure, moved, found, share=False)
    people = population(view, everywhere=True) & population(first, everywhere=True)
    counted = people & view.meant & ~np.isnan(moved)
    at, code, count = cells(list(dimensions(view, scope=scope)), counted)
    beside, own = against_rest(sample, at, code, count, counted), alone(sample, at, code, count)
    family = [family_of(beside, beside.rest_n == 0), family_of(own, own.n == 0)]
    return _Both(sample, counted, np.concatenate(family))
