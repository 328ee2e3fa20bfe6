"""Groups of students that people save: by the rule of a question, or as the list that it gives."""

from __future__ import annotations

from typing import Literal

import numpy as np
import sqlalchemy as sa

from bridge_chart.access.audit import note
from bridge_chart.access.rules import require, scope_for
from bridge_chart.answers.asking.ask import bound_for, snapshot_for
from bridge_chart.answers.asking.opened import listing
from bridge_chart.answers.figures.slices import slices_of
from bridge_chart.store import use_tables as u
from bridge_chart.store.own import mark_own
from bridge_chart.store.sets import StudentSet, private_in, sets_for
from bridge_chart.store.settings import Settings
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Value
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.people import Actor

LONGEST_NAME = 120
Kind = Literal["rule", "list"]


class Group(Value):
    """A saved group. `kind`: a rule stays live, a list stays as it was; `own`: made by who asks."""

    id: int
    name: str
    kind: Kind
    shared: bool
    own: bool
    students: int | None


def list_groups(engine: sa.Engine, actor: Actor) -> list[Group]:
    """The groups in use that a person may see, newest first."""
    require(actor, "ask")
    with engine.connect() as connection:
        held = sets_for(connection, actor.account_id)
    whole = scope_for(actor).whole
    return [_shown(one, whole=whole or one.own) for one in held if not one.retired]


def _shown(one: StudentSet, *, whole: bool) -> Group:
    """whole: how many a list of somebody else has is for those alone who see all of them."""
    return Group(
        id=one.id, name=one.name, kind="list" if one.rule is None else "rule", shared=one.shared,
        own=one.own,
        students=None if one.students is None or not whole else len(one.students),
    )  # fmt: skip


def save_group(
    engine: sa.Engine,
    settings: Settings,
    actor: Actor,
    name: str,
    kind: Kind,
    question: q.Question,
    *,
    shared: bool = False,
) -> Group:
    """Save whom a question asks about. A list holds the students in the actor's scope as they are
    now; it is noted who made it."""
    require(actor, "open_students" if kind == "list" else "ask")
    name = _checked(engine, actor, name)
    asked = listing(question)
    snapshot = snapshot_for(engine, settings, actor, asked.version)
    bound, _ = bound_for(engine, settings, actor, asked, snapshot)
    values: dict[str, object] = {"account_id": actor.account_id, "name": name, "shared": shared}
    if kind == "rule":
        rule = _rule(engine, bound.question, shared=shared)
        values["rule"] = rule.model_dump(mode="json", by_alias=True)
    else:
        part = slices_of(bound.views)[0]
        at = np.flatnonzero(part.people & part.view.meant)
        if not len(at):
            raise InvalidQuestion("Nobody is in this list, so it was not saved.")
        values["students"] = snapshot.student_ids[at].tolist()
    with engine.begin() as connection:
        made = sa.insert(u.student_set).values(**values).returning(u.student_set.c.id)
        identity = int(connection.scalar(made) or 0)
        saved = next(s for s in sets_for(connection, actor.account_id) if s.id == identity)
    note(engine, actor, "save_group", {"group": identity, "name": name, "kind": kind})
    return _shown(saved, whole=True)


def _rule(engine: sa.Engine, question: q.Question, *, shared: bool) -> q.Who:
    """Whom a question asks about, as a rule; refused where a rule would say something else."""
    if question.cohort == "matched":
        raise InvalidQuestion(
            "Who is counted in every measure is no rule.", next_step="Save it as a list."
        )
    with engine.connect() as connection:
        private = private_in(connection, question.who) if shared else []
    if private:
        raise InvalidQuestion(
            f"The rule names your own group “{private[0]}”, which nobody else may use.",
            kept="Nothing was saved.",
            next_step="Share that group first, or save this one as a list.",
        )
    # “As of the sitting” is the sitting of whoever asks with the group.
    as_of = question.who.as_of
    return question.who.model_copy(update={"as_of": None if as_of == "sitting" else as_of})


def _checked(engine: sa.Engine, actor: Actor, name: str) -> str:
    name = " ".join(name.split())
    if not 0 < len(name) <= LONGEST_NAME:
        raise InvalidQuestion(f"A group must have a name of 1 to {LONGEST_NAME} characters.")
    if any(one.own and one.name.lower() == name.lower() for one in list_groups(engine, actor)):
        raise InvalidQuestion(
            f"You have a group “{name}” already.",
            next_step="Take another name, or retire that one.",
        )
    return name


def retire_group(engine: sa.Engine, actor: Actor, group_id: int) -> None:
    """Take a group of one's own out of use; questions that name it still hold."""
    require(actor, "ask")
    mark_own(engine, u.student_set, "group", group_id, actor.account_id, retired=True)
    note(engine, actor, "retire_group", {"group": group_id})
