"""Find: a student by any part of name or number, a class, a test, a school, from anywhere."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
import sqlalchemy as sa

from bridge_chart.access.audit import note
from bridge_chart.access.rules import may, require
from bridge_chart.answers.asking.ask import snapshot_for
from bridge_chart.answers.beside.groups import list_groups
from bridge_chart.answers.beside.saved import list_questions
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import Roll, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Value
from bridge_chart.terms.people import Actor
from bridge_chart.terms.wording import day
from bridge_chart.terms.words import spoken

MOST_OF_A_KIND = 8
FoundKind = Literal["student", "class", "school", "test", "question", "group"]


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
    them, and looking for them is noted. An empty text finds nothing."""
    require(actor, "ask")
    words = text.casefold().split()
    if not words:
        return []
    snapshot = snapshot_for(engine, settings, actor)
    roll = snapshot.roll_at(snapshot.today) if snapshot.today else None
    if roll is None:
        return []
    found = [*_schools(snapshot, words), *_classes(snapshot, roll, words)]
    found += [*_tests(snapshot, words), *_saved(engine, settings, actor, words)]
    if may(actor, "open_students"):
        students = _students(snapshot, roll, words)
        if students:
            note(engine, actor, "find_students", {"text": text, "found": len(students)})
        found = [*students, *found]
    return found


def _fits(words: list[str], *texts: str) -> bool:
    whole = " ".join(texts).casefold()
    return all(word in whole for word in words)


def _students(snapshot: Snapshot, roll: Roll, words: list[str]) -> list[Found]:
    def haystack() -> Any:
        joined = np.char.add(np.char.add(snapshot.given_names, " "), snapshot.family_names)
        return np.char.lower(np.char.add(np.char.add(joined, " "), snapshot.numbers))

    whole = kept_for(snapshot, ("find students",), haystack)
    hit = np.asarray(roll.school >= 0)
    for word in words:
        hit[hit] = np.char.find(whole[hit], word) >= 0
    at = np.flatnonzero(hit)[:MOST_OF_A_KIND]
    out = []
    for n in at.tolist():
        identity = int(snapshot.student_ids[n])
        name = f"{snapshot.given_names[n]} {snapshot.family_names[n]}".strip()
        place = snapshot.schools[int(roll.school[n])].name
        detail = f"{snapshot.numbers[n]}, {spoken().level_name(int(roll.year_level[n]))}, {place}"
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
        if _fits(words, s.name)
    ]  # fmt: skip
    return [*questions[:MOST_OF_A_KIND], *groups[:MOST_OF_A_KIND]]
