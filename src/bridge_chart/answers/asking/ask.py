"""The one way in: a Question, who asks, and the record; out comes the Answer.

Screen, command line and HTTP all come through here, so access is checked here and looking at
students is noted here. From here on the way is straight: bound ▸ slices ▸ shown ▸ framed.
"""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass, replace
from threading import Lock
from typing import Any

import sqlalchemy as sa
from cachetools import LRUCache
from pydantic import ValidationError

from bridge_chart.access.audit import note
from bridge_chart.access.releases import Published, published_for
from bridge_chart.access.rules import require
from bridge_chart.access.scoped import seen_by
from bridge_chart.access.sight import sees_notes
from bridge_chart.answers.asking.answer import Answer
from bridge_chart.answers.asking.bind import bind
from bridge_chart.answers.asking.binder import NO_SETS, Sets
from bridge_chart.answers.asking.frame import ENGINE, framed
from bridge_chart.answers.asking.opened import listing, narrowed
from bridge_chart.answers.bound.view import Bound
from bridge_chart.answers.figures.slices import slices_of
from bridge_chart.answers.kept.turns import TURNS
from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.answers.shows.show import Lines
from bridge_chart.answers.shows.students.body import StudentsBody
from bridge_chart.store.sets import reached_by, sets_for
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.student_notes import notes_seen
from bridge_chart.store.versions import current_version
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion, NotFound, problems_of
from bridge_chart.terms.people import Actor
from bridge_chart.terms.words import spoken

MOST_KEPT = 256


@dataclass(frozen=True)
class _Known:
    """An answer as JSON, and the ids of the students that it lists."""

    data: bytes
    students: tuple[int, ...]


HIDDEN_NOTE = "note hidden"
_kept: LRUCache[str, _Known] = LRUCache(MOST_KEPT)
_lock = Lock()


def read_question(given: Any) -> q.Question:
    """A Question from JSON values; InvalidQuestion says where and why it is none."""
    try:
        return q.Question.model_validate(given)
    except ValidationError as error:
        problems = problems_of(error)
        first = problems[0]
        raise InvalidQuestion(
            f"The question cannot be understood: {first['at'] or 'the whole'}: {first['problem']}.",
            next_step="docs/question.md explains every key.",
            problems=problems[:20],
        ) from error


def answer(engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question) -> Answer:
    """The Answer to a question for somebody."""
    return Answer.model_validate_json(answer_bytes(engine, settings, actor, question))


def answer_bytes(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question
) -> bytes:
    """The Answer as JSON. Kept by version, scope, question and engine; access is checked and the
    audit written every time, kept or not."""
    asked = listing(question)
    lists = asked.show in SHOWS and SHOWS[asked.show].lists_students
    require(actor, "open_students" if lists else "ask")
    snapshot = snapshot_for(engine, settings, actor, asked.version)
    bound, published = bound_for(engine, settings, actor, asked, snapshot)
    narrow = narrowed(question)
    key = _key(settings, snapshot, published, bound, narrow)
    with _lock:
        found = _kept.get(key)
    if found is None:
        found = _worked_out(key, bound, narrow)
    if lists:
        noted = bound.question.model_dump(mode="json", by_alias=True, exclude_defaults=True)
        detail = {"question": noted, "version": snapshot.version, "students": [*found.students]}
        note(engine, actor, "open_students", detail)
    return found.data


def _worked_out(key: str, bound: Bound, narrow: q.Question | None) -> _Known:
    """One answer at a time in a process, the strip after all others. Whoever waited for the same
    question finds it kept."""
    with TURNS.mine(urgent=bound.question.show != "strip"):
        with _lock:
            found = _kept.get(key)
        if found is None:
            made = answer_on(bound, narrow)
            listed = made.body.student if isinstance(made.body, StudentsBody) else ()
            found = _Known(made.model_dump_json(by_alias=True).encode(), tuple(listed))
            with _lock:
                _kept[key] = found
        return found


def answer_on(bound: Bound, narrow: q.Question | None = None) -> Answer:
    """The Answer to a bound question; nothing is kept or noted."""
    show = SHOWS[bound.question.show]
    views = bound.views
    if show.ready is not None and len(views) > 1:
        views = tuple(replace(one, at=n) for n, one in enumerate(show.ready(views)))
    parts = slices_of(views)
    return framed(show.answer(parts), parts, narrow)


def lines_for_outside(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question
) -> Lines:
    """A question's numbers with small ones hidden, so that they may leave the house."""
    require(actor, "export")
    show = SHOWS.get(question.show)
    if question.open is not None or show is None or show.outside is None:
        raise InvalidQuestion(
            "Only the numbers of groups can go outside, not lists, curves or dots.",
            kept="Nothing was written.", next_step="Look at it as Spans, Levels or a table.",
            instead={"show": "spans"},
        )  # fmt: skip
    snapshot = snapshot_for(engine, settings, actor, question.version)
    bound, _ = bound_for(engine, settings, actor, question, snapshot)
    note(engine, actor, "export", {"show": question.show, "outside": True})
    return show.outside(slices_of(bound.views))


def bound_for(
    engine: sa.Engine, settings: Settings, actor: Actor, question: q.Question, snapshot: Snapshot
) -> tuple[Bound, Published | None]:
    """Somebody's question bound to their snapshot, with their groups and what is published to
    them; and that."""
    published = published_for(engine, settings.snapshots, snapshot)
    sets, noted = sets_of(engine, actor, question), noted_for(engine, actor, question)
    return bind(question, snapshot, sets, published, noted), published


def noted_for(engine: sa.Engine, actor: Actor, question: q.Question) -> dict[int, str]:
    """What the actor may read about students, newest first in one text; not looked up where no
    column shows it."""
    if "notes" not in question.columns:
        return {}
    with engine.connect() as connection:
        notes = notes_seen(connection, actor.account_id, others=sees_notes(engine, actor.role))
    told: dict[int, list[str]] = {}
    for one in notes:
        # A note may hold a name.
        text = HIDDEN_NOTE if actor.names_hidden else one.text
        told.setdefault(one.student_id, []).append(text)
    return {student: "; ".join(texts) for student, texts in told.items()}


def sets_of(engine: sa.Engine, actor: Actor, question: q.Question) -> Sets:
    """The groups that the actor may use; not looked up where the question names none."""
    if '"set":' not in question.model_dump_json(by_alias=True, exclude_defaults=True):
        return NO_SETS
    with engine.connect() as connection:
        named = {one.id: one for one in sets_for(connection, actor.account_id)}
        return Sets(named, reached_by(connection, named))


def snapshot_for(
    engine: sa.Engine, settings: Settings, actor: Actor, version: int | None = None
) -> Snapshot:
    """The snapshot that somebody's question is asked of: their scope of it, and nothing else;
    NotFound says what must be brought in first."""
    if version is not None:
        with engine.connect() as connection:
            newest = current_version(connection)
        if version > newest:
            raise NotFound(f"There is no version {version}; the newest is {newest}.")
    snapshot = seen_by(engine, settings.snapshots, actor, version)
    if not (snapshot.measures or snapshot.credit_years):
        raise NotFound(
            "Nothing has been kept yet, so nothing can be asked."
            if not snapshot.schools
            else "There are no results yet, so nothing can be compared.",
            next_step="Bring in a roster and a results file at Intake.",
        )
    return snapshot


def _key(
    settings: Settings, snapshot: Snapshot, published: Published | None, bound: Bound,
    narrow: q.Question | None,
) -> str:  # fmt: skip
    asked = [
        None if one is None else one.model_dump(mode="json", by_alias=True)
        for one in (bound.question, narrow)
    ]
    released = None if published is None else published.key
    noted = sorted(bound.views[0].noted.items())
    text = json.dumps(
        [str(settings.home), snapshot.key, released, ENGINE, asked, spoken().model_dump(), noted]
    )
    return hashlib.sha256(text.encode()).hexdigest()


def forget_answers() -> None:
    """Drop every kept answer (tests and benchmarks look with and without)."""
    with _lock:
        _kept.clear()
