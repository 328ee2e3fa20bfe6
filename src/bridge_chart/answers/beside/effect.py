"""How the students of a list did since, against others who were like them before."""

from __future__ import annotations

import numpy as np
import sqlalchemy as sa

from bridge_chart.access.audit import note
from bridge_chart.answers.asking.ask import bound_for, snapshot_for
from bridge_chart.answers.beside.lists import list_of
from bridge_chart.answers.bound.quantity import Quantity, plain
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.slices import slices_of
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.matching.matched import CALIPER, Matched, matched_difference
from bridge_chart.store.settings import Settings
from bridge_chart.terms.answer import Value
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.people import Actor
from bridge_chart.terms.wording import amount, count, interval, signed
from bridge_chart.terms.wording import plain as as_said


class Effect(Value):
    """`value`: the mean by which the list's students came out above those like them, in the unit
    of `outcome`, with its interval; None where none can be given, and `says` begins with why.
    `matched` of `students` have others like them, `controls` different ones."""

    outcome: str
    chosen_by: str
    start: str
    value: float | None
    low: float | None
    high: float | None
    students: int
    matched: int
    unmatched: int
    missing: int
    controls: int
    says: list[str]


CAUTION = (
    "This is no experiment: why these were chosen and those not may matter too.",
    "Others are matched on the start and on the result that the list was chosen by, for whoever "
    "is chosen for a low result does better the next time whatever is done.",
)  # fmt: skip


def list_effect(engine: sa.Engine, settings: Settings, actor: Actor, list_id: int) -> Effect:
    """The effect at the first later sitting of the same test, from the plan's start on; among the
    students that the actor sees. NotFound where there is no later sitting, or no start."""
    one = list_of(engine, settings, actor, list_id)
    snapshot = snapshot_for(engine, settings, actor, one.question.version)
    bound, _ = bound_for(engine, settings, actor, one.question, snapshot)
    part = slices_of(bound.views)[0]
    view = part.view
    start, outcome = view.start(), _later(view, one.plan.start if one.plan else None)
    figures = [np.asarray(figures_of_students(snapshot, q), float) for q in (start, view.quantity)]
    reached = np.asarray(figures_of_students(snapshot, outcome), float)
    strata = np.asarray(tested_year_level(snapshot, view.measure)).astype(np.int64)
    group = part.people & view.meant
    found = matched_difference(reached, np.stack(figures, 1), strata, group)
    note(engine, actor, "list_effect", {"list": list_id, "outcome": outcome.label})
    return _told(found, int(group.sum()), start, view.quantity, outcome)


def _later(view: View, since: object) -> Quantity:
    """The first sitting of the same test after the one that the list was chosen by."""
    own = view.measure
    later = sorted(
        (
            key for key in view.snapshot.measures
            if key.assessment.id == own.assessment.id and key.subject == own.subject
            and key.score == own.score and key.role == own.role and key.date > own.date
            and (since is None or str(key.date) >= str(since))
        ),
        key=lambda key: key.date,
    )  # fmt: skip
    if not later:
        raise NotFound(
            f"There is no sitting of {own.assessment.name} after {own.sitting.name} yet, so it "
            "cannot be said how they did.",
            next_step="Look again once the next results are kept.",
        )
    return plain(later[0])


def _told(
    found: Matched, students: int, start: Quantity, chosen: Quantity, outcome: Quantity
) -> Effect:
    effect = found.effect
    none = np.isnan(effect.value)
    matched = f"{effect.n} of {count(students, 'student')} have others like them"
    if none:
        says = [f"No figure: {effect.reason} ({matched})."]
    else:
        says = [
            f"They came out {signed(effect.value)} {outcome.unit} beside others like them "
            f"({interval(effect.low, effect.high)}).",
            f"{matched} within {as_said(CALIPER)} standard deviations in {start.label} and in "
            f"{chosen.label}: {amount(found.controls)} others, same year.",
            *CAUTION,
        ]
    return Effect(
        outcome=outcome.label, chosen_by=chosen.label, start=start.label,
        value=None if none else effect.value, low=None if none else effect.low,
        high=None if none else effect.high, students=students, matched=effect.n,
        unmatched=found.unmatched, missing=effect.missing, controls=found.controls, says=says,
    )  # fmt: skip
