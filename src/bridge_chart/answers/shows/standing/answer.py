"""Where do they stand to a target, a growth, a start: as shares around the line?"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import combinations

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.levels.answer import levels_shown
from bridge_chart.answers.shows.levels.body import LevelsBody, LevelsRow
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.shows.standing.body import (
    StandingBody,
    StandingOptions,
    TargetsDiffer,
)
from bridge_chart.answers.what.derived import Status
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Mark, Method, Reading
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.wording import amount, count, number


def standing_shown(parts: Sequence[Slice]) -> Shown:
    """One measure against one yardstick, or against several kinds of target."""
    part = parts[0]
    view = part.view
    if view.yardstick is None or view.yardstick.is_group:
        raise InvalidQuestion(
            "Standing is to a target, a growth, a start or an earlier sitting.",
            next_step="Say what it is measured against.",
        )
    options = StandingOptions.model_validate(view.question.options)
    asked: list[q.Yardstick] = [view.yardstick.asked]
    if options.also and not isinstance(view.yardstick.asked, q.AgainstTarget):
        raise InvalidQuestion("Only targets stand beside each other.")
    asked += [q.AgainstTarget(target=q.TargetSpec(kind=kind)) for kind in options.also]
    several = [_against(part, one, at) for at, one in enumerate(asked)]
    shown = levels_shown(several)
    levels = shown.body
    assert isinstance(levels, LevelsBody)
    counted = _counted(part)
    body = StandingBody(
        show="standing", dimension=levels.dimension, within=levels.within,
        held=[_yardstick(one.view.quantity).words for one in several], drawn=True,
        steps=levels.steps, pass_at=levels.pass_at, reference=levels.reference,
        rows=[_opening(row, several[row.measure].view.quantity, counted) for row in levels.rows],
        differ=_differ(several),
    )  # fmt: skip
    return replace(
        shown, body=body, readings=[*shown.readings, *map(_said, body.differ)],
        coverage=[coverage(view, part.people, part.out.reasons)],
        method=_method(several[0].view, shown.method),
    )  # fmt: skip


def _against(part: Slice, asked: q.Yardstick, at: int) -> Slice:
    view = _view(part.view, asked, at)
    return replace(part, view=view, out=outcome(view))


def _view(view: View, asked: q.Yardstick, at: int) -> View:
    bound = view.elsewhere
    made = q.Derived(derive="status", of=view.quantity.measure, against=asked)
    found = view.measured(made)
    question = view.question
    if not view.snapshot.scope.whole:
        # What is published of the district is not published in these words.
        pinned = tuple(pin for pin in question.reference if pin != "district")
        question = question.model_copy(update={"reference": pinned})
    return replace(
        view, at=at, question=question, yardstick=None,
        quantity=replace(found, label=_yardstick(found).words),
        elsewhere=None if bound is None else lambda other: _view(bound(other), asked, at),
    )  # fmt: skip


def _yardstick(quantity: Quantity) -> Yardstick:
    assert isinstance(quantity.worked, Status)
    return quantity.worked.yardstick


def _counted(part: Slice) -> dict[str, int]:
    """How many of each group the question itself counts, by the group's name."""
    code = part.grouping.code[part.out.reasons[part.grouping.at] == 0]
    counts = np.bincount(code, minlength=len(part.grouping.groups)).tolist()
    return {group.name: n for group, n in zip(part.grouping.groups, counts, strict=True)}


def _opening(row: LevelsRow, quantity: Quantity, counted: dict[str, int]) -> LevelsRow:
    """Marks by the words that they stand for: the question itself asks in scores or levels. A row
    opens where the question counts the same students."""

    def by_words(mark: Mark, words: tuple[str, ...]) -> Mark:
        if mark.opens is None:
            return mark
        held = q.MeasureIs(measure=quantity.measure, level=words)
        added = (*mark.opens.add, held)
        return mark.model_copy(update={"opens": q.Open(add=added, what=mark.opens.what)})

    bars = [by_words(bar, bar.opens.level) if bar.opens else bar for bar in row.bars]
    same = row.measure == 0 and counted.get(row.key.partition(":")[0]) == row.n
    return row.model_copy(update={"bars": bars, "opens": row.opens if same else None})


def _differ(parts: Sequence[Slice]) -> list[TargetsDiffer]:
    """Each two kinds of target: for how many students they differ, and by how much."""
    out = []
    at = np.unique(parts[0].grouping.at)
    for one, other in combinations((_yardstick(part.view.quantity) for part in parts), 2):
        first, second = (y.held(parts[0].view.snapshot) for y in (one, other))
        assert first is not None
        assert second is not None
        apart = (second.expected - first.expected)[at]
        apart = apart[~np.isnan(apart)]
        out.append(
            TargetsDiffer(
                n=len(apart), first=one.words, second=other.words,
                differ=int(np.count_nonzero(apart)),
                mean=float(apart.mean()) if len(apart) >= FEWEST_TO_SHOW else None,
                unit="steps" if one.own.steps else one.own.unit,
            )
        )  # fmt: skip
    return out


def _said(told: TargetsDiffer) -> Reading:
    text = f"{told.first} and {told.second} differ for {amount(told.differ)} of "
    text += count(told.n, "student")
    if told.mean is not None and told.differ:
        way = "higher" if told.mean > 0 else "lower"
        text += f"; on average the second is {number(abs(told.mean))} {told.unit} {way}"
    return Reading(kind="list", rows=[], text=f"{text[:1].upper()}{text[1:]}.")


def _method(view: View, levels: Method) -> Method:
    held = _yardstick(view.quantity)
    beyond = (
        "; as expected is within one error of prediction" if held.kind == "prior" and held.priors
        else ""
    )  # fmt: skip
    says = [
        f"How each student's {held.own.score_name} stands to {held.words}: "
        f"{', '.join(held.states)}{beyond}. The share of those who have both.",
        levels.says[1].split(". ", 1)[-1],
        "Half of all may be below a middle; how a target was set is not judged here.",
    ]
    return Method(
        name=f"Standing to {held.words}", says=says,
        facts={"states": list(held.states), "met_at": held.met_at, "confidence": 0.95},
        page="methods/target-status.md",
    )  # fmt: skip
