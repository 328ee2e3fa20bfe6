"""The merged record in a schema of its own, `read`, for whoever goes on in SQL: the tidy tables,
each column described, and a role that may look at them and at nothing else."""

from __future__ import annotations

import sqlalchemy as sa
from psycopg import sql
from psycopg.errors import DependentObjectsStillExist

from bridge_chart.output.tidy import TABLES, frame_of
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import InvalidQuestion

SCHEMA, ROLE = "read", "bridge_read"
TYPES = {"String": "text", "Date": "date", "Float64": "double precision", "Int64": "bigint"}


def write_schema(engine: sa.Engine, snapshot: Snapshot, password: str | None) -> dict[str, int]:
    """Fill the schema at a version, in one transaction: whoever reads sees the old or the new
    one. Where a table has other columns than before, it is made anew; InvalidQuestion where views
    of somebody's own stand on it. password: the role may sign in with it; None: whoever keeps the
    database grants it. Gives how many rows each table has."""
    rows: dict[str, int] = {}
    raw = engine.raw_connection()
    try:
        cursor = raw.cursor()
        _role(cursor, password)
        name = sql.Identifier(SCHEMA)
        cursor.execute(sql.SQL("CREATE SCHEMA IF NOT EXISTS {}").format(name))
        for table in TABLES:
            rows[table] = _table(cursor, snapshot, table)
        told = f"The merged record, version {snapshot.version}"
        cursor.execute(sql.SQL("COMMENT ON SCHEMA {} IS {}").format(name, sql.Literal(told)))
        role = sql.Identifier(ROLE)
        cursor.execute(sql.SQL("GRANT USAGE ON SCHEMA {} TO {}").format(name, role))
        cursor.execute(sql.SQL("GRANT SELECT ON ALL TABLES IN SCHEMA {} TO {}").format(name, role))
        raw.commit()
    except DependentObjectsStillExist as error:
        raise InvalidQuestion(
            f"A view of somebody's own stands on a table that has other columns now: {error}",
            kept="The schema stays as it was.",
            next_step="Drop that view, fill the schema, then make the view again.",
        ) from error
    finally:
        raw.close()
    return rows


def _role(cursor: sa.engine.interfaces.DBAPICursor, password: str | None) -> None:
    cursor.execute("SELECT 1 FROM pg_roles WHERE rolname = %s", (ROLE,))
    role = sql.Identifier(ROLE)
    if cursor.fetchone() is None:
        cursor.execute(sql.SQL("CREATE ROLE {} NOLOGIN").format(role))
    if password is not None:
        cursor.execute(
            sql.SQL("ALTER ROLE {} LOGIN PASSWORD {}").format(role, sql.Literal(password))
        )


def _table(cursor: sa.engine.interfaces.DBAPICursor, snapshot: Snapshot, table: str) -> int:
    """One tidy table, with what each of its columns says."""
    columns = TABLES[table]
    named = sql.Identifier(SCHEMA, table)
    wanted = [(key, TYPES[column.kind.__name__]) for key, column in columns.items()]
    cursor.execute(
        "SELECT column_name, data_type FROM information_schema.columns "
        "WHERE table_schema = %s AND table_name = %s ORDER BY ordinal_position", (SCHEMA, table),
    )  # fmt: skip
    if cursor.fetchall() == wanted:
        # Whoever made views of it keeps them.
        cursor.execute(sql.SQL("TRUNCATE {}").format(named))
    else:
        spec = sql.SQL(", ").join(
            sql.SQL("{} {}").format(sql.Identifier(key), sql.SQL(kind)) for key, kind in wanted
        )
        cursor.execute(sql.SQL("DROP TABLE IF EXISTS {}").format(named))
        cursor.execute(sql.SQL("CREATE TABLE {} ({})").format(named, spec))
    frame = frame_of(table, snapshot)
    keys = sql.SQL(", ").join(map(sql.Identifier, columns))
    copy = sql.SQL("COPY {} ({}) FROM STDIN").format(named, keys)
    with cursor.copy(copy) as lines:
        for row in frame.iter_rows():
            lines.write_row(row)
    for key, column in columns.items():
        about = sql.SQL("COMMENT ON COLUMN {} IS {}").format(
            sql.Identifier(SCHEMA, table, key), sql.Literal(column.says)
        )
        cursor.execute(about)
    return frame.height
