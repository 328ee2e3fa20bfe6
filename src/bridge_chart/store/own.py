"""Marking what belongs to somebody: a group retired, a note removed; nobody else's."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa

from bridge_chart.terms.errors import NotFound


def mark_own(
    engine: sa.Engine, table: sa.Table, what: str, identity: int, account_id: int | None, **to: Any
) -> None:
    """Set columns of a row that this account made; NotFound where it made no such row."""
    mine = table.c.account_id.is_not_distinct_from(account_id)
    statement = sa.update(table).where(table.c.id == identity, mine).values(**to)
    with engine.begin() as connection:
        done = connection.execute(statement)
    if not done.rowcount:
        raise NotFound(f"There is no such {what} of yours.")
