"""Connections, migrations, and the one lock under which anything is kept."""

from __future__ import annotations

from pathlib import Path

import sqlalchemy as sa
from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory

from bridge_chart.store.room import require_room
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import RecordTooNew

KEEP_LOCK = 7_210_944_001
"""Advisory lock: one keep or undo at a time; readers never wait for it."""


def connect(settings: Settings) -> sa.Engine:
    """An engine on the instance's database, as the application."""
    return sa.create_engine(settings.database_url, pool_size=5, max_overflow=10, pool_pre_ping=True)


def connect_owner(settings: Settings) -> sa.Engine:
    """An engine as the owner of the tables, for migrations, restores and erasures."""
    return sa.create_engine(settings.owner, pool_size=1, max_overflow=4, pool_pre_ping=True)


def make_database(settings: Settings) -> None:
    """Create the database in a new cluster."""
    url = sa.make_url(settings.owner)
    engine = sa.create_engine(url.set(database="postgres"), isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        known = sa.text("SELECT 1 FROM pg_database WHERE datname = :name")
        if connection.execute(known, {"name": url.database}).first() is None:
            quoted = engine.dialect.identifier_preparer.quote(str(url.database))
            connection.execute(sa.text(f"CREATE DATABASE {quoted}"))
    engine.dispose()


def migrate(engine: sa.Engine) -> None:
    """Bring the tables to the newest migration; nothing happens where they are. RecordTooNew where
    a newer program has been here: an older one would misread what that wrote."""
    config = migrations()
    with engine.begin() as connection:
        held = MigrationContext.configure(connection).get_current_revision()
        if held is not None and held not in known_revisions():
            raise RecordTooNew(
                "This record was made by a newer program than this one.",
                kept="Nothing was changed.",
                next_step="Start that program, or a newer one.",
            )
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def known_revisions() -> set[str]:
    """Every migration that this program knows."""
    return {one.revision for one in ScriptDirectory.from_config(migrations()).walk_revisions()}


def migrations() -> Config:
    """Where the migrations are, for Alembic."""
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    return config


def lock_for_keeping(connection: sa.Connection, settings: Settings) -> None:
    """Wait for the keep lock; it is freed when the transaction ends, however it ends. NoRoom where
    the disk has none: whatever is kept comes through here."""
    require_room(settings)
    connection.execute(sa.text("SELECT pg_advisory_xact_lock(:key)"), {"key": KEEP_LOCK})
