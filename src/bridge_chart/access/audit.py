"""Who looked at which students, and who took what out."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa

from bridge_chart.store import tables as t
from bridge_chart.terms.people import Actor


def noted(connection: sa.Connection, actor: Actor, action: str, detail: dict[str, Any]) -> None:
    """Write one line of the audit in the transaction of what it speaks of: both stand, or
    neither."""
    connection.execute(
        sa.insert(t.audit).values(
            account_id=actor.account_id, login=actor.login, action=action, detail=detail
        )
    )


def note(engine: sa.Engine, actor: Actor, action: str, detail: dict[str, Any]) -> None:
    """Write one line of the audit; it is committed before the answer leaves."""
    with engine.begin() as connection:
        noted(connection, actor, action, detail)
