"""Files on their way in: uploaded, looked at, settled, kept or thrown away.

A draft lives in the record, so that any web process can go on with it and a page may be closed.
"""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import sqlalchemy as sa

from bridge_chart.intake.columns import understand
from bridge_chart.intake.read import Sheet, read_sheet
from bridge_chart.intake.settings import IntakeSettings
from bridge_chart.store import tables as t
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.finding import ColumnInfo
from bridge_chart.terms.people import Actor


@dataclass(frozen=True)
class Draft:
    id: str
    kind: str
    name: str
    source_id: int
    settings: IntakeSettings


def save_source(engine: sa.Engine, name: str, data: bytes) -> int:
    """Store the file as it came; every kept number can be traced to it."""
    values = {"name": name, "sha256": hashlib.sha256(data).hexdigest(), "bytes": data}
    with engine.begin() as connection:
        statement = sa.insert(t.source).values(**values).returning(t.source.c.id)
        return int(connection.scalar(statement) or 0)


def new_draft(
    engine: sa.Engine, actor: Actor, kind: str, name: str, data: bytes, settings: IntakeSettings
) -> Draft:
    """Read the file (UnreadableFile changes nothing) and open a draft of it."""
    read_sheet(name, data)
    source_id = save_source(engine, name, data)
    draft = Draft(secrets.token_urlsafe(9), kind, name, source_id, settings)
    with engine.begin() as connection:
        connection.execute(
            sa.insert(t.draft).values(
                id=draft.id,
                account_id=actor.account_id,
                source_id=source_id,
                kind=kind,
                settings=settings.model_dump(mode="json"),
            )
        )
    return draft


def open_draft(engine: sa.Engine, actor: Actor, draft_id: str) -> Draft:
    """The draft, if it is this person's."""
    query = (
        sa.select(t.draft, t.source.c.name)
        .join(t.source)
        .where(t.draft.c.id == draft_id, t.draft.c.account_id == actor.account_id)
    )
    with engine.connect() as connection:
        row = connection.execute(query).mappings().first()
    if row is None:
        raise NotFound("This file is not waiting here.", next_step="Bring it in again.")
    settings = IntakeSettings.model_validate(row["settings"])
    return Draft(draft_id, row["kind"], row["name"], row["source_id"], settings)


def list_drafts(engine: sa.Engine, actor: Actor) -> list[dict[str, Any]]:
    """This person's waiting files, newest first."""
    query = (
        sa.select(t.draft.c.id, t.draft.c.kind, t.source.c.name, t.draft.c.at)
        .join(t.source)
        .where(t.draft.c.account_id == actor.account_id)
        .order_by(t.draft.c.at.desc())
    )
    with engine.connect() as connection:
        return [dict(row) for row in connection.execute(query).mappings()]


def change_draft(engine: sa.Engine, draft: Draft, settings: IntakeSettings) -> None:
    """Replace what was said about the file."""
    with engine.begin() as connection:
        connection.execute(
            sa.update(t.draft)
            .where(t.draft.c.id == draft.id)
            .values(settings=settings.model_dump(mode="json"))
        )


def drop_draft(engine: sa.Engine, draft: Draft) -> None:
    """Throw the draft and its file away."""
    with engine.begin() as connection:
        connection.execute(sa.delete(t.draft).where(t.draft.c.id == draft.id))
        connection.execute(sa.delete(t.source).where(t.source.c.id == draft.source_id))


def columns_of(draft: Draft, sheet: Sheet) -> list[ColumnInfo]:
    """The columns as far as they are understood, also where the file is not."""
    return understand(draft.kind, sheet, draft.settings.columns, draft.settings.score)


def rows_at(sheet: Sheet, lines: list[int]) -> list[tuple[int, list[str]]]:
    """The file's rows with these line numbers, in the file's order."""
    wanted = set(lines)
    at = [index for index, line in enumerate(sheet.lines.tolist()) if line in wanted]
    return [(int(sheet.lines[index]), list(sheet.cells.row(index))) for index in at]


@lru_cache(maxsize=4)
def sheet_of(engine: sa.Engine, source_id: int) -> Sheet:
    """The table in a stored file; the last few are kept parsed."""
    with engine.connect() as connection:
        row = connection.execute(
            sa.select(t.source.c.name, t.source.c.bytes).where(t.source.c.id == source_id)
        ).one()
    return read_sheet(row.name, row.bytes)


def set_aside_rows(engine: sa.Engine, batch_id: int) -> list[dict[str, Any]]:
    """A batch's rows that were set aside, in the file's order."""
    query = (
        sa.select(t.set_aside.c.row, t.set_aside.c.reason, t.set_aside.c.cells)
        .where(t.set_aside.c.batch_id == batch_id)
        .order_by(t.set_aside.c.row)
    )
    with engine.connect() as connection:
        return [dict(row) for row in connection.execute(query).mappings()]
