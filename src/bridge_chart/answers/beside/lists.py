"""Lists: kept questions shown as students, with whom they are shared, what is planned, and what
changed since somebody looked. Nothing about a list exists only in a browser."""

from __future__ import annotations

import datetime as dt
from typing import Any

import numpy as np
import sqlalchemy as sa
from pydantic import Field
from sqlalchemy.dialects.postgresql import JSONB

from bridge_chart.access.audit import note
from bridge_chart.access.rules import require
from bridge_chart.answers.asking.ask import answer, bound_for, snapshot_for
from bridge_chart.answers.asking.opened import listing
from bridge_chart.answers.beside.list_changes import ListChanges, changes_between
from bridge_chart.answers.beside.own_part import own_columns, own_ids
from bridge_chart.answers.figures.slices import slices_of
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.store.settings import Settings
from bridge_chart.store.versions import current_version
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Value
from bridge_chart.terms.errors import BridgeError, ChangedMeanwhile, InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor

LONGEST_NAME = 160
LONGEST_TEXT = 2000
ALL_ROWS = 1_000_000
MOST_FIXED = 5_000


class SharedWith(Value):
    """Accounts and schools that a list is shared with; each sees it in their own scope."""

    accounts: list[int] = Field(default_factory=list)
    schools: list[int] = Field(default_factory=list)


class Plan(Value):
    """What makes a list an intervention. `acts`: who acts."""

    aim: str = ""
    acts: str = ""
    start: dt.date | None = None
    review: dt.date | None = None


class KeptList(Value):
    """A list. `students`: how many it has for who asks, None where it cannot be said; `fixed`: it
    names students, so that it stays as it was; `revision` rises with every change of it; `seen`:
    the version that who asks saw last; `left_out`: how many columns of it are not for who asks;
    `trouble`: why it cannot be opened now."""

    id: int
    name: str
    shared: bool
    own: bool
    at: dt.datetime
    by: str
    question: q.Question
    revision: int
    fixed: bool
    shared_with: SharedWith
    plan: Plan | None
    students: int | None = None
    seen: int | None = None
    left_out: int = 0
    trouble: str | None = None


def lists(engine: sa.Engine, settings: Settings, actor: Actor) -> list[KeptList]:
    """The lists that somebody may open, newest first. One of somebody else's that cannot be asked
    in the own scope names what is not seen there, and is left out."""
    require(actor, "open_students")
    with engine.connect() as connection:
        rows = connection.execute(_seen_by(actor)).mappings().all()
        looked = _looked(connection, actor)
    found = []
    for row in rows:
        one = _own_part(engine, settings, actor, _kept(row, looked.get(row["id"])))
        try:
            size = _students(engine, settings, actor, one.question)
            found.append(one.model_copy(update={"students": size}))
        except BridgeError as error:
            if one.own:
                found.append(one.model_copy(update={"trouble": str(error)}))
    return found


def list_of(engine: sa.Engine, settings: Settings, actor: Actor, list_id: int) -> KeptList:
    """One list that somebody may open; NotFound where there is none, or it is not shared."""
    require(actor, "open_students")
    table = u.saved_question
    with engine.connect() as connection:
        row = connection.execute(_seen_by(actor).where(table.c.id == list_id)).mappings().first()
        looked = _looked(connection, actor)
    if row is None:
        raise NotFound("There is no such list.", next_step="Choose one of those at People.")
    return _own_part(engine, settings, actor, _kept(row, looked.get(list_id)))


def _own_part(engine: sa.Engine, settings: Settings, actor: Actor, one: KeptList) -> KeptList:
    """The list as the actor may ask it."""
    question = one.question
    if one.fixed:
        question = own_ids(engine, settings, actor, question)
    if one.own:
        return one.model_copy(update={"question": question})
    question, left_out = own_columns(engine, settings, actor, question)
    return one.model_copy(update={"question": question, "left_out": left_out})


def keep_list(
    engine: sa.Engine, settings: Settings, actor: Actor, name: str, question: q.Question,
    *, fixed: bool = False,
) -> KeptList:  # fmt: skip
    """Keep a question's students as a list: of a mark where one is opened. fixed: these students,
    as they are now; else whoever fits."""
    require(actor, "open_students")
    asked = _as_list(engine, settings, actor, question)
    if fixed:
        asked = _fixed(engine, settings, actor, q.Question.model_validate(asked))
    values = {"account_id": actor.account_id, "name": _named(name), "question": asked}
    with engine.begin() as connection:
        made = sa.insert(u.saved_question).values(**values).returning(u.saved_question.c.id)
        identity = int(connection.scalar(made) or 0)
    note(engine, actor, "keep_list", {"list": identity, "name": values["name"]})
    return list_of(engine, settings, actor, identity)


def change_list(
    engine: sa.Engine, settings: Settings, actor: Actor, list_id: int, revision: int,
    *, name: str | None = None, question: q.Question | None = None, plan: Plan | None = None,
) -> KeptList:  # fmt: skip
    """Change a list of one's own. `revision`: what it is changed from; Conflict where somebody
    changed it since."""
    require(actor, "open_students")
    values: dict[str, Any] = {}
    if name is not None:
        values["name"] = _named(name)
    if question is not None:
        values["question"] = _as_list(engine, settings, actor, question)
    if plan is not None:
        values["plan"] = _checked(plan).model_dump(mode="json")
    return _changed(engine, settings, actor, list_id, revision, values)


def share_list(
    engine: sa.Engine, settings: Settings, actor: Actor, list_id: int, revision: int,
    *, everybody: bool, shared_with: SharedWith,
) -> KeptList:  # fmt: skip
    """Say who may open a list of one's own: everybody here, some people, some schools."""
    require(actor, "open_students")
    with engine.connect() as connection:
        for table, ids, what in (
            (t.account, shared_with.accounts, "account"), (t.school, shared_with.schools, "school"),
        ):  # fmt: skip
            known = set(connection.scalars(sa.select(table.c.id).where(table.c.id.in_(ids))))
            if set(ids) - known:
                raise NotFound(f"There is no such {what}.", kept="Nothing was shared.")
    values = {"shared": everybody, "shared_with": shared_with.model_dump(mode="json")}
    done = _changed(engine, settings, actor, list_id, revision, values)
    note(engine, actor, "share_list", {"list": list_id, **values})
    return done


def list_changes(
    engine: sa.Engine, settings: Settings, actor: Actor, list_id: int, since: int | None
) -> ListChanges:
    """What changed in a list since a version (None: since who asks saw it last), in their scope."""
    one = list_of(engine, settings, actor, list_id)
    with engine.connect() as connection:
        newest = current_version(connection)
    then = since if since is not None else one.seen
    whole = one.question.model_copy(update={"page": q.Page(size=ALL_ROWS)})
    now = answer(engine, settings, actor, whole.model_copy(update={"version": newest}))
    before = None
    if then is not None and then != newest:
        before = answer(engine, settings, actor, whole.model_copy(update={"version": then}))
    return changes_between(before, now, then, newest)


def looked_at(engine: sa.Engine, settings: Settings, actor: Actor, list_id: int) -> int:
    """Note that somebody saw a list as it is now; the version that was seen."""
    list_of(engine, settings, actor, list_id)
    with engine.begin() as connection:
        newest = current_version(connection)
        values = {"question_id": list_id, "account_id": actor.account_id, "version_id": newest}
        connection.execute(sa.insert(u.list_look).values(**values))
    return newest


def _changed(
    engine: sa.Engine,
    settings: Settings,
    actor: Actor,
    list_id: int,
    revision: int,
    values: dict[str, Any],
) -> KeptList:
    one = list_of(engine, settings, actor, list_id)
    if not one.own:
        raise NotFound("There is no such list of yours.", kept="Nothing was changed.",
                       next_step="Take a copy of it, and change that.")  # fmt: skip
    table = u.saved_question
    statement = (
        sa.update(table)
        .where(table.c.id == list_id, table.c.revision == revision)
        .values(revision=revision + 1, **values)
    )
    with engine.begin() as connection:
        if not connection.execute(statement).rowcount:
            raise ChangedMeanwhile(
                "This list was changed elsewhere since you opened it.",
                kept="It stays as it was changed there.",
                next_step="Open it again, then change it.",
            )  # fmt: skip
    note(engine, actor, "change_list", {"list": list_id, "changed": sorted(values)})
    return list_of(engine, settings, actor, list_id)


def _as_list(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question
) -> dict[str, Any]:
    """The question of a list, as it is kept: of its students, on the newest data."""
    asked = listing(question).model_copy(update={"page": None, "version": None})
    if asked.show != "students":
        asked = asked.model_copy(
            update={"show": "students", "sort": (), "reference": ("district",), "options": {},
                    "over": "sitting", "split": (), "focus": None}
        )  # fmt: skip
    snapshot = snapshot_for(engine, settings, actor, None)
    bound_for(engine, settings, actor, asked, snapshot)
    return asked.model_dump(mode="json", by_alias=True, exclude_defaults=True)


def _fixed(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question
) -> dict[str, Any]:
    """The same question of the students who fit it now, by their ids."""
    snapshot = snapshot_for(engine, settings, actor)
    bound, _ = bound_for(engine, settings, actor, question, snapshot)
    part = slices_of(bound.views)[0]
    ids = snapshot.student_ids[part.people & part.view.meant].tolist()
    if not 0 < len(ids) <= MOST_FIXED:
        raise InvalidQuestion(
            f"A fixed list has 1 to {MOST_FIXED} students, and this one {len(ids)}.",
            next_step="Narrow it, or keep it live.",
        )
    these = q.FieldIs.model_validate({"field": "student", "in": ids})
    who = question.who.model_copy(update={"all_": (these,)})
    asked = question.model_copy(update={"who": who, "cohort": "present"})
    return asked.model_dump(mode="json", by_alias=True, exclude_defaults=True)


def _students(engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question) -> int:
    snapshot = snapshot_for(engine, settings, actor, question.version)
    bound, _ = bound_for(engine, settings, actor, question, snapshot)
    part = slices_of(bound.views)[0]
    return int(np.count_nonzero(part.people & part.view.meant))


def _seen_by(actor: Actor) -> sa.Select[Any]:
    """The rows of lists in use that are somebody's own or shared with them."""
    table = u.saved_question
    mine = table.c.account_id.is_not_distinct_from(actor.account_id)
    told = table.c.shared_with
    to_me = told["accounts"].contains(sa.cast(actor.account_id, JSONB))
    to_mine = sa.or_(
        sa.false(), *(told["schools"].contains(sa.cast(s, JSONB)) for s in actor.schools)
    )  # fmt: skip
    return (
        sa.select(table, mine.label("own"), t.account.c.name.label("by"))
        .outerjoin(t.account, t.account.c.id == table.c.account_id)
        .where(~table.c.retired, table.c.question["show"].astext == "students")
        .where(mine | table.c.shared | (told.is_not(None) & (to_me | to_mine)))
        .order_by(table.c.id.desc())
    )


def _looked(connection: sa.Connection, actor: Actor) -> dict[int, int]:
    """The version of each list that somebody saw last."""
    table = u.list_look
    query = (
        sa.select(table.c.question_id, sa.func.max(table.c.version_id))
        .where(table.c.account_id.is_not_distinct_from(actor.account_id))
        .group_by(table.c.question_id)
    )
    return {row[0]: row[1] for row in connection.execute(query)}


def _kept(row: Any, seen: int | None) -> KeptList:
    question = q.Question.model_validate(row["question"])
    return KeptList(
        id=row["id"], name=row["name"], shared=row["shared"], own=row["own"], at=row["at"],
        by=row["by"] or "the operator", question=question, revision=row["revision"],
        fixed=_names_students(question),
        shared_with=SharedWith.model_validate(row["shared_with"] or {}),
        plan=None if row["plan"] is None else Plan.model_validate(row["plan"]), seen=seen,
    )  # fmt: skip


def _names_students(question: q.Question) -> bool:
    return any(isinstance(c, q.FieldIs) and c.field == "student" for c in question.who.all_)


def _named(name: str) -> str:
    name = " ".join(name.split())
    if not 0 < len(name) <= LONGEST_NAME:
        raise InvalidQuestion(f"A list must have a name of 1 to {LONGEST_NAME} characters.")
    return name


def _checked(plan: Plan) -> Plan:
    if max(len(plan.aim), len(plan.acts)) > LONGEST_TEXT:
        raise InvalidQuestion(f"Aim and people take {LONGEST_TEXT} characters at most.")
    if plan.start and plan.review and plan.review < plan.start:
        raise InvalidQuestion("The review lies before the start.", next_step="Change one of them.")
    return plan
