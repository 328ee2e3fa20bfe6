"""What a question's rows stand on: all students of the district whom they may be held against."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np

from bridge_chart.answers.bound.split import Split, cells
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.outcome import Outcome, outcome
from bridge_chart.answers.figures.sample import sample_of, shifts_of
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.published.fits import judged
from bridge_chart.answers.what.values import tested_year_level
from bridge_chart.answers.who.population import population
from bridge_chart.core.arrays import Codes, Floats, Integers, Mask
from bridge_chart.core.contrasts.rows import (
    Contrasts,
    Sample,
    against_fit,
    against_rest,
    alone,
    gap_to_rest,
)
from bridge_chart.core.trust.verdicts import FEWEST_DF, FEWEST_FOR_VERDICT
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.people import ScopeField

R = TypeVar("R")
LEAST_OTHERS = 0.05
"""Others beside all of those counted, as a share of them."""
ROWS_OF = ("school", "class", "teacher", "course")
"""Fields whose conditions choose rows: the family of verdicts has all their values."""


@dataclass(frozen=True)
class Ground:
    """Arrays (students of the district,). counted: who meets the conditions on people, wherever
    they are; group: who is in the group that is the yardstick; strata: of the fit that is, −1
    where none is; shifts: how much more would be expected of each, were where they started measured
    without the error that it has by what is declared, or may have at the most and at the least.
    family: the p-values of every group of the split in the district."""

    sample: Sample
    counted: Mask
    group: Mask | None
    strata: Codes | None
    shifts: tuple[Floats, ...]
    marks: str
    family: Floats


def on_ground(view: View, read: Callable[[Ground, Integers], R], *, by_the_rest: bool = False) -> R:
    """What `read` finds of the question's rows: it is given the ground, and where each of the
    asker's own students stands in it. by_the_rest: rows are judged though there is no yardstick."""
    yardstick, own, asked = view.yardstick, view.quantity, view.question
    held = None if yardstick is None else yardstick.key
    dims = tuple(one.asked for one in view.split)
    who = tuple(one.asked for one in view.who)
    scope = view.snapshot.scope.field
    name = ("ground", own.id, held, asked.who.as_of, who, dims, scope, by_the_rest)
    priors = () if yardstick is None else yardstick.priors
    of = (own.key, *(prior.key for prior in priors))

    def make(snapshot: Snapshot) -> tuple[Ground, Mask]:
        ground = _ground(view.on(snapshot), scope=scope, by_the_rest=by_the_rest)
        return ground, ground.counted

    return judged(view.snapshot, name, make, read, of)


def _ground(view: View, *, scope: ScopeField, by_the_rest: bool) -> Ground:
    snapshot, yardstick = view.snapshot, view.yardstick
    out = outcome(view)
    sample = _sample(view, out)
    people = population(view, everywhere=True) & view.meant
    counted = people & ~np.isnan(sample.values)
    fit = None if out.held is None else out.held.fit
    strata: Codes | None = None
    shifts: tuple[Floats, ...] = ()
    if fit is not None:
        strata = np.asarray(tested_year_level(snapshot, view.measure)).astype(np.int64) + 1
        shifts = shifts_of(view, out)
    marks = "rest" if yardstick is None else yardstick.marks
    ground = Ground(sample, counted, out.group, strata, shifts, marks, np.empty(0))
    if yardstick is None and not by_the_rest:
        return ground
    at, code, count = cells(list(dimensions(view, scope=scope)), people)
    found, none = tested(ground, at, code, count)
    return replace(ground, family=family_of(found, none))


def family_of(found: Contrasts, none: Mask) -> Floats:
    """The p-values of those rows of which there is enough to judge."""
    few = none | (found.n < FEWEST_FOR_VERDICT) | ~(found.df >= FEWEST_DF) | np.isnan(found.p)
    return np.asarray(found.p[~few])


def _sample(view: View, out: Outcome) -> Sample:
    yardstick = view.yardstick
    asked = None if yardstick is None or yardstick.is_group else yardstick.key
    name = ("sample", view.quantity.id, asked)
    return kept_for(view.snapshot, name, lambda: sample_of(view, out))


def dimensions(view: View, *, scope: ScopeField) -> Iterator[Split]:
    """The split, and everything of a place that the conditions name one of: a scope is one."""
    named: dict[tuple[str, str], q.FieldIs] = {}
    for one in view.who:
        for leaf in _leaves(one.asked):
            if leaf.field in ROWS_OF:
                named.setdefault((leaf.field, str(leaf.as_of)), leaf)
    split = [s.asked.field for s in view.split if isinstance(s.asked, q.ByField)]
    if scope is not None and scope not in [*split, *(field for field, _ in named)]:
        yield view.split_by(q.ByField(field=scope))
    for leaf in named.values():
        yield view.split_by(q.ByField.model_validate({"field": leaf.field, "as_of": leaf.as_of}))
    yield from view.split


def _leaves(c: q.Condition) -> Iterator[q.FieldIs]:
    if isinstance(c, q.FieldIs):
        yield c
    elif isinstance(c, q.AnyOf | q.AllOf):
        for part in c.any_ if isinstance(c, q.AnyOf) else c.all_:
            yield from _leaves(part)
    elif isinstance(c, q.Not):
        yield from _leaves(c.not_)


def tested(ground: Ground, at: Integers, code: Codes, rows: int) -> tuple[Contrasts, Mask]:
    """The contrast by which each row is judged, and the rows of which nothing is: a yardstick
    outside the district is compared with itself, any other by the rest of those counted."""
    sample, none = ground.sample, np.zeros(rows, bool)
    if ground.group is not None:
        found = against_rest(sample, at, code, rows, ground.group)
        return found, found.rest_n == 0
    if ground.marks == "itself":
        return alone(sample, at, code, rows), none
    found = against_rest(sample, at, code, rows, ground.counted)
    all_of_them = found.rest_n == 0
    if all_of_them.any() and ground.marks == "rest":
        everybody = against_rest(sample, at, code, rows, ~np.isnan(sample.values))
        # Those few who are in the fit and nowhere on roll are no others.
        enough = everybody.rest_n > LEAST_OTHERS * everybody.n
        found = _picked(everybody, found, all_of_them & enough)
    if ground.strata is not None:
        none = against_fit(sample, at, code, rows, ground.strata).rest_n == 0
    return found, (none | (found.rest_n == 0)) & (found.n > 0)


def shifted(ground: Ground, at: Integers, code: Codes, rows: int) -> Floats:
    """(times, rows) by how much a row's contrast would be less, for each of the shifts."""
    out = []
    held = ~np.isnan(ground.sample.values)
    for shift in ground.shifts:
        moved = np.where(held, shift, np.nan)
        found = gap_to_rest(moved, at, code, rows, ground.counted)
        if np.isnan(found).any():  # a row of all of those counted
            found = np.where(np.isnan(found), gap_to_rest(moved, at, code, rows, held), found)
        out.append(found)
    return np.array(out).reshape(len(ground.shifts), rows)


def _picked(one: Contrasts, other: Contrasts, which: Mask) -> Contrasts:
    """Rows of the one where `which` says so, else of the other."""
    pairs = zip(vars(one).items(), vars(other).values(), strict=True)
    return Contrasts(**{name: np.where(which, a, b) for (name, a), b in pairs})
