"""A list as a grid to fill in: its students, and of its columns those that a file can say."""

from __future__ import annotations

import sqlalchemy as sa

from bridge_chart.answers.asking.ask import bound_for, snapshot_for
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.figures.slices import slices_of
from bridge_chart.store.settings import Settings
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.grid import MOST_STUDENTS, GridColumn, GridSpec
from bridge_chart.terms.people import Actor
from bridge_chart.terms.wording import amount


def grid_of_list(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question, title: str
) -> GridSpec:
    """The students of a list and the results, targets and predictions among its columns; what is
    worked out of others, a part of a test, a characteristic or a note cannot come in as a result
    and is left out. InvalidQuestion where nothing is left, or there are too many students."""
    snapshot = snapshot_for(engine, settings, actor, question.version)
    bound, _ = bound_for(engine, settings, actor, question, snapshot)
    part = slices_of(bound.views)[0]
    ids = snapshot.student_ids[part.people & part.view.meant].tolist()
    asked = [c.quantity for c in part.view.columns if c.quantity is not None]
    kept = dict.fromkeys(_column(one) for one in [*asked, part.view.quantity] if _is_kept(one))
    if not kept or not 0 < len(ids) <= MOST_STUDENTS:
        raise InvalidQuestion(
            "This list makes no grid: that takes a column of results, targets or predictions, "
            f"and 1 to {amount(MOST_STUDENTS)} students.",
            next_step="Add such a column, or narrow the list.",
        )
    return GridSpec(students=ids, title=title, columns=list(kept))


def _is_kept(one: Quantity) -> bool:
    return one.worked is None and one.part is None


def _column(one: Quantity) -> GridColumn:
    key = one.key
    return GridColumn(
        test=key.assessment.name,
        subject=key.subject.name if key.subject else "",
        sitting=key.sitting.name,
        date=key.date,
        role=key.score if key.role == "result" else key.role,
        kind=key.kind,
    )
