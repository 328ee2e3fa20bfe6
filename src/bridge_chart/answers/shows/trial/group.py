"""The group of a try: its students, its figure, and how far each is from the next step."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

import numpy as np

from bridge_chart.answers.bound.filter import holds
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.trial.body import TrialOptions
from bridge_chart.answers.what.cut_scores import cuts_of
from bridge_chart.answers.what.values import figures_of_students, sibling, tested_year_level
from bridge_chart.answers.who.population import population
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.targets.nearest import Nearest, nearest_to_mean, nearest_to_share
from bridge_chart.core.targets.reach import Reach, reach_mean_fewest_students, reach_share
from bridge_chart.store.codes import IN_FIGURES
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.wording import number

Figure = Literal["mean", "share"]


@dataclass(frozen=True)
class TriedGroup:
    """part: as it is kept, without any try. at: (n,) positions of those counted; place: (n,) from
    0; expected: (n,) of the yardstick, 0 without; cut: the place that a share reaches."""

    part: Slice
    at: Integers
    place: Integers
    expected: Floats
    figure: Figure
    cut: int

    @property
    def quantity(self) -> Quantity:
        return self.part.view.quantity

    def of_places(self, place: Integers) -> float | None:
        """The group's figure for places that its students might have."""
        if not len(place):
            return None
        if self.figure == "share":
            return float((place >= self.cut).mean())
        return float((place + 1 - self.expected).mean())


def untried(part: Slice) -> Slice:
    """The same part of the record as it is kept."""
    view = part.view
    if view.snapshot.edits is None:
        return part
    bare = replace(view.on(view.snapshot.untried), focus=view.focus)
    return replace(part, view=bare, out=outcome(bare))


def group_of(part: Slice, options: TrialOptions) -> TriedGroup:
    """Those asked about who are counted; of them those in focus, where the question has one."""
    view = part.view
    held = view.yardstick is not None
    if view.yardstick is not None and view.yardstick.is_group:
        raise InvalidQuestion(
            "A try is level with a start, a target or a figure, not with another group.",
            next_step="Say the figure that is wanted, or another yardstick.",
        )
    figure: Figure = options.figure or ("mean" if held else "share")
    if held and figure == "mean" and view.yardstick.in_figures.id != view.quantity.id:  # type: ignore[union-attr]
        raise InvalidQuestion(
            f"What is expected of {view.quantity.label} is a score, and a try is in steps.",
            next_step="Ask for the share that reaches a level, or for a mean against nothing.",
            instead={"options": {"figure": "share"}},
        )
    at = np.unique(part.grouping.at)
    at = at[part.out.reasons[at] == 0]
    if view.focus is not None:
        at = at[holds(view.focus, view.snapshot.students)[at]]
    place = np.asarray(figures_of_students(view.snapshot, view.quantity))[at].astype(np.int64) - 1
    expected = np.zeros(len(at))
    if held and figure == "mean" and part.out.held is not None:
        expected = np.asarray(part.out.held.expected)[at]
    return TriedGroup(part, at, place, expected, figure, _cut(view.quantity, options))


def _cut(quantity: Quantity, options: TrialOptions) -> int:
    if options.at is not None:
        if options.at not in quantity.steps:
            raise NotFound(
                f"{quantity.label} has no step “{options.at}”.",
                next_step=f"It has {', '.join(quantity.steps)}.",
            )
        return quantity.steps.index(options.at)
    return quantity.pass_at or len(quantity.steps) - 1


@dataclass(frozen=True)
class Wanted:
    """The figure that is wanted, and in words."""

    value: float
    words: str


def wanted_of(group: TriedGroup, options: TrialOptions) -> Wanted:
    """What is asked for: a figure, level with the yardstick, or what everyone has."""
    held = group.part.view.yardstick
    against = held is not None and group.figure == "mean"
    asked = options.wanted if options.wanted is not None else (
        "yardstick" if against else "everyone"
    )  # fmt: skip
    if asked == "yardstick":
        if not against or held is None:
            raise InvalidQuestion(
                "A mean alone can come level with a yardstick.",
                next_step="Say the share that is wanted as a figure, from 0 to 1.",
            )
        return Wanted(0.0, f"level with {held.whom}")
    if asked == "everyone":
        return _everyones(group)
    assert isinstance(asked, float | int)
    if group.figure == "share":
        if not 0 <= asked <= 1:
            raise InvalidQuestion("A share that is wanted lies between 0 and 1.")
        step = group.quantity.steps[group.cut]
        return Wanted(float(asked), f"{100 * asked:.0f}% at {step} or better")
    return Wanted(float(asked), f"a mean of {number(float(asked), 2)}")


def _everyones(group: TriedGroup) -> Wanted:
    """The figure of everybody who is seen and meets no condition."""
    part = group.part
    people = population(replace(part.view, who=()), everywhere=True) & part.view.meant
    at = np.flatnonzero(people & (part.out.reasons == 0))
    place = np.asarray(figures_of_students(part.view.snapshot, group.quantity))[at] - 1
    whole = "all schools" if part.view.snapshot.scope.whole else "all own students"
    if not len(at):
        return Wanted(0.0, f"as {whole}")
    if group.figure == "share":
        share = float((place >= group.cut).mean())
        return Wanted(share, f"as {whole}: {100 * share:.0f}%")
    expected = 0.0 if part.out.held is None else part.out.held.expected[at]
    return Wanted(float((place + 1 - expected).mean()), f"as {whole}")


def distance_of(group: TriedGroup, chance: Floats) -> tuple[Floats, str]:
    """(n,) how far each is from the next step, and in what: in marks, where the sitting's figures
    and cut scores say; else from what is expected; else by who has gained one before."""
    view = group.part.view
    in_marks = _in_marks(view.snapshot, group)
    if in_marks is not None:
        return in_marks
    if view.yardstick is not None and group.figure == "mean":
        return group.place + 2 - group.expected, "expected, below the next step"
    return np.where(np.isnan(chance), 1.0, 1 - chance)[group.place], ""


def _in_marks(snapshot: Snapshot, group: TriedGroup) -> tuple[Floats, str] | None:
    key = group.quantity.key
    figures = sibling(snapshot, key, IN_FIGURES)
    if figures is None:
        return None
    scores = np.asarray(snapshot.values(figures))[group.at]
    levels = np.asarray(tested_year_level(snapshot, figures))
    out = np.full(len(group.at), np.nan)
    for n, step in enumerate(group.quantity.steps[1:], start=1):
        mine = group.place == n - 1
        try:
            out[mine] = (cuts_of(snapshot, figures, step, levels)[group.at] - scores)[mine]
        except NotFound:
            continue
    return None if np.isnan(out).all() else (out, "score below the next step")


def nearest(group: TriedGroup, wanted: Wanted, distance: Floats) -> Nearest:
    """Who would gain a step each, nearest first."""
    top = len(group.quantity.steps) - 1
    if group.figure == "share":
        return nearest_to_share(group.place, group.cut, _exact(wanted.value), distance)
    total = sum(map(int, group.place)) + len(group.place) - _exact(float(group.expected.sum()))
    goal = _exact(wanted.value) * len(group.place)
    return nearest_to_mean(group.place, top, Fraction(total), goal, distance)


def as_far_as_it_takes(
    group: TriedGroup, wanted: Wanted, distance: Floats
) -> tuple[Reach, Integers | None]:
    """The fewest students where each may gain as many steps as it takes; and for the fewest steps
    in all how many each of the nearest gains (none: not reachable)."""
    if group.figure == "share":
        reach = reach_share(group.place, group.cut, _exact(wanted.value), distance)
        return reach, reach.steps if reach.reachable else None
    points = [Fraction(n + 1) for n in range(len(group.quantity.steps))]
    n = max(len(group.place), 1)
    goal = _exact(wanted.value) + _exact(float(group.expected.sum())) / n
    reach = reach_mean_fewest_students(group.place, points, goal)
    return reach, _spread_out(group, wanted, distance) if reach.reachable else None


def _spread_out(group: TriedGroup, wanted: Wanted, distance: Floats) -> Integers:
    """As few steps as are missing, one each of the nearest, then a second of them, and so on."""
    top = len(group.quantity.steps) - 1
    steps = np.zeros(len(group.place), np.int64)
    while True:
        moved = replace(group, place=group.place + steps)
        found = nearest(moved, wanted, distance)
        steps += found.steps
        if found.reachable or not (group.place + steps < top).any():
            return steps


def _exact(value: float) -> Fraction:
    """A figure without the noise of binary fractions."""
    return Fraction(value).limit_denominator(10**9)
