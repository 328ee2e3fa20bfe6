"""Saved questions, and notes on an answer: with author and date."""

from __future__ import annotations

import datetime as dt
import hashlib
import json

import sqlalchemy as sa

from bridge_chart.access.rules import require, scope_for
from bridge_chart.access.sight import sees_notes
from bridge_chart.answers.asking.ask import bound_for, snapshot_for
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.store.own import mark_own
from bridge_chart.store.settings import Settings
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Value
from bridge_chart.terms.errors import BridgeError, InvalidQuestion
from bridge_chart.terms.people import Actor

LONGEST_NAME = 160
LONGEST_NOTE = 4000


class SavedQuestion(Value):
    """A question under a name. Opened, it is asked of the newest data unless it names a version."""

    id: int
    name: str
    shared: bool
    own: bool
    at: dt.datetime
    by: str
    question: q.Question


class Note(Value):
    """A remark on an answer. `version`: what was on screen when it was written; `shared`: others
    who may ask the question read it too."""

    id: int
    text: str
    at: dt.datetime
    by: str
    own: bool
    shared: bool
    version: int


def list_questions(engine: sa.Engine, settings: Settings, actor: Actor) -> list[SavedQuestion]:
    """One's own saved questions and those that are shared, newest first. One that names what a
    narrower role cannot see would tell it, and is not listed."""
    require(actor, "ask")
    table = u.saved_question
    mine = table.c.account_id.is_not_distinct_from(actor.account_id)
    query = (
        sa.select(table, mine.label("own"), t.account.c.name.label("by"))
        .outerjoin(t.account, t.account.c.id == table.c.account_id)
        # A list of somebody else is told by `lists`, cut to the own scope.
        .where(mine | (table.c.shared & _no_list()), ~table.c.retired)
        .order_by(table.c.id.desc())
    )
    with engine.connect() as connection:
        found = [
            SavedQuestion(
                id=row["id"], name=row["name"], shared=row["shared"], own=row["own"],
                at=row["at"], by=row["by"] or "the operator",
                question=q.Question.model_validate(row["question"]),
            )
            for row in connection.execute(query).mappings()
        ]  # fmt: skip
    if scope_for(actor).whole:
        return found
    return [one for one in found if one.own or _can_ask(engine, settings, actor, one.question)]


def _no_list() -> sa.ColumnElement[bool]:
    show = u.saved_question.c.question["show"].astext
    return sa.func.coalesce(show, "spans") != "students"


def _can_ask(engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question) -> bool:
    try:
        _bound(engine, settings, actor, question)
    except BridgeError:
        return False
    return True


def save_question(
    engine: sa.Engine,
    settings: Settings,
    actor: Actor,
    name: str,
    question: q.Question,
    *,
    shared: bool = False,
) -> SavedQuestion:
    """Save a question that can be asked; InvalidQuestion and the like for one that cannot."""
    require(actor, "ask")
    name = " ".join(name.split())
    if not 0 < len(name) <= LONGEST_NAME:
        raise InvalidQuestion(f"A question must have a name of 1 to {LONGEST_NAME} characters.")
    _bound(engine, settings, actor, question)
    asked = question.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    values = {"account_id": actor.account_id, "name": name, "shared": shared, "question": asked}
    with engine.begin() as connection:
        made = sa.insert(u.saved_question).values(**values).returning(u.saved_question.c.id)
        identity = connection.scalar(made)
    return next(one for one in list_questions(engine, settings, actor) if one.id == identity)


def retire_question(engine: sa.Engine, actor: Actor, question_id: int) -> None:
    """Take a saved question of one's own away."""
    require(actor, "ask")
    mark_own(
        engine, u.saved_question, "saved question", question_id, actor.account_id, retired=True
    )


def _bound(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question
) -> tuple[q.Question, int]:
    """The question with ids, and the version that it is asked of; an error where it cannot be."""
    snapshot = snapshot_for(engine, settings, actor, question.version)
    bound, _ = bound_for(engine, settings, actor, question, snapshot)
    return bound.question, snapshot.version


def key_of(bound: q.Question) -> str:
    """What a note hangs on: the question whatever its version and however it is drawn."""
    plain = bound.model_copy(
        update={
            "version": None,
            "show": "spans",
            "options": {},
            "sort": (),
            "page": None,
            "open": None,
        }
    )
    text = json.dumps(plain.model_dump(mode="json", by_alias=True), sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def notes_on(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question
) -> list[Note]:
    """The notes on a question's answer, oldest first: one's own, and what colleagues wrote for
    others to read, where the role sees those."""
    require(actor, "ask")
    bound, _ = _bound(engine, settings, actor, question)
    table = u.note
    mine = table.c.account_id.is_not_distinct_from(actor.account_id)
    query = (
        sa.select(table, t.account.c.name.label("by"))
        .outerjoin(t.account, t.account.c.id == table.c.account_id)
        .where(table.c.question_key == key_of(bound), ~table.c.removed)
        .where(mine | (table.c.shared if sees_notes(engine, actor.role) else sa.false()))
        .order_by(table.c.id)
    )
    with engine.connect() as connection:
        return [
            Note(
                id=row["id"], text=row["text"], at=row["at"], by=row["by"] or "the operator",
                own=row["account_id"] == actor.account_id, shared=row["shared"],
                version=row["version_id"],
            )
            for row in connection.execute(query).mappings()
        ]  # fmt: skip


def add_note(
    engine: sa.Engine,
    settings: Settings,
    actor: Actor,
    question: q.Question,
    text: str,
    *,
    shared: bool = False,
) -> Note:
    """Write a note on a question's answer, for oneself or for others who may ask it too."""
    require(actor, "ask")
    text = text.strip()
    if not 0 < len(text) <= LONGEST_NOTE:
        raise InvalidQuestion(f"A note must have 1 to {LONGEST_NOTE} characters.")
    bound, version = _bound(engine, settings, actor, question)
    values = {"account_id": actor.account_id, "question_key": key_of(bound),
              "version_id": version, "text": text, "shared": shared}  # fmt: skip
    with engine.begin() as connection:
        connection.execute(sa.insert(u.note).values(**values))
    return notes_on(engine, settings, actor, question)[-1]


def remove_note(engine: sa.Engine, actor: Actor, note_id: int) -> None:
    """Take away a note of one's own."""
    require(actor, "ask")
    mark_own(engine, u.note, "note", note_id, actor.account_id, removed=True)
