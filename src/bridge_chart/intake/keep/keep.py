"""Keeping: one transaction, under one lock, all or nothing; and undoing it."""

from __future__ import annotations

import datetime as dt
import hashlib
import logging
from dataclasses import dataclass, replace
from typing import Any

import orjson
import sqlalchemy as sa

from bridge_chart.access.audit import noted
from bridge_chart.intake.cells.findings import Findings
from bridge_chart.intake.columns.column_names import TABLES
from bridge_chart.intake.examine.credits import CreditsPlan, examine_credits
from bridge_chart.intake.examine.reference import TablePlan, examine_table
from bridge_chart.intake.examine.results import ResultsPlan, examine_results
from bridge_chart.intake.examine.roster import RosterPlan, examine_roster
from bridge_chart.intake.keep.keep_answered import write_table_rows
from bridge_chart.intake.keep.keep_results import write_credits, write_results
from bridge_chart.intake.keep.keep_roster import write_roster
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store import tables as t
from bridge_chart.store.bulk import copy_text_in
from bridge_chart.store.database import lock_for_keeping
from bridge_chart.store.room import as_no_room
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.snapshot_build import prune, snapshot_of
from bridge_chart.store.versions import (
    current_version,
    new_version,
    pinned_versions,
    record_event,
)
from bridge_chart.terms.errors import ChangedMeanwhile, NotFound, UnreadableFile, Unsettled
from bridge_chart.terms.finding import Examination, LeftOut
from bridge_chart.terms.people import Actor
from bridge_chart.terms.progress import UNWATCHED, Progress
from bridge_chart.terms.wording import count

Plan = RosterPlan | ResultsPlan | CreditsPlan | TablePlan


log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Origin:
    """Where a file comes from: its stored source, and the draft and the long work as which it
    waits (both go or end in the keep's own transaction)."""

    source_id: int
    draft_id: str | None = None
    work_id: int | None = None


@dataclass(frozen=True)
class Kept:
    """What was kept: the batch and the version that it made."""

    batch_id: int
    version: int


def examine(
    kind: str,
    sheet: Sheet,
    settings: IntakeSettings,
    snapshot: Snapshot,
    today: dt.date,
    *,
    unattended: bool = False,
    progress: Progress = UNWATCHED,
) -> Plan:
    """What a file says and what keeping it would do. Its token names exactly this outcome."""
    found = Findings(sheet, settings.decisions, unattended, progress)
    if settings.left_behind:
        found.left_behind(settings.left_behind)
    plan: Plan
    if kind in TABLES:
        plan = examine_table(kind, sheet, settings, snapshot, found)
    elif kind == "credits":
        plan = examine_credits(sheet, settings, snapshot, today, found)
    elif kind == "roster":
        plan = examine_roster(sheet, settings, snapshot, today, found)
    else:
        plan = examine_results(sheet, settings, snapshot, today, found)
    examination = plan.examination.model_copy(
        update={"left_out": _left_out(sheet, plan.examination)}
    )
    shown = examination.model_dump(exclude={"version", "token"})
    token = hashlib.sha256(orjson.dumps(shown)).hexdigest()[:20]
    return replace(plan, examination=examination.model_copy(update={"token": token}))


def _left_out(sheet: Sheet, shown: Examination) -> list[LeftOut]:
    """Every column that is left out and says something, and every kind of cell that was not
    understood."""
    out = []
    for column in shown.columns:
        if column.role == "ignore":
            filled = int((sheet.column(column.index) != "").sum())
            if filled:
                out.append(LeftOut(header=column.header, n=filled, why=column.why))
    unread = [found for found in shown.findings if found.key.startswith("unread_")]
    return out + [
        LeftOut(header=found.title.split(" not a ")[-1], n=found.n, why="not understood")
        for found in unread
    ]


def keep(
    engine: sa.Engine,
    settings: Settings,
    actor: Actor,
    plan: Plan,
    sheet: Sheet,
    said: IntakeSettings,
    origin: Origin,
    *,
    token: str | None = None,
    today: dt.date,
    unattended: bool = False,
    progress: Progress = UNWATCHED,
) -> Kept:
    """Keep a plan; its draft goes in the same transaction. It is examined again if anybody kept
    something since it was made; ChangedMeanwhile if that changes the outcome (or the draft was
    kept already), Unsettled while a stop has no choice."""
    _refuse_unsettled(plan)
    token = token or plan.examination.token
    progress.at("wait")
    with engine.begin() as connection:
        lock_for_keeping(connection, settings)
        version = current_version(connection)
        if version != plan.examination.version:
            snapshot = snapshot_of(engine, settings.snapshots, version)
            plan = examine(
                plan.examination.kind, sheet, said, snapshot, today, unattended=unattended
            )
            _refuse_unsettled(plan)
        if plan.examination.token != token:
            raise ChangedMeanwhile(
                "Somebody kept another file meanwhile, and this one now reads differently.",
                kept="Nothing of this file was kept; your choices still stand.",
                next_step="Look at the match again, then keep it.",
            )
        snapshot = snapshot_of(engine, settings.snapshots, version)
        number = new_version(connection, actor.account_id, f"kept: {plan.examination.title}")
        batch_id = _write_batch(connection, plan, said, origin.source_id)
        _write_facts(connection, plan, snapshot, batch_id, number, said.settles, progress)
        record_event(connection, batch_id, number, "kept", actor.account_id)
        noted(connection, actor, "keep", {"batch": batch_id, "title": plan.examination.title})
        progress.alive()
        # Last, for it locks the row into which progress is written.
        _end_waiting(connection, origin, Kept(batch_id, number))
    progress.at("answerable")
    _refresh(engine, settings, number)
    return Kept(batch_id, number)


def _write_facts(
    connection: sa.Connection,
    plan: Plan,
    snapshot: Snapshot,
    batch_id: int,
    version: int,
    settles: int | None,
    progress: Progress,
) -> None:
    """The plan's rows, those set aside, and the batch's counts."""
    values: dict[str, Any] = {}
    if isinstance(plan, RosterPlan):
        counts, values["covers"] = write_roster(connection, plan, batch_id, version, progress)
    elif isinstance(plan, CreditsPlan):
        counts = write_credits(connection, plan, snapshot, batch_id)
    elif isinstance(plan, TablePlan):
        kind = plan.examination.kind
        write_table_rows(connection, batch_id, kind, plan.lines, plan.cells)
        counts = {}
    else:
        counts = write_results(connection, plan, snapshot, batch_id, version, progress)
    if not isinstance(plan, TablePlan):
        _write_aliases(connection, plan, snapshot, batch_id)
    if settles is None:
        _write_set_aside(connection, plan, batch_id, counts)
    else:
        _mark_settled(connection, plan, batch_id, settles)
    values["counts"] = {**_counts(plan), **counts}
    connection.execute(sa.update(t.batch).where(t.batch.c.id == batch_id).values(**values))


def _write_aliases(
    connection: sa.Connection,
    plan: RosterPlan | ResultsPlan | CreditsPlan,
    snapshot: Snapshot,
    batch_id: int,
) -> None:
    """Numbers that a person accepted as a student's are remembered for the next files."""
    rows = [
        {"batch_id": batch_id, "text": text, "student_id": int(snapshot.student_ids[at])}
        for text, at in plan.accepted.items()
        if snapshot.aliases.get(text) != at
    ]
    if rows:
        connection.execute(sa.insert(t.alias), rows)


def _end_waiting(connection: sa.Connection, origin: Origin, kept: Kept) -> None:
    """The draft goes with the keep, and its work is done; a second keep of it finds none."""
    if origin.work_id is not None:
        done = {"batch_id": kept.batch_id, "version": kept.version}
        connection.execute(sa.update(t.work).where(t.work.c.id == origin.work_id).values(kept=done))
    if origin.draft_id is None:
        return
    gone = connection.execute(sa.delete(t.draft).where(t.draft.c.id == origin.draft_id))
    if not gone.rowcount:
        raise ChangedMeanwhile(
            "This file was kept already.",
            kept="It was kept once.",
            next_step="Look at it in the history.",
        )


def change_standing(
    engine: sa.Engine,
    settings: Settings,
    actor: Actor,
    batch_id: int,
    event: str,
    *,
    archive: bool = False,
) -> Kept:
    """Undo a batch ("undone") or put it back ("kept"); its facts stay in the record. archive: with
    it all that came in the same archive."""
    with engine.begin() as connection:
        lock_for_keeping(connection, settings)
        title = connection.scalar(sa.select(t.batch.c.title).where(t.batch.c.id == batch_id))
        if title is None:
            raise NotFound(f"There is no batch {batch_id}.", next_step="Look in the history.")
        latest = connection.scalar(_latest(batch_id))
        if latest == event:
            raise ChangedMeanwhile(
                f"“{title}” is {latest} already.", kept="Nothing was changed.",
                next_step="Look at the history again.",
            )  # fmt: skip
        with_it = _of_archive(connection, batch_id, event) if archive else []
        title += f" and {count(len(with_it), 'file')} more" if with_it else ""
        number = new_version(connection, actor.account_id, f"{event}: {title}")
        for one in (batch_id, *with_it):
            record_event(connection, one, number, event, actor.account_id)
            noted(connection, actor, event, {"batch": one, "title": title})
    _refresh(engine, settings, number)
    return Kept(batch_id, number)


def _of_archive(connection: sa.Connection, batch_id: int, event: str) -> list[int]:
    """The other batches of an archive that do not stand so yet."""
    came = sa.select(t.batch.c.settings["archive"].astext).where(t.batch.c.id == batch_id)
    name = connection.scalar(came)
    if not name:
        return []
    same = t.batch.c.settings["archive"].astext == name
    others = sa.select(t.batch.c.id).where(same, t.batch.c.id != batch_id).order_by(t.batch.c.id)
    found = connection.scalars(others).all()
    return [one for one in found if connection.scalar(_latest(one)) != event]


def latest_event(engine: sa.Engine, batch_id: int) -> str:
    """How a batch stands: “kept” or “undone”."""
    with engine.connect() as connection:
        return str(connection.scalar(_latest(batch_id)))


def _latest(batch_id: int) -> sa.Select[Any]:
    return (
        sa.select(t.batch_event.c.event)
        .where(t.batch_event.c.batch_id == batch_id)
        .order_by(t.batch_event.c.id.desc())
        .limit(1)
    )


def _refuse_unsettled(plan: Plan) -> None:
    shown = plan.examination
    left = shown.unsettled
    if not left and shown.kind in TABLES and not shown.rows_kept:
        raise UnreadableFile(
            f"No row of {shown.title} can be kept, so there would be a table without anything.",
            kept="Nothing was changed.",
            next_step="See what was found on its rows, and bring in a table that says it.",
        )
    if left:
        titles = "; ".join(finding.title for finding in left)
        raise Unsettled(
            f"{count(len(left), 'thing')} must be settled first: {titles}.",
            kept="Nothing was changed.",
            next_step="Make a choice for each; one choice is to set the rows aside.",
            findings=[f.key for f in left],
        )


def _refresh(engine: sa.Engine, settings: Settings, version: int) -> None:
    """The new snapshot at once, so that what was kept is in every answer. Where the disk is full it
    is kept all the same, and made by whoever asks once there is room."""
    try:
        snapshot_of(engine, settings.snapshots, version)
        prune(settings.snapshots, settings.snapshots_kept, pinned_versions(engine))
    except OSError as error:
        if as_no_room(error) is None:
            raise
        log.warning("version %s is kept, and its snapshot has no room yet", version)


def _write_batch(
    connection: sa.Connection, plan: Plan, said: IntakeSettings, source_id: int
) -> int:
    roster = plan if isinstance(plan, RosterPlan) else None
    statement = (
        sa.insert(t.batch)
        .values(
            kind=plan.examination.kind,
            title=plan.examination.title,
            source_id=source_id,
            academic_year=roster.academic_year if roster else None,
            effective_date=roster.effective_date if roster else None,
            settings=said.model_dump(mode="json"),
            counts={},
            columns=[c.model_dump(exclude={"examples"}) for c in plan.examination.columns],
        )
        .returning(t.batch.c.id)
    )
    return int(connection.scalar(statement) or 0)


def _counts(plan: Plan) -> dict[str, Any]:
    shown = plan.examination
    return {
        "rows_in_file": shown.rows_in_file,
        "rows_kept": shown.rows_kept,
        "rows_set_aside": shown.rows_set_aside,
        "rows_copies": shown.rows_copies,
        "shown": [count.model_dump() for count in shown.counts],
    }


def _write_set_aside(
    connection: sa.Connection, plan: Plan, batch_id: int, counts: dict[str, Any]
) -> None:
    sheet = plan.sheet
    places = plan.aside_sittings if isinstance(plan, ResultsPlan) else {}
    sittings = counts.get("sitting_ids_in_order", [])
    headers = list(sheet.headers)

    def rows() -> Any:
        for index, reason in sorted(plan.aside.items()):
            cells = [list(pair) for pair in zip(headers, sheet.cells.row(index), strict=True)]
            sitting = sittings[places[index]] if index in places else None
            text = orjson.dumps(cells).decode()
            yield batch_id, int(sheet.lines[index]), reason, sitting, text

    columns = ["batch_id", "row", "reason", "sitting_id", "cells"]
    copy_text_in(connection, "set_aside", columns, rows())


def _mark_settled(connection: sa.Connection, plan: Plan, batch_id: int, settles: int) -> None:
    """Rows that an earlier batch had set aside are settled, but for those set aside once more."""
    sheet = plan.sheet
    left = {int(sheet.lines[index]) for index in plan.aside}
    done = sorted({int(line) for line in sheet.lines} - left)
    rows = (t.set_aside.c.batch_id == settles, t.set_aside.c.row.in_(done))
    connection.execute(sa.update(t.set_aside).where(*rows).values(settled_by=batch_id))
