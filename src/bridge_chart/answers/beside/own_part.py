"""What of somebody else's list may be asked in one's own scope: own students, own columns."""

from __future__ import annotations

import sqlalchemy as sa

from bridge_chart.access.rules import scope_for
from bridge_chart.answers.asking.ask import bound_for, snapshot_for
from bridge_chart.store.settings import Settings
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import BridgeError
from bridge_chart.terms.people import Actor


def own_ids(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question
) -> q.Question:
    """The question without the ids of students whom the actor does not see: neither who they are
    nor how many is theirs to know."""
    if scope_for(actor).whole:
        return question
    ids = snapshot_for(engine, settings, actor).student_ids
    seen = {int(one) for one in ids}
    conditions = tuple(
        c.model_copy(update={"in_": tuple(v for v in c.in_ or () if v in seen) or (0,)})
        if isinstance(c, q.FieldIs) and c.field == "student"
        else c
        for c in question.who.all_
    )
    who = question.who.model_copy(update={"all_": conditions})
    return question.model_copy(update={"who": who})


def own_columns(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question
) -> tuple[q.Question, int]:
    """The question without what only shows a thing that the actor does not see (a column, a
    heading, a highlight), and how many columns that leaves out. Who is in the list is never
    changed: where that cannot be asked, nothing can."""
    snapshot = snapshot_for(engine, settings, actor, question.version)

    def asks(**parts: object) -> bool:
        try:
            bound_for(engine, settings, actor, question.model_copy(update=parts), snapshot)
        except BridgeError:
            return False
        return True

    if asks():
        return question, 0
    bare = {"columns": (), "split": (), "focus": None, "sort": ()}
    columns = tuple(one for one in question.columns if asks(**{**bare, "columns": (one,)}))
    kept = {
        "columns": columns,
        "split": question.split if asks(**{**bare, "split": question.split}) else (),
        "focus": question.focus if asks(**{**bare, "focus": question.focus}) else None,
        "sort": (),
    }
    return question.model_copy(update=kept), len(question.columns) - len(columns)
