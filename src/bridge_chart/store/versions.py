"""Versions: every keep and every undo makes one; what holds at a version is asked here."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import distinct_on

from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u

ACTIVE_BATCHES = """
    SELECT batch_id FROM (
        SELECT DISTINCT ON (batch_id) batch_id, event FROM batch_event
        WHERE version_id <= {version} ORDER BY batch_id, id DESC
    ) AS latest WHERE event = 'kept'
"""


def active_batches(version: int) -> str:
    """SQL that gives the ids of the batches that count at `version`."""
    return ACTIVE_BATCHES.format(version=int(version))


def current_version(connection: sa.Connection) -> int:
    """The newest version; 0 before anything is kept."""
    return int(connection.scalar(sa.select(sa.func.max(t.version.c.id))) or 0)


@dataclass(frozen=True)
class Identified:
    """A version of this record. Numbers repeat after a restore; identities never do."""

    version: int
    identity: str


def identified(connection: sa.Connection, version: int | None = None) -> Identified:
    """A version (None: the newest) with its random identity; before anything is kept, the
    instance's own. A version that is not there has none."""
    number = current_version(connection) if version is None else version
    query = sa.text(
        "SELECT identity::text FROM version WHERE id = :number UNION ALL "
        "SELECT identity::text FROM instance WHERE :number = 0"
    )
    return Identified(number, str(connection.scalar(query, {"number": number}) or "none"))


def touching(
    connection: sa.Connection, version: int, sitting_ids: list[int], years: list[str]
) -> list[int]:
    """The versions up to `version`, oldest first, that kept or undid a file of some sittings, or
    a roster of some school years, or a table of names, after the first of those."""
    query = sa.text(
        "SELECT version_id, bool_or(kind NOT IN ('roster', 'names')) FROM batch_event "
        "JOIN batch ON batch.id = batch_id WHERE version_id <= :version AND ("
        "EXISTS (SELECT 1 FROM jsonb_array_elements_text(counts -> 'sitting_ids') AS one "
        "WHERE one::int = ANY(:sittings)) OR kind = 'names' "
        "OR (kind = 'roster' AND academic_year = ANY(:years))) "
        "GROUP BY version_id ORDER BY version_id"
    )
    asked = {"version": version, "sittings": sitting_ids, "years": years}
    rows = [(row[0], row[1]) for row in connection.execute(query, asked)]
    first = next((at for at, (_, results) in enumerate(rows) if results), len(rows))
    return [number for number, _ in rows[first:]]


def pinned_versions(engine: sa.Engine) -> list[int]:
    """Versions that a release is pinned to, or whose fits are still shown after it."""
    released = sa.select(u.release.c.version_id)
    shown = sa.select(u.vintage.c.held).where(~u.vintage.c.enough)
    with engine.connect() as connection:
        return list(connection.scalars(sa.union(released, shown)))


def new_version(connection: sa.Connection, account_id: int | None, summary: str) -> int:
    """Open the next version; the caller holds the keep lock and commits."""
    number = current_version(connection) + 1
    connection.execute(
        sa.insert(t.version).values(id=number, account_id=account_id, summary=summary)
    )
    return number


def record_event(
    connection: sa.Connection, batch_id: int, version: int, event: str, account_id: int | None
) -> None:
    """Say that a batch counts ("kept") or no longer counts ("undone") from `version` on."""
    connection.execute(
        sa.insert(t.batch_event).values(
            batch_id=batch_id, version_id=version, event=event, account_id=account_id
        )
    )


def history(connection: sa.Connection) -> list[dict[str, Any]]:
    """All batches, newest first, with their latest event and the rows that are still aside."""
    latest = (
        sa.select(t.batch_event)
        .ext(distinct_on(t.batch_event.c.batch_id))
        .order_by(t.batch_event.c.batch_id, t.batch_event.c.id.desc())
        .subquery()
    )
    active = sa.text(active_batches(current_version(connection)))
    aside = (
        sa.select(sa.func.count())
        .select_from(t.set_aside)
        .where(t.set_aside.c.batch_id == t.batch.c.id)
        .where(sa.func.coalesce(t.set_aside.c.settled_by.in_(active), False).is_(False))
        .scalar_subquery()
    )
    query = (
        sa.select(
            aside.label("set_aside"), t.batch.c.id, t.batch.c.kind, t.batch.c.title,
            t.batch.c.academic_year,
            t.batch.c.effective_date, t.batch.c.counts, t.batch.c.at,
            sa.func.coalesce(t.batch.c.settings["archive"].astext, "").label("archive"),
            t.source.c.name.label("file"), latest.c.event, latest.c.at.label("event_at"),
            latest.c.version_id, t.account.c.name.label("by"),
        )
        .join(latest, latest.c.batch_id == t.batch.c.id)
        .join(t.source, t.source.c.id == t.batch.c.source_id)
        .outerjoin(t.account, t.account.c.id == latest.c.account_id)
        .order_by(t.batch.c.id.desc())
    )  # fmt: skip
    return [dict(row) for row in connection.execute(query).mappings()]
