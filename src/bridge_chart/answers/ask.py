"""The one way in: a Question, who asks, and the record; out comes the Answer.

Screen, command line and HTTP all come through here, so access is checked here and looking at
students is noted here.
"""

from __future__ import annotations

import hashlib
import json
from collections import OrderedDict
from collections.abc import Callable, Mapping
from threading import Lock
from typing import Any

import sqlalchemy as sa
from pydantic import ValidationError

from bridge_chart.access.audit import note
from bridge_chart.access.rules import require, scope_for
from bridge_chart.answers.compare import compare
from bridge_chart.answers.frame import ENGINE
from bridge_chart.answers.levels import levels
from bridge_chart.answers.made_up_of import made_up_of
from bridge_chart.answers.normalise import normalise
from bridge_chart.answers.over_time import every_sitting, over_time, with_yardstick
from bridge_chart.answers.slices import views_of
from bridge_chart.answers.spread import spread
from bridge_chart.answers.start_to_now import start_to_now
from bridge_chart.answers.strip import strip
from bridge_chart.answers.students import students
from bridge_chart.answers.turns import TURNS
from bridge_chart.answers.view import View
from bridge_chart.store.sets import StudentSet, sets_for
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.store.versions import current_version
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Answer
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor, Scope

ANSWERED_BY: dict[str, Callable[[list[View]], Answer]] = {
    "spans": compare,
    "table": compare,
    "levels": levels,
    "spread": spread,
    "start_to_now": start_to_now,
    "over_time": over_time,
    "make_up": made_up_of,
    "students": students,
    "strip": strip,
}
MOST_KEPT = 256
_kept: OrderedDict[str, bytes] = OrderedDict()
_lock = Lock()


def read_question(given: Any) -> q.Question:
    """A Question from JSON values; InvalidQuestion says where and why it is none."""
    try:
        return q.Question.model_validate(given)
    except ValidationError as error:
        problems = [
            {"at": ".".join(str(part) for part in item["loc"]), "problem": item["msg"]}
            for item in error.errors(include_url=False, include_context=False)
        ]
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
    require(actor, "open_students" if question.show == "students" else "ask")
    snapshot = snapshot_for(engine, settings, question.version)
    scope = scope_for(actor)
    bound, sets = bound_to(engine, actor, question, snapshot)
    key = _key(settings, snapshot, scope, bound)
    with _lock:
        found = _kept.get(key)
        if found is not None:
            _kept.move_to_end(key)
    if found is None:
        found = _worked_out(key, snapshot, scope, bound, sets)
        with _lock:
            _kept[key] = found
            while len(_kept) > MOST_KEPT:
                _kept.popitem(last=False)
    if question.show == "students":
        asked = bound.model_dump(mode="json", by_alias=True, exclude_defaults=True)
        note(engine, actor, "open_students", {"question": asked, "version": snapshot.version})
    return found


def _worked_out(
    key: str, snapshot: Snapshot, scope: Scope, bound: q.Question, sets: Mapping[int, StudentSet]
) -> bytes:
    """One answer at a time in a process, the strip after all others. Whoever waited for the same
    question finds it kept."""
    with TURNS.mine(urgent=bound.show != "strip"):
        with _lock:
            if key in _kept:
                return _kept[key]
        made = answer_on(snapshot, scope, bound, sets)
        return made.model_dump_json(by_alias=True).encode()


def answer_on(
    snapshot: Snapshot,
    scope: Scope,
    bound: q.Question,
    sets: Mapping[int, StudentSet] | None = None,
) -> Answer:
    """The Answer to a normalised question on one snapshot; nothing is kept or noted."""
    views = views_of(snapshot, scope, bound, sets or {})
    if bound.show == "over_time" and len(views) == 1:
        views = with_yardstick(views_of(snapshot, scope, every_sitting(bound), sets or {}))
    return ANSWERED_BY[bound.show](views)


def bound_to(
    engine: sa.Engine, actor: Actor, question: q.Question, snapshot: Snapshot
) -> tuple[q.Question, dict[int, StudentSet]]:
    """The normalised question, and the groups that the actor may name in it."""
    sets = _sets(engine, actor, question)
    return normalise(question, snapshot, sets), sets


def _sets(engine: sa.Engine, actor: Actor, question: q.Question) -> dict[int, StudentSet]:
    """The groups that the actor may use; not looked up where the question names none."""
    if '"set":' not in question.model_dump_json(by_alias=True, exclude_defaults=True):
        return {}
    with engine.connect() as connection:
        return {one.id: one for one in sets_for(connection, actor.account_id)}


def snapshot_for(engine: sa.Engine, settings: Settings, version: int | None) -> Snapshot:
    """The snapshot that a question is asked of; NotFound says what must be brought in first."""
    if version is not None:
        with engine.connect() as connection:
            newest = current_version(connection)
        if version > newest:
            raise NotFound(f"There is no version {version}; the newest is {newest}.")
    snapshot = snapshot_of(engine, settings.snapshots, version)
    if not snapshot.measures:
        raise NotFound(
            "Nothing has been kept yet, so nothing can be asked."
            if not snapshot.schools
            else "There are no results yet, so nothing can be compared.",
            next_step="Bring in a roster and a results file at Intake.",
        )
    return snapshot


def _key(settings: Settings, snapshot: Snapshot, scope: Scope, bound: q.Question) -> str:
    text = json.dumps(
        [str(settings.home), snapshot.version, scope.key, ENGINE,
         bound.model_dump(mode="json", by_alias=True)]
    )  # fmt: skip
    return hashlib.sha256(text.encode()).hexdigest()
