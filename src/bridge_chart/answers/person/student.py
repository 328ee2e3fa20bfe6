"""The one way to a student's page: who asks, whom about, as of which version."""

from __future__ import annotations

import datetime as dt

import numpy as np
import sqlalchemy as sa

from bridge_chart.access.audit import note
from bridge_chart.access.rules import require
from bridge_chart.answers.asking.ask import bound_for, snapshot_for
from bridge_chart.answers.asking.binder import Binder
from bridge_chart.answers.beside.lists import lists
from bridge_chart.answers.beside.student_notes import notes_on_student
from bridge_chart.answers.figures.slices import slices_of
from bridge_chart.answers.person.credits import credits_of
from bridge_chart.answers.person.findings import findings
from bridge_chart.answers.person.inside import with_way_inside
from bridge_chart.answers.person.page import InList, StudentPage
from bridge_chart.answers.person.results import Person, results_of
from bridge_chart.answers.person.spells import classes_of, spells_of
from bridge_chart.answers.person.strands import next_steps, strands_of
from bridge_chart.answers.person.timelines import timelines_of
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import UNKNOWN_DAY, Snapshot
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.people import Actor
from bridge_chart.terms.question import Open
from bridge_chart.terms.words import spoken

EPOCH = dt.date(1970, 1, 1)


def student_page(
    engine: sa.Engine, settings: Settings, actor: Actor, student: int, version: int | None = None
) -> StudentPage:
    """Everything that is kept of a student of the actor's scope; NotFound for any other. That it
    was opened is noted."""
    require(actor, "open_students")
    snapshot = snapshot_for(engine, settings, actor, version)
    ids = np.asarray(snapshot.student_ids)
    at = int(np.searchsorted(ids, student))
    if at >= len(ids) or ids[at] != student:
        raise NotFound("There is no such student.", next_step="Find them by name or number.")
    person = Person(snapshot, Binder(snapshot), at)
    found = [with_way_inside(person, one) for one in results_of(person)]
    lines, results = timelines_of(found)
    strands = strands_of(person, found)
    note(engine, actor, "open_student", {"student": student, "version": snapshot.version})
    number = str(snapshot.numbers[at])
    return StudentPage(
        id=student,
        name=f"{snapshot.given_names[at]} {snapshot.family_names[at]}".strip() or number,
        number=number,
        born=_born(snapshot, at),
        version=snapshot.version,
        today=snapshot.today,
        place=_place(snapshot, at),
        spells=spells_of(snapshot, at),
        results=results,
        timelines=lines,
        says=findings(lines, results),
        strands=strands,
        next_steps=next_steps(person, strands),
        notes=notes_on_student(engine, settings, actor, student),
        lists=_lists(engine, settings, actor, student),
        credits=credits_of(snapshot, at),
        opens=Open(students=(student,)),
    )


def student_of_number(engine: sa.Engine, settings: Settings, actor: Actor, number: str) -> int:
    """The id of the student with a number; NotFound where the actor sees none."""
    require(actor, "open_students")
    snapshot = snapshot_for(engine, settings, actor)
    at = np.flatnonzero(np.asarray(snapshot.numbers) == number.strip())
    if not len(at):
        raise NotFound(f"There is no student with the number {number}.")
    return int(snapshot.student_ids[at[0]])


def _born(snapshot: Snapshot, at: int) -> dt.date | None:
    days = int(snapshot.birth_days[at])
    return None if days == UNKNOWN_DAY else EPOCH + dt.timedelta(days=days)


def _place(snapshot: Snapshot, at: int) -> str:
    """Where they are today: school, year level, classes."""
    roll = snapshot.roll_at(snapshot.today) if snapshot.today else None
    if roll is None or int(roll.school[at]) < 0:
        return "not on roll today"
    level = int(roll.year_level[at])
    parts = [snapshot.schools[int(roll.school[at])].name]
    parts += [spoken().level_name(level)] if level >= 0 else []
    return ", ".join([*parts, *classes_of(snapshot, roll, at)])


def _lists(engine: sa.Engine, settings: Settings, actor: Actor, student: int) -> list[InList]:
    """The lists in which the actor would see the student."""
    out = []
    for one in lists(engine, settings, actor):
        if one.trouble is not None:
            continue
        snapshot = snapshot_for(engine, settings, actor, one.question.version)
        bound, _ = bound_for(engine, settings, actor, one.question, snapshot)
        part = slices_of(bound.views)[0]
        there = snapshot.student_ids[part.people & part.view.meant]
        if student in there:
            review = None if one.plan is None else one.plan.review
            out.append(InList(id=one.id, name=one.name, review=review))
    return out
