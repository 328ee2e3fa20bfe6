"""What earlier students did who stood where these stand, falls included."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.published.rounded import coarse, step_for
from bridge_chart.answers.shows.chances.past import called, went_on
from bridge_chart.answers.shows.trial.body import Before, Happened
from bridge_chart.answers.shows.trial.group import TriedGroup
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.value_added.chances import chances
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.errors import NotFound

REACH = 1.96
"""Where nineteen in twenty groups like this finish."""


@dataclass(frozen=True)
class Earlier:
    """chance: (steps,) of those who stood there the share who gained a step or more, NaN where too
    few; before: where groups like this finished; because: why that is not known."""

    chance: Floats
    chance_words: str
    before: Before | None
    because: str


def earlier_of(group: TriedGroup) -> Earlier:
    """From the first later test in the same steps."""
    snapshot, quantity = group.part.view.snapshot, group.quantity
    nothing = np.full(len(quantity.steps), np.nan)
    levels = np.asarray(tested_year_level(snapshot, quantity.key))[group.at].astype(int)
    try:
        past, later, _ = went_on(snapshot, quantity, None, sorted(set(levels.tolist())))
    except NotFound as error:
        return Earlier(nothing, "", None, error.message)
    if later.steps != quantity.steps:
        return Earlier(nothing, "", None, f"{called(later)} is in other steps than this test")
    counts, own = past.of_levels(sorted(set(levels.tolist())))
    whole = snapshot.scope.whole
    chance = _chance(counts, own, whole=whole)
    words = (
        "of earlier students who stood there, the share who gained a step or more in "
        f"{called(later)}"
    )
    before = _before(group, counts, called(later)) if whole else None
    because = "" if before else "earlier groups of other schools are not shown to yours"
    return Earlier(chance, words, before, "" if before else because)


def _chance(counts: Integers, own: Integers, *, whole: bool) -> Floats:
    found, steps = chances(counts), counts.shape[1]
    out = np.full(steps, np.nan)
    for n in range(steps - 1):
        if not found.shown[n]:
            continue
        share = float(found.at_or_above[n, n + 1])
        if not whole:
            others = int(found.n[n] - own[:, n].sum())
            step = step_for(others) if others else 0.01
            if step is None:
                continue
            share = float(coarse(np.array([share]), step)[0])
        out[n] = share
    return out


def _before(group: TriedGroup, counts: Integers, later: str) -> Before | None:
    """Each cohort's outcomes at this group's starts; a start that a cohort lacks takes all of
    them."""
    place = np.arange(counts.shape[2]) + 1.0
    worth = (place - 1 >= group.cut).astype(float) if group.figure == "share" else place
    mine = np.bincount(group.place, minlength=counts.shape[1]).astype(float)
    total = counts.sum(axis=0)
    if (mine[total.sum(axis=1) == 0] > 0).any() or not mine.sum():
        return None
    with np.errstate(invalid="ignore", divide="ignore"):
        pooled = (total @ worth) / total.sum(axis=1)
        each = (counts @ worth) / counts.sum(axis=2)
    each = np.where(np.isnan(each), pooled[None, :], each)[counts.any(axis=(1, 2))]
    expected = float(group.expected.mean()) if group.figure == "mean" else 0.0
    n = mine.sum()
    told = np.nan_to_num(each) @ mine / n - expected
    overall = float(np.nan_to_num(pooled) @ mine / n - expected)
    with np.errstate(invalid="ignore", divide="ignore"):
        within = (total @ worth**2) / total.sum(axis=1) - pooled**2
    # Cohorts differ, and a group of this size does by its own luck.
    spread = float(np.sqrt(told.var(ddof=1) + np.nan_to_num(within) @ mine / n**2))
    return Before(
        low=overall - REACH * spread, high=overall + REACH * spread, mean=overall,
        cohorts=len(told), later=later,
    )  # fmt: skip


def happened_to(
    snapshot: Snapshot, quantity: Quantity, later: list[MeasureKey], moved: dict[int, int]
) -> Happened | None:
    """What then came of those who are moved (positions, by steps), by their first later result in
    the same steps."""
    key = quantity.key
    after = sorted((k for k in later if k.date > key.date), key=lambda k: k.date)
    at = np.array(sorted(moved), np.int64)
    now = np.asarray(figures_of_students(snapshot, quantity))[at]
    for one in after:
        then = np.asarray(snapshot.values(one))[at]
        have = ~np.isnan(then)
        if have.any():
            tried = now + np.array([moved[int(n)] for n in at])
            return Happened(
                later=one.label, have=int(have.sum()),
                reached=int((then[have] >= tried[have]).sum()),
                fell=int((then[have] < now[have]).sum()),
            )  # fmt: skip
    return None


def later_in_same_steps(snapshot: Snapshot, quantity: Quantity) -> list[MeasureKey]:
    """Every result of the subject in the same steps."""
    key = quantity.key
    subject = key.subject.name if key.subject else None
    return [
        k for k in snapshot.measures
        if k.role == "result" and k.steps == quantity.steps
        and (k.subject.name if k.subject else None) == subject
    ]  # fmt: skip
