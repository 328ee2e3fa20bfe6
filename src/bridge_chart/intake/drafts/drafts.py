"""Files on their way in: uploaded, looked at, settled, kept or thrown away.

A draft lives in the record, so that any web process can go on with it and a page may be closed.
"""

from __future__ import annotations

import hashlib
import secrets
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

import sqlalchemy as sa

from bridge_chart.intake.columns.columns import understand
from bridge_chart.intake.drafts.memory import like_before
from bridge_chart.intake.drafts.together import as_one_test, by_year
from bridge_chart.intake.match.match import known_names
from bridge_chart.intake.reading.apart import sheet_in, tables_of
from bridge_chart.intake.reading.sheet import SHAPES_READING, Sheet
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store import tables as t
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import BridgeError, NotFound, UnreadableFile
from bridge_chart.terms.finding import ColumnInfo
from bridge_chart.terms.people import Actor


@dataclass(frozen=True)
class Draft:
    id: str
    kind: str
    name: str
    source_id: int
    settings: IntakeSettings
    large: bool = False


def save_source(engine: sa.Engine, name: str, data: bytes) -> int:
    """Store the file as it came; every kept number can be traced to it."""
    values = {"name": name, "sha256": hashlib.sha256(data).hexdigest(), "bytes": data}
    with engine.begin() as connection:
        statement = sa.insert(t.source).values(**values).returning(t.source.c.id)
        return int(connection.scalar(statement) or 0)


def new_drafts(
    engine: sa.Engine, actor: Actor, kind: str, name: str, data: bytes, settings: IntakeSettings
) -> list[Draft]:
    """A draft of the file, or of every table in an archive: all of them or, where one cannot be
    read, none (UnreadableFile). Without settings those of the last file of its shape hold."""
    told = [
        (part, held, _said(engine, kind, part, held, settings).model_copy(update=came))
        for part, held, came in parts_of(kind, name, data)
    ]
    told = as_one_test(kind, name, by_year(kind, told))
    return [_new_draft(engine, actor, kind, *one) for one in told]


def parts_of(kind: str, name: str, data: bytes) -> list[tuple[str, bytes, dict[str, Any]]]:
    """The tables of a file or archive, each with what its coming in an archive says of it."""
    tables = tables_of(name, data, kind)
    mark = f"{name} {secrets.token_hex(3)}" if len(tables) > 1 else ""
    return [(part, held, {"left_behind": left, "archive": mark}) for part, held, left in tables]


def _said(
    engine: sa.Engine, kind: str, name: str, data: bytes, settings: IntakeSettings
) -> IntakeSettings:
    """What is said of a new file; UnreadableFile where it then cannot be read."""
    if settings != IntakeSettings():
        sheet_in(name, data, settings)
        return settings
    try:
        plain = sheet_in(name, data)
    except UnreadableFile:
        said = like_before(engine, kind, name, data, None)
        if said == settings:
            raise
        return said
    return like_before(engine, kind, name, data, plain)


def _new_draft(
    engine: sa.Engine, actor: Actor, kind: str, name: str, data: bytes, settings: IntakeSettings
) -> Draft:
    return draft_of(engine, actor, kind, name, save_source(engine, name, data), settings)


def unread_draft(engine: sa.Engine, actor: Actor, kind: str, name: str, data: bytes) -> Draft:
    """A draft of a large file that nobody has looked into yet."""
    source = save_source(engine, name, data)
    return draft_of(engine, actor, kind, name, source, IntakeSettings(), large=True)


def unpack(engine: sa.Engine, actor: Actor, draft: Draft, settings: IntakeSettings) -> list[Draft]:
    """A large file looked into for the first time: its draft and, where it is an archive, a draft
    for each further table; none of these where one cannot be read (UnreadableFile)."""
    with engine.connect() as connection:
        stored = sa.select(t.source.c.bytes).where(t.source.c.id == draft.source_id)
        data = connection.scalar(stored) or b""
    told = [
        (part, held, _said(engine, draft.kind, part, held, settings).model_copy(update=came))
        for part, held, came in parts_of(draft.kind, draft.name, data)
    ]
    told = as_one_test(draft.kind, draft.name, by_year(draft.kind, told))
    name, held, said = told[0]
    if held is not data:
        source = save_source(engine, name, held)
        with engine.begin() as connection:
            mine = sa.update(t.draft).where(t.draft.c.id == draft.id)
            connection.execute(mine.values(source_id=source))
            _drop_unused(connection, draft.source_id)
        draft = replace(draft, name=name, source_id=source)
    others = [
        draft_of(engine, actor, draft.kind, *_stored(engine, part), large=True) for part in told[1:]
    ]
    return [replace(draft, settings=said), *others]


def _stored(
    engine: sa.Engine, part: tuple[str, bytes, IntakeSettings]
) -> tuple[str, int, IntakeSettings]:
    name, data, said = part
    return name, save_source(engine, name, data), said


def draft_of(
    engine: sa.Engine,
    actor: Actor,
    kind: str,
    name: str,
    source_id: int,
    settings: IntakeSettings,
    *,
    large: bool = False,
) -> Draft:
    """A draft of a file that is stored already."""
    draft = Draft(secrets.token_urlsafe(9), kind, name, source_id, settings, large)
    with engine.begin() as connection:
        connection.execute(
            sa.insert(t.draft).values(
                id=draft.id,
                account_id=actor.account_id,
                source_id=source_id,
                kind=kind,
                settings=settings.model_dump(mode="json"),
                large=large,
            )
        )
    return draft


def understood_of(engine: sa.Engine, draft: Draft) -> dict[str, Any] | None:
    """What was last understood of a large file; None before that."""
    query = sa.select(t.draft.c.understood).where(t.draft.c.id == draft.id)
    with engine.connect() as connection:
        found: dict[str, Any] | None = connection.scalar(query)
    return found


def store_understood(engine: sa.Engine, draft: Draft, understood: dict[str, Any]) -> None:
    """What was understood of a large file, with the settings that it was understood by."""
    values = {"understood": understood, "settings": draft.settings.model_dump(mode="json")}
    with engine.begin() as connection:
        connection.execute(sa.update(t.draft).where(t.draft.c.id == draft.id).values(**values))


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
    return Draft(draft_id, row["kind"], row["name"], row["source_id"], settings, row["large"])


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


SAME_FOR_ALL = (
    "academic_year", "as_of", "test", "subject", "sitting", "date", "score", "date_order",
    "columns", "about", "reading", "pattern", "kinds",
)  # fmt: skip
"""What one may want to say of several files at once; decisions are each file's own."""


def say_same(engine: sa.Engine, actor: Actor, draft: Draft) -> list[Draft]:
    """This person's other waiting files with the same columns, with what was said of this one.
    Nothing is stored: each is stored once it has been looked at so."""
    headers = sheet_of(engine, draft.source_id, draft.settings).headers
    said = {key: getattr(draft.settings, key) for key in SAME_FOR_ALL}
    others = []
    for item in list_drafts(engine, actor):
        if item["id"] == draft.id or item["kind"] != draft.kind:
            continue
        other = open_draft(engine, actor, item["id"])
        same = replace(other, settings=other.settings.model_copy(update=said))
        with suppress(BridgeError):
            if sheet_of(engine, other.source_id, same.settings).headers == headers:
                others.append(same)
    return others


def drop_draft(engine: sa.Engine, draft: Draft) -> None:
    """Throw the draft away, and its file unless something kept came from it."""
    with engine.begin() as connection:
        connection.execute(sa.delete(t.draft).where(t.draft.c.id == draft.id))
        # Work on it ends where it next looks.
        connection.execute(
            sa.update(t.work).where(t.work.c.draft_id == draft.id).values(cancelled=True)
        )
        _drop_unused(connection, draft.source_id)


def _drop_unused(connection: sa.Connection, source_id: int) -> None:
    used = [sa.exists().where(table.c.source_id == source_id) for table in (t.batch, t.draft)]
    unused = sa.not_(sa.or_(*used))
    connection.execute(sa.delete(t.source).where(t.source.c.id == source_id, unused))


def columns_of(draft: Draft, sheet: Sheet, snapshot: Snapshot) -> list[ColumnInfo]:
    """The columns as far as they are understood, also where the file is not."""
    return understand(draft.kind, sheet, draft.settings, known_names(snapshot))


def sheet_of(engine: sa.Engine, source_id: int, said: IntakeSettings) -> Sheet:
    """The table in a stored file; the last few are kept parsed."""
    shaping = {key: said.decisions[key] for key in SHAPES_READING if key in said.decisions}
    plain = IntakeSettings(reading=said.reading, decisions=shaping, lines=said.lines)
    return _read(engine, source_id, plain.model_dump_json())


def forget_sheets() -> None:
    """Give back the memory of the parsed files."""
    _read.cache_clear()


@lru_cache(maxsize=4)
def _read(engine: sa.Engine, source_id: int, said: str) -> Sheet:
    with engine.connect() as connection:
        row = connection.execute(
            sa.select(t.source.c.name, t.source.c.bytes).where(t.source.c.id == source_id)
        ).one()
    return sheet_in(row.name, row.bytes, IntakeSettings.model_validate_json(said))
