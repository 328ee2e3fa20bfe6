"""Database roles: the owner, who makes tables and erases; the application, which does neither and
only adds to the audit; and the read-only one of `output.read_schema`.

In a cluster of our own the application's role is made, and given its password, by the owner. In a
database of somebody else's the settings name both, or one for everything.
"""

from __future__ import annotations

import secrets
from dataclasses import replace

import sqlalchemy as sa
from psycopg import sql

from bridge_chart.store.queue import SCHEMA
from bridge_chart.store.settings import Settings

APPLICATION = "bridge_application"
ONLY_ADDED = ("audit",)
"""Tables whose lines the application may write, and never change or remove."""
ONLY_READ = ("alembic_version",)


def apart(settings: Settings) -> Settings:
    """Settings of a cluster of our own with the application's role beside the owner's; as they are
    where that is so, or where the database is somebody else's."""
    if settings.owner_url or not settings.cluster:
        return settings
    password = secrets.token_urlsafe(24)
    engine = sa.create_engine(settings.database_url)
    raw = engine.raw_connection()
    try:
        cursor = raw.cursor()
        cursor.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", (APPLICATION,))
        making = "ALTER" if cursor.fetchone() else "CREATE"
        told = sql.SQL(
            making + " ROLE {} LOGIN NOSUPERUSER NOCREATEDB NOCREATEROLE PASSWORD {}"
        )  # fmt: skip
        cursor.execute(told.format(sql.Identifier(APPLICATION), sql.Literal(password)))
        raw.commit()
    finally:
        raw.close()
        engine.dispose()
    url = sa.make_url(settings.database_url)
    mine = url.set(username=APPLICATION, password=password).render_as_string(False)
    made = replace(settings, database_url=mine, owner_url=settings.database_url)
    made.save()
    return made


def grant(owner: sa.Engine, settings: Settings) -> None:
    """Let the application do what it does, and nothing else; after each migration."""
    name = sa.make_url(settings.database_url).username
    if not settings.owner_url or name == sa.make_url(settings.owner_url).username:
        return
    role = owner.dialect.identifier_preparer.quote(str(name))
    say = [f"REVOKE CREATE ON SCHEMA public FROM {role}"]
    for schema in ("public", SCHEMA):
        say += [
            f"GRANT USAGE ON SCHEMA {schema} TO {role}",
            f"GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA {schema} TO {role}",
            f"GRANT USAGE, SELECT, UPDATE ON ALL SEQUENCES IN SCHEMA {schema} TO {role}",
        ]
    say += [f"REVOKE UPDATE, DELETE ON {table} FROM {role}" for table in ONLY_ADDED]
    say += [f"REVOKE INSERT, UPDATE, DELETE ON {table} FROM {role}" for table in ONLY_READ]
    with owner.begin() as connection:
        for one in say:
            connection.exec_driver_sql(one)
