"""Asking that students be erased, and how long leavers are kept. The worker does it, as the owner
of the tables; nobody is erased whom no person named or confirmed."""

from __future__ import annotations

import datetime as dt
from collections import Counter
from typing import Any

import numpy as np
import sqlalchemy as sa
from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy.dialects.postgresql import UUID, insert

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.audit import noted
from bridge_chart.access.rules import require
from bridge_chart.intake.erasing.persons import FACT_TABLES
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.store.queue import defer_erasing
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.errors import ChangedMeanwhile, InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor

LONGEST_REFERENCE = 200
LISTED = 100
MOST_YEARS = 100
UNCHANGED = "Nothing was changed."


class FileGone(BaseModel):
    """A file that held them: its name, how many of its lines were theirs; waiting: it was not kept,
    and is thrown away."""

    file: str
    lines: int = 0
    waiting: bool = False


class Receipt(BaseModel):
    """What an erasure removed: rows of each table, lines of files, texts in which they were named;
    what was not looked into; and the backups that held them."""

    students: int
    rows: dict[str, int]
    files: list[FileGone]
    texts: dict[str, int]
    attached: list[str]
    backups: list[str]
    not_looked_into: list[str]


class Erasure(BaseModel):
    """An erasure that was asked for. state: waiting, sweeping, done, stopped (trouble says why);
    receipt: what was removed, and what was not looked into."""

    id: int
    at: dt.datetime
    by: str
    reference: str
    state: str
    students: int
    done: dt.datetime | None
    version: int | None
    receipt: Receipt | None
    trouble: str | None


class HeldOfStudent(BaseModel):
    """What the record holds of a student: how many files have lines of theirs, results, notes of
    colleagues, and lists that name them."""

    number: str
    files: int
    results: int
    notes: int
    lists: int


class Retention(BaseModel):
    """How many school years leavers are kept after their last one, and lines of the audit; null:
    for as long as nobody erases them. revision: how often it was said."""

    model_config = ConfigDict(extra="forbid")
    leavers_years: int | None = Field(default=None, ge=1, le=MOST_YEARS)
    audit_years: int | None = Field(default=None, ge=1, le=MOST_YEARS)
    revision: int = 0


class Leavers(BaseModel):
    """Who were on no roll and had no result after a school year; due: the rule's time is over."""

    last_year: str
    students: int
    due: bool


class Kept(BaseModel):
    """The rule, the school years of leaving, the newest first, and how many are due in all."""

    rule: Retention
    leavers: list[Leavers]
    due: int


def held_of(engine: sa.Engine, actor: Actor, student: int) -> HeldOfStudent:
    """What an erasure would take; NotFound where there is no such student."""
    require(actor, "erase")
    with engine.connect() as connection:
        number, _ = _student(connection, student)
        batches: set[int] = set()
        for table in FACT_TABLES:
            mine = sa.select(table.c.batch_id).where(table.c.student_id == student).distinct()
            batches |= set(connection.scalars(mine))
        sources = sa.select(sa.func.count(t.batch.c.source_id.distinct()))
        results = sa.select(sa.func.count()).where(t.result.c.student_id == student)
        notes = sa.select(sa.func.count()).where(
            u.student_note.c.student_id == student, ~u.student_note.c.removed
        )
        listed = sa.select(sa.func.count()).where(
            sa.literal(student) == sa.any_(u.student_set.c.students)
        )
        return HeldOfStudent(
            number=number,
            files=connection.scalar(sources.where(t.batch.c.id.in_(batches))) or 0,
            results=connection.scalar(results) or 0,
            notes=connection.scalar(notes) or 0,
            lists=connection.scalar(listed) or 0,
        )


def ask_to_erase(
    engine: sa.Engine, settings: Settings, actor: Actor, student: int, number: str, reference: str
) -> Erasure:
    """Ask that one student be erased. number: theirs, said once more by whoever asks; reference: of
    the request, without a name."""
    require(actor, "erase")
    with engine.begin() as connection:
        held, mark = _student(connection, student)
        if number.strip() != held:
            raise InvalidQuestion(
                "That is not this student's number.", kept=UNCHANGED,
                next_step="Type it as it stands at the top of their page.",
            )  # fmt: skip
        waiting = (sa.literal(mark, UUID(as_uuid=False)) == sa.any_(u.erasure.c.marks)) & (
            u.erasure.c.state == "waiting"
        )
        if connection.scalar(sa.select(u.erasure.c.id).where(waiting)) is not None:
            raise InvalidQuestion("This was asked for already.", kept=UNCHANGED,
                                  next_step="Look at Setup, under Students' records.")  # fmt: skip
        made = _asked(connection, actor, [mark], _reference(reference))
    defer_erasing(settings)
    return made


def erase_leavers(engine: sa.Engine, settings: Settings, actor: Actor, due: int) -> Erasure:
    """Ask that all leavers be erased whose time is over. due: how many those are, as was seen;
    ChangedMeanwhile where they are not any more."""
    require(actor, "erase")
    with engine.connect() as connection:
        rule = _rule(connection)
    found = _due(snapshot_of(engine, settings.snapshots), rule)
    if not len(found) or len(found) != due:
        raise ChangedMeanwhile(
            f"{len(found)} students are due now, not {due}.", kept=UNCHANGED,
            next_step="Look at the list again.",
        )  # fmt: skip
    with engine.begin() as connection:
        mark = sa.select(t.student.c.mark).where(t.student.c.id.in_(found.tolist()))
        marks = [str(one) for one in connection.scalars(mark)]
        told = f"Leavers kept for {rule.leavers_years} school years"
        made = _asked(connection, actor, marks, told)
    defer_erasing(settings)
    return made


def erasures(engine: sa.Engine, actor: Actor) -> list[Erasure]:
    """What was asked for, the newest first."""
    require(actor, "erase")
    with engine.connect() as connection:
        return [_erasure(row) for row in connection.execute(_erasures().limit(LISTED))]


def kept(engine: sa.Engine, settings: Settings, actor: Actor) -> Kept:
    """The rule, and who left when."""
    require(actor, "erase")
    with engine.connect() as connection:
        rule = _rule(connection)
    snapshot = snapshot_of(engine, settings.snapshots)
    this_year = _this_year(snapshot)
    counted = Counter(year for year in _last_years(snapshot) if year and year < this_year)
    leavers = [
        Leavers(last_year=year, students=n, due=_is_due(year, this_year, rule))
        for year, n in sorted(counted.items(), reverse=True)
    ]
    return Kept(rule=rule, leavers=leavers, due=sum(one.students for one in leavers if one.due))


def say_retention(engine: sa.Engine, actor: Actor, said: Retention) -> Retention:
    """Say how long leavers and the audit are kept; ChangedMeanwhile if somebody said it since."""
    require(actor, "erase")
    table = u.retention
    values = {"leavers_years": said.leavers_years, "audit_years": said.audit_years}
    with engine.begin() as connection:
        held = connection.scalar(sa.select(table.c.revision).with_for_update()) or 0
        if held != said.revision:
            raise ChangedMeanwhile("Somebody changed this meanwhile.", kept=UNCHANGED,
                                   next_step="Look at it again.")  # fmt: skip
        row = {**values, "single": True, "revision": held + 1}
        made = insert(table).values(**row)
        connection.execute(made.on_conflict_do_update(index_elements=["single"], set_=row))
        noted(connection, actor, "say_retention", values)
        return _rule(connection)


def forget_old_audit(owner: sa.Engine) -> int:
    """Remove lines of the audit that are older than the rule keeps them; how many. The owner's job:
    nobody else may."""
    with owner.begin() as connection:
        years = _rule(connection).audit_years
        if years is None:
            return 0
        old = t.audit.c.at < sa.func.now() - sa.func.make_interval(years)
        if connection.scalar(sa.select(t.audit.c.id).where(old).limit(1)) is None:
            return 0
        connection.execute(sa.text("ALTER TABLE audit DISABLE TRIGGER audit_only_grows"))
        gone = connection.execute(sa.delete(t.audit).where(old)).rowcount
        connection.execute(sa.text("ALTER TABLE audit ENABLE TRIGGER audit_only_grows"))
        noted(connection, OPERATOR, "forget_audit", {"lines": gone})
        return int(gone)


def _student(connection: sa.Connection, student: int) -> tuple[str, str]:
    s = t.student.c
    row = connection.execute(sa.select(s.number, s.mark).where(s.id == student)).first()
    if row is None:
        raise NotFound("There is no such student.", kept=UNCHANGED)
    return row.number, str(row.mark)


def _reference(text: str) -> str:
    told = " ".join(text.split())
    if not 0 < len(told) <= LONGEST_REFERENCE:
        raise InvalidQuestion(
            f"An erasure must have a reference of 1 to {LONGEST_REFERENCE} characters.",
            kept=UNCHANGED, next_step="Say by which letter or form it was asked, without a name.",
        )  # fmt: skip
    return told


def _asked(connection: sa.Connection, actor: Actor, marks: list[str], reference: str) -> Erasure:
    row = {"account_id": actor.account_id, "reference": reference, "marks": marks, "sittings": []}
    made = connection.scalar(sa.insert(u.erasure).values(**row).returning(u.erasure.c.id))
    noted(connection, actor, "ask_erasure", {"erasure": made, "name": reference,
                                             "of": len(marks)})  # fmt: skip
    return _erasure(connection.execute(_erasures(u.erasure.c.id == made)).one())


def _erasures(*which: sa.ColumnElement[bool]) -> sa.Select[Any]:
    e = u.erasure.c
    query = sa.select(
        u.erasure, sa.func.cardinality(e.marks).label("students"), t.account.c.name.label("by")
    ).outerjoin(t.account, t.account.c.id == e.account_id)
    return query.where(*which).order_by(e.id.desc())


def _erasure(row: sa.Row[Any]) -> Erasure:
    return Erasure(
        id=row.id, at=row.at, by=row.by or "the operator", reference=row.reference,
        state=row.state, students=row.students, done=row.done, version=row.version_id,
        receipt=row.receipt, trouble=row.trouble,
    )  # fmt: skip


def _rule(connection: sa.Connection) -> Retention:
    row = connection.execute(sa.select(u.retention)).first()
    if row is None:
        return Retention()
    return Retention(leavers_years=row.leavers_years, audit_years=row.audit_years,
                     revision=row.revision)  # fmt: skip


def _last_years(snapshot: Snapshot) -> list[str]:
    """Of each student the last school year with a school or a result; blank where no file that
    counts says either."""
    years = sorted({*(roll.academic_year for roll in snapshot.rolls),
                    *(measure.academic_year for measure in snapshot.measures)})  # fmt: skip
    place = {year: at for at, year in enumerate(years)}
    last = np.full(snapshot.students, -1)
    for roll in snapshot.rolls:
        there = np.asarray(roll.school) >= 0
        last[there] = np.maximum(last[there], place[roll.academic_year])
    for measure in snapshot.measures:
        held = ~np.isnan(snapshot.values(measure))
        last[held] = np.maximum(last[held], place[measure.academic_year])
    return [years[at] if at >= 0 else "" for at in last.tolist()]


def _this_year(snapshot: Snapshot) -> str:
    """The school year of the newest roster: before a new one comes, nobody has left."""
    return max((roll.academic_year for roll in snapshot.rolls), default="")


def _is_due(last: str, this_year: str, rule: Retention) -> bool:
    """Whether so many whole school years have gone by after the last one.

    >>> two = Retention(leavers_years=2)
    >>> [_is_due(year, "2026-27", two) for year in ("2023-24", "2024-25", "")]
    [True, False, False]
    """
    if rule.leavers_years is None or not last or not this_year:
        return False
    return int(this_year[:4]) - int(last[:4]) > rule.leavers_years


def _due(snapshot: Snapshot, rule: Retention) -> Any:
    this_year = _this_year(snapshot)
    due = [_is_due(last, this_year, rule) for last in _last_years(snapshot)]
    return np.asarray(snapshot.student_ids)[np.array(due, bool)]
