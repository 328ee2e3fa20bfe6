"""Backups: made, tried by restoring them beside the record and asking both fifty questions."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

import sqlalchemy as sa
from pydantic import BaseModel

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.audit import noted
from bridge_chart.access.rules import require
from bridge_chart.access.scoped import seen_by
from bridge_chart.answers.asking.ask import answer
from bridge_chart.store import use_tables as u
from bridge_chart.store.backup import make_backup, restored_beside
from bridge_chart.store.database import connect
from bridge_chart.store.erasures import marked_in, tell
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import BackupTrouble, BridgeError
from bridge_chart.terms.people import Actor

ASKED = 50
NAMED = "bridge-chart-%Y-%m-%d-%H%M%S.zip"
LISTED = 20
DUE_AFTER = dt.timedelta(hours=23)


class BackupInfo(BaseModel):
    """A backup: where, how large, its newest version; `tried`: when it was restored beside and all
    was alike; `trouble`: why not."""

    id: int
    at: dt.datetime
    file: str
    bytes: int
    version: int
    tried: dt.datetime | None
    trouble: str | None


class BackupList(BaseModel):
    """The newest first; `last_good`: the newest that was tried; `folder`: where they are written
    each day, blank: nobody said."""

    backups: list[BackupInfo]
    last_good: dt.datetime | None
    folder: str


def list_backups(engine: sa.Engine, settings: Settings, actor: Actor) -> BackupList:
    """What is known of backups."""
    require(actor, "backups")
    b = u.backup.c
    good = sa.select(sa.func.max(b.at)).where(b.tried.is_not(None), b.trouble.is_(None))
    newest = sa.select(u.backup).order_by(b.id.desc()).limit(LISTED)
    with engine.connect() as connection:
        return BackupList(
            backups=[_info(row) for row in connection.execute(newest)],
            last_good=connection.scalar(good), folder=settings.backup_folder,
        )  # fmt: skip


def back_up(engine: sa.Engine, settings: Settings, out: Path) -> BackupInfo:
    """Write a backup, then try it: restored beside, each table as it was, and fifty answers alike.
    One that is not what it says stays listed with why, and BackupTrouble says so."""
    manifest = make_backup(settings, engine, out)
    tell(out.parent, marked_in(settings.home))
    values = {"file": str(out), "bytes": out.stat().st_size, "version_id": manifest.version}
    with engine.begin() as connection:
        row = connection.execute(sa.insert(u.backup).values(**values).returning(u.backup)).one()
        noted(connection, OPERATOR, "backup", {"name": str(out), "version": manifest.version})
    trouble: BridgeError | None = None
    try:
        with restored_beside(settings, engine, out) as beside:
            _answers_alike(engine, settings, beside, manifest.version)
    except BridgeError as error:
        trouble = error
    said = {"tried": sa.func.now(), "trouble": None if trouble is None else str(trouble)}
    with engine.begin() as connection:
        change = sa.update(u.backup).where(u.backup.c.id == row.id).values(**said)
        row = connection.execute(change.returning(u.backup)).one()
    if trouble is not None:
        raise trouble
    return _info(row)


def back_up_if_due(engine: sa.Engine, settings: Settings) -> Path | None:
    """The day's backup into the folder of the settings, the oldest beyond those that are kept taken
    away; None where nobody said a folder, or the last is of today."""
    if not settings.backup_folder:
        return None
    b = u.backup.c
    recent = sa.select(b.id).where(b.at > sa.func.now() - DUE_AFTER).limit(1)
    with engine.connect() as connection:
        if connection.scalar(recent) is not None:
            return None
    folder = Path(settings.backup_folder)
    folder.mkdir(parents=True, exist_ok=True)
    out = folder / dt.datetime.now().strftime(NAMED)
    back_up(engine, settings, out)
    held = sorted(folder.glob("bridge-chart-????-??-??-??????.zip"))
    for old in held[: -max(settings.backups_kept, 1)]:
        old.unlink()
    return out


def _answers_alike(engine: sa.Engine, live: Settings, beside: Settings, version: int) -> None:
    """BackupTrouble where one of fifty questions is answered otherwise by what was restored."""
    if not version:
        return
    questions = fifty(seen_by(engine, live.snapshots, OPERATOR, version), version)
    restored = connect(beside)
    try:
        for asked in questions:
            one = answer(engine, live, OPERATOR, asked)
            other = answer(restored, beside, OPERATOR, asked)
            if (one.body, one.coverage) != (other.body, other.coverage):
                raise BackupTrouble(
                    f"Restored, “{one.sentence}” is answered otherwise.",
                    kept="The record is as it was.", next_step="Take another backup.",
                )  # fmt: skip
    finally:
        restored.dispose()


def fifty(snapshot: Snapshot, version: int) -> list[q.Question]:
    """Up to fifty questions over all results, the newest first."""
    splits = ["school", "year_level", "class"]
    results = [one for one in reversed(snapshot.measures) if one.role == "result"]
    asked = [(measure, split) for split in splits for measure in results]
    return [_question(measure, split, version) for measure, split in asked[:ASKED]]


def _question(measure: MeasureKey, split: str, version: int) -> q.Question:
    what = {"assessment": measure.assessment.name, "sitting": measure.sitting.name,
            "score": measure.score}  # fmt: skip
    if measure.subject:
        what["subject"] = measure.subject.name
    return q.Question.model_validate(
        {"what": [what], "split": [{"field": split}], "show": "table", "version": version}
    )


def _info(row: sa.Row[tuple[object, ...]]) -> BackupInfo:
    told = {key: getattr(row, key) for key in ("id", "at", "file", "bytes", "tried", "trouble")}
    return BackupInfo.model_validate({**told, "version": row.version_id})
