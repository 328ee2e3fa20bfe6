"""Notes about a student: whoever may see the student may read what colleagues wrote for others."""

from __future__ import annotations

import datetime as dt

import numpy as np
import sqlalchemy as sa

from bridge_chart.access.audit import note
from bridge_chart.access.rules import require
from bridge_chart.access.sight import sees_notes
from bridge_chart.answers.asking.ask import HIDDEN_NOTE, snapshot_for
from bridge_chart.answers.beside.lists import list_of
from bridge_chart.store import student_notes as kept
from bridge_chart.store import use_tables as u
from bridge_chart.store.own import mark_own
from bridge_chart.store.settings import Settings
from bridge_chart.terms.answer import Value
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor

LONGEST_NOTE = 2000


class NoteOnStudent(Value):
    """A remark on a student, with author and day. `list_id`: the list it was written in."""

    id: int
    student: int
    text: str
    at: dt.datetime
    by: str
    own: bool
    shared: bool
    list_id: int | None


def notes_on_student(
    engine: sa.Engine, settings: Settings, actor: Actor, student: int
) -> list[NoteOnStudent]:
    """What the actor may read about a student of their scope, newest first."""
    require(actor, "open_students")
    _place(engine, settings, actor, student)
    others = sees_notes(engine, actor.role)
    with engine.connect() as connection:
        found = kept.notes_seen(connection, actor.account_id, others=others, student_id=student)
    return [
        NoteOnStudent(
            id=one.id, student=one.student_id, at=one.at, by=one.by, own=one.own,
            text=HIDDEN_NOTE if actor.names_hidden else one.text, shared=one.shared,
            list_id=one.question_id,
        )
        for one in found
    ]  # fmt: skip


def note_student(
    engine: sa.Engine, settings: Settings, actor: Actor, student: int, text: str,
    *, shared: bool = False, list_id: int | None = None,
) -> NoteOnStudent:  # fmt: skip
    """Write about a student of the own scope; noted in the audit, without the words."""
    require(actor, "open_students")
    text = " ".join(text.split())
    if not 0 < len(text) <= LONGEST_NOTE:
        raise InvalidQuestion(f"A note must have 1 to {LONGEST_NOTE} characters.")
    _place(engine, settings, actor, student)
    if list_id is not None:
        list_of(engine, settings, actor, list_id)
    with engine.begin() as connection:
        made = kept.add_student_note(
            connection, actor.account_id, student, text, shared=shared, question_id=list_id
        )
    note(engine, actor, "note_student", {"student": student, "list": list_id})
    notes = notes_on_student(engine, settings, actor, student)
    return next(one for one in notes if one.id == made)


def remove_student_note(engine: sa.Engine, actor: Actor, note_id: int) -> None:
    """Take away a note of one's own."""
    require(actor, "open_students")
    mark_own(engine, u.student_note, "note", note_id, actor.account_id, removed=True)


def _place(engine: sa.Engine, settings: Settings, actor: Actor, student: int) -> int:
    """Where a student stands in the actor's snapshot; NotFound where they may not be seen."""
    ids = np.asarray(snapshot_for(engine, settings, actor).student_ids)
    at = int(np.searchsorted(ids, student))
    if at >= len(ids) or ids[at] != student:
        raise NotFound("There is no such student.", kept="Nothing was written.")
    return at
