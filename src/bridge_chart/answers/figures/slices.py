"""A bound question taken apart into its quantities: population, split and figures of each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import reduce

import numpy as np

from bridge_chart.answers.bound.identity import PartId
from bridge_chart.answers.bound.split import Group, Grouping, Key, grouped, one_row
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.outcome import Outcome, outcome
from bridge_chart.answers.who.population import population
from bridge_chart.core.arrays import Mask
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion, TooWide
from bridge_chart.terms.wording import amount
from bridge_chart.terms.words import spoken

MOST_ROWS = 25_000
ROLE_WORDS = {"result": "Actual", "predicted": "Predicted"}


@dataclass(frozen=True)
class Slice:
    """One quantity of a question with its population, split and figures. `released`: the day of
    the release that it is of, of which mean, spread and shares of levels may be shown and nothing
    finer; None: it is the asker's own."""

    view: View
    out: Outcome
    people: Mask
    grouping: Grouping
    released: str | None = None


def opens(view: View, group: Group) -> q.Open:
    """What the mark of a group adds to the question."""
    return q.Open(add=group.adds, what=view.stands)


def whole(part: Slice, mask: Mask, key: Key, label: str) -> Slice:
    """The same quantity for other students, as one row: what is pinned above a split."""
    return replace(part, people=mask, grouping=one_row(mask, "", key, label))


def slices_of(views: Sequence[View]) -> list[Slice]:
    """The parts of an answer, one for each quantity, split as the question asks."""
    parts = []
    for view in views:
        people = population(view)
        grouping = grouped(view.split, people & view.meant)
        parts.append(Slice(view, outcome(view), people, grouping))
    if views[0].question.cohort == "matched":
        both = _everywhere_counted(parts)
        parts = [_only(part, both) for part in parts]
    rows = sum(len(part.grouping.groups) for part in parts)
    if rows > MOST_ROWS:
        raise TooWide(
            f"This split has {amount(rows)} rows; the most that can be shown is "
            f"{amount(MOST_ROWS)}.",
            next_step=f"Narrow it first, to a school or {spoken().some_year_level}.",
        )
    return parts


def _everywhere_counted(parts: list[Slice]) -> Mask:
    return reduce(
        np.logical_and, [part.people & part.view.meant & (part.out.reasons == 0) for part in parts]
    )


def _only(part: Slice, mask: Mask) -> Slice:
    """The slice with only some of its students."""
    held = mask[part.grouping.at]
    grouping = replace(part.grouping, at=part.grouping.at[held], code=part.grouping.code[held])
    return replace(part, grouping=grouping, people=part.people & mask)


def measure_dimension(views: Sequence[View]) -> tuple[str, list[str]]:
    """What several quantities differ in, and what each is called for short; never two alike."""
    word, names = _dimension(views)
    if len(set(names)) < len(names):
        word, names = "measure", [view.quantity.label for view in views]
    if len(set(names)) < len(names):
        names = [f"{view.quantity.label}, {view.quantity.score_name}" for view in views]
    return word, names


def _dimension(views: Sequence[View]) -> tuple[str, list[str]]:
    keys = [view.quantity.key for view in views]
    parts = [view.quantity.part for view in views]
    if all(part is not None for part in parts) and len({k.sitting.id for k in keys}) == 1:
        return next(p.kind for p in parts if p), [_called(p) for p in parts if p]
    roles = [(k.role, k.kind) for k in keys]
    if len(set(roles)) == len(keys) > 1 and len({k.sitting.id for k in keys}) == 1:
        return "figure", [
            ROLE_WORDS.get(r) or f"{kind} {r}".strip().capitalize() for r, kind in roles
        ]
    same_test = len({k.assessment.id for k in keys}) == 1 and len(set(roles)) == 1
    if same_test and len({k.sitting.name for k in keys}) == 1 and not any(parts):
        return "subject", [k.about for k in keys]
    if same_test and len({k.about for k in keys}) == 1 and not any(parts):
        return "sitting", [k.sitting.name for k in keys]
    return "measure", [view.quantity.label for view in views]


def _called(part: PartId) -> str:
    return part.name or " and ".join(part.tagged)


def one_axis(views: Sequence[View]) -> None:
    """Several measures can be drawn on one axis only where their figures mean the same."""
    scores = {view.quantity.score for view in views}
    tests = {view.quantity.key.assessment.id for view in views}
    if len(scores) > 1 or (len(tests) > 1 and scores != {"percent"}):
        raise InvalidQuestion(
            "These measures have different scales, so one axis cannot hold them.",
            next_step="Look at them as a table, or take measures of one test in one kind of score.",
        )


def measure_outside(question: q.Question) -> bool:
    """Whether the measure is the outer dimension: each subject with its groups inside."""
    return bool(question.split) and isinstance(question.split[0], str)
