"""Find: a student by any part of name or number, a class, a test, a school, from anywhere."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
import sqlalchemy as sa
from rapidfuzz import process
from rapidfuzz.distance import DamerauLevenshtein

from bridge_chart.access.audit import note
from bridge_chart.access.rules import may, require
from bridge_chart.answers.asking.ask import snapshot_for
from bridge_chart.answers.beside.groups import list_groups
from bridge_chart.answers.beside.lists import lists
from bridge_chart.answers.beside.saved import list_questions
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.store import tables as t
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import Roll, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Value
from bridge_chart.terms.letters import typed
from bridge_chart.terms.people import Actor
from bridge_chart.terms.wording import day
from bridge_chart.terms.words import spoken

MOST_OF_A_KIND = 8
SHORTEST_WITH_SLIP, LONG_WORD = 4, 8
"""Letters from which a word may have one slip, and two."""
LOOKED_BACK = 100
"""Lines of the audit in which it is looked who was opened lately."""
FoundKind = Literal["student", "class", "school", "test", "question", "list", "group"]


class Found(Value):
    """One thing found. `who`: the condition that asks about it; `opens`: what opens a student in
    any question; `what`: the measure; `question`: a saved question."""

    kind: FoundKind
    id: int | str
    label: str
    detail: str
    who: q.Condition | None = None
    opens: q.Open | None = None
    what: q.Measure | None = None
    question: q.Question | None = None


def find(engine: sa.Engine, settings: Settings, actor: Actor, text: str) -> list[Found]:
    """What fits every word of `text`, in the actor's scope; students only for roles that may open
    them, and looking for them is noted. An empty text finds whom they opened lately."""
    require(actor, "ask")
    words = typed(text).split()
    snapshot = snapshot_for(engine, settings, actor)
    roll = snapshot.roll_at(snapshot.today) if snapshot.today else None
    if roll is None:
        return []
    if not words:
        opens = may(actor, "open_students")
        return _students(snapshot, roll, _lately(engine, snapshot, actor)) if opens else []
    found = [*_schools(snapshot, words), *_classes(snapshot, roll, words)]
    found += [*_tests(snapshot, words), *_saved(engine, settings, actor, words)]
    if may(actor, "open_students"):
        students = _students(snapshot, roll, _named(snapshot, roll, words))
        if students:
            note(engine, actor, "find_students", {"text": text, "found": len(students)})
        found = [*students, *found]
    return found


def _fits(words: list[str], *texts: str) -> bool:
    whole = typed(" ".join(texts))
    return all(word in whole for word in words)


def _named(snapshot: Snapshot, roll: Roll, words: list[str]) -> list[int]:
    """Places of students whose names and number hold every word, those that begin with the first
    before others; where nobody's do, of those who are called nearly so."""

    def haystack() -> Any:
        told = zip(snapshot.given_names, snapshot.family_names, snapshot.numbers, strict=True)
        return np.array(
            [f" {typed(f'{given} {family}')} {number}" for given, family, number in told]
        )

    whole = kept_for(snapshot, ("find students",), haystack)
    here = np.asarray(roll.school >= 0)
    hit = _holding(whole, here, [[word] for word in words])
    if not hit.any():
        hit = _holding(whole, here, [_near(snapshot, whole, word) for word in words])
    at = np.flatnonzero(hit)
    begins = np.char.find(whole[at], f" {words[0]}") >= 0
    return [*at[begins].tolist(), *at[~begins].tolist()][:MOST_OF_A_KIND]


def _holding(whole: Any, here: Any, wanted: list[list[str]]) -> Any:
    """Who holds, of every word, one of its spellings."""
    hit = here.copy()
    for spellings in wanted:
        held = np.zeros(len(whole), bool)
        for one in spellings:
            held[hit] |= np.char.find(whole[hit], one) >= 0
        hit &= held
    return hit


def _near(snapshot: Snapshot, whole: Any, word: str) -> list[str]:
    """Parts of names that are one slip of a key from a word, two of a long one."""
    if len(word) < SHORTEST_WITH_SLIP:
        return [word]
    parts = kept_for(snapshot, ("parts of names",), lambda: tuple(sorted({
        part for one in whole.tolist() for part in one.split()
    })))  # fmt: skip
    slips = 1 if len(word) < LONG_WORD else 2
    near = process.extract(
        word, parts, scorer=DamerauLevenshtein.distance, score_cutoff=slips, limit=12
    )
    return [f" {one[0]} " for one in near] or [word]


def _lately(engine: sa.Engine, snapshot: Snapshot, actor: Actor) -> list[int]:
    """Places of the students whose pages the actor opened last, newest first."""
    line, ids = t.audit, np.asarray(snapshot.student_ids)
    query = (
        sa.select(line.c.detail["student"].as_integer())
        .where(line.c.account_id.is_not_distinct_from(actor.account_id))
        .where(line.c.action == "open_student")
        .order_by(line.c.id.desc())
        .limit(LOOKED_BACK)
    )
    with engine.connect() as connection:
        wanted = list(dict.fromkeys(connection.scalars(query)))
    at = np.searchsorted(ids, wanted) if wanted else np.empty(0, np.intp)
    known = zip(wanted, at.tolist(), strict=True)
    return [n for one, n in known if n < len(ids) and ids[n] == one][:MOST_OF_A_KIND]


def _students(snapshot: Snapshot, roll: Roll, places: list[int]) -> list[Found]:
    out = []
    for n in places:
        identity = int(snapshot.student_ids[n])
        name = f"{snapshot.given_names[n]} {snapshot.family_names[n]}".strip()
        school, level = int(roll.school[n]), int(roll.year_level[n])
        told = [str(snapshot.numbers[n])]
        told += [spoken().level_name(level)] if level >= 0 else []
        told.append(snapshot.schools[school].name if school >= 0 else "not on roll today")
        detail = ", ".join(part for part in told if part)
        who = q.FieldIs.model_validate({"field": "student", "in": [identity]})
        out.append(Found(kind="student", id=identity, label=name or str(snapshot.numbers[n]),
                         detail=detail, who=who, opens=q.Open(students=(identity,))))  # fmt: skip
    return out


def _schools(snapshot: Snapshot, words: list[str]) -> list[Found]:
    out = []
    for school in snapshot.schools:
        if _fits(words, school.name):
            who = q.FieldIs.model_validate({"field": "school", "in": [school.id]})
            out.append(Found(kind="school", id=school.id, label=school.name, detail="school",
                             who=who))  # fmt: skip
    return out[:MOST_OF_A_KIND]


def _classes(snapshot: Snapshot, roll: Roll, words: list[str]) -> list[Found]:
    places = {school.id: school.name for school in snapshot.schools}
    out = []
    for item in snapshot.classes:
        if item.academic_year != roll.academic_year or item.school_id not in places:
            continue
        people = ", ".join(snapshot.staff[n] for n in item.teachers)
        place = places[item.school_id]
        if _fits(words, item.name, place, people):
            who = q.FieldIs.model_validate({"field": "class", "in": [item.id]})
            out.append(Found(kind="class", id=item.id, label=f"{item.name}, {place}",
                             detail=people or "class", who=who))  # fmt: skip
    return out[:MOST_OF_A_KIND]


def _tests(snapshot: Snapshot, words: list[str]) -> list[Found]:
    out = []
    for m in sorted(snapshot.measures, key=lambda m: -m.date.toordinal()):
        if (
            m.role == "result"
            and m.score not in ("level",)
            and _fits(words, m.label, m.assessment.name)
        ):
            what = q.Measure(
                assessment=m.assessment.id, subject=m.subject.id if m.subject else None,
                sitting=m.sitting.id, score=m.score,
            )  # fmt: skip
            out.append(Found(kind="test", id=m.key, label=m.label,
                             detail=f"{m.assessment.name}, {day(m.date)}", what=what))  # fmt: skip
    return out[:MOST_OF_A_KIND]


def _saved(engine: sa.Engine, settings: Settings, actor: Actor, words: list[str]) -> list[Found]:
    groups = [
        Found(kind="group", id=g.id, label=g.name, detail="saved group",
              who=q.InSet.model_validate({"set": g.id}))
        for g in list_groups(engine, actor)
        if _fits(words, g.name)
    ]  # fmt: skip
    questions = [
        Found(kind="question", id=s.id, label=s.name, detail=f"saved by {s.by}",
              question=s.question)
        for s in list_questions(engine, settings, actor)
        if s.question.show != "students" and _fits(words, s.name)
    ]  # fmt: skip
    kept = lists(engine, settings, actor) if may(actor, "open_students") else []
    found = [
        Found(kind="list", id=one.id, label=one.name, detail=f"list by {one.by}")
        for one in kept
        if _fits(words, one.name)
    ]
    return [*questions[:MOST_OF_A_KIND], *found[:MOST_OF_A_KIND], *groups[:MOST_OF_A_KIND]]
