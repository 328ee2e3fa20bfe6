"""The queue of long work: procrastinate, in a schema of its own in the instance's database."""

from __future__ import annotations

from typing import Any

import procrastinate
import sqlalchemy as sa
from procrastinate.schema import SchemaManager

from bridge_chart.store.settings import Settings

SCHEMA = "queue"
WORK = "bridge_chart.work"
"""The task of long work: go through a row of `work`."""
ERASE = "bridge_chart.erase"
"""The task of erasing: carry out what waits."""


def make_queue(connection: sa.Connection) -> None:
    """The queue's own tables and functions; for the migration that brings them."""
    connection.exec_driver_sql(f"CREATE SCHEMA {SCHEMA}")
    connection.exec_driver_sql(f"SET LOCAL search_path TO {SCHEMA}")
    connection.exec_driver_sql(SchemaManager.get_schema().replace("%", "%%"))
    connection.exec_driver_sql("SET LOCAL search_path TO public")


def _reach(settings: Settings) -> dict[str, Any]:
    """How the queue's connections reach the database."""
    url = sa.make_url(settings.database_url).set(drivername="postgresql")
    return {
        "conninfo": url.render_as_string(False),
        "kwargs": {"options": f"-c search_path={SCHEMA}"},
        "min_size": 1,
    }


def defer(settings: Settings, work_id: int) -> None:
    """Hand a piece of work to whichever worker is free next."""
    app = procrastinate.App(connector=procrastinate.SyncPsycopgConnector(**_reach(settings)))
    with app.open():
        app.configure_task(WORK).defer(work_id=work_id)


def defer_erasing(settings: Settings) -> None:
    """Tell whichever worker is free next that an erasure waits."""
    app = procrastinate.App(connector=procrastinate.SyncPsycopgConnector(**_reach(settings)))
    with app.open():
        app.configure_task(ERASE).defer()


def queue_for_worker(settings: Settings) -> procrastinate.App:
    """The queue as a worker opens it."""
    return procrastinate.App(connector=procrastinate.PsycopgConnector(**_reach(settings)))
