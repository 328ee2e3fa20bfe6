"""How the instance is: whether the record answers, a worker runs, and the disk has room."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa

from bridge_chart.store import tables as t
from bridge_chart.store.parts import read_state
from bridge_chart.store.room import LITTLE, free_megabytes
from bridge_chart.store.settings import Settings


def health_of(engine: sa.Engine, settings: Settings) -> dict[str, Any]:
    """`ok`: questions can be answered; `parts`: up, down or unknown; the newest version, how many
    pieces of long work wait, megabytes that are free."""
    free = free_megabytes(settings)
    told: dict[str, Any] = {"free_megabytes": free, "disk_is_low": free < LITTLE}
    try:
        with engine.connect() as connection:
            told["newest"] = connection.scalar(sa.select(sa.func.max(t.version.c.id)))
            waiting = sa.select(sa.func.count()).where(t.work.c.state == "waiting")
            told["waiting"] = connection.scalar(waiting)
        record = "up"
    except sa.exc.DBAPIError:
        record = "down"
    state = read_state(settings.home)
    worker = "unknown" if state is None else "up" if state.worker else "down"
    return {"ok": record == "up", "parts": {"record": record, "worker": worker}, **told}
