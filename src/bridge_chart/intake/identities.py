"""Names and numbers to ids: found if they exist (also from an undone batch), else made."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import sqlalchemy as sa

from bridge_chart.store import tables as t


def student_ids(connection: sa.Connection, numbers: Sequence[str]) -> dict[str, int]:
    """Ids of the numbers; new students are made."""
    given = {"numbers": list(numbers)}
    connection.execute(
        sa.text(
            "INSERT INTO student (number) SELECT DISTINCT unnest(CAST(:numbers AS text[])) "
            "ON CONFLICT DO NOTHING"
        ),
        given,
    )
    found = sa.text("SELECT number, id FROM student WHERE number = ANY(:numbers)")
    return {row[0]: row[1] for row in connection.execute(found, given)}


def named_ids(
    connection: sa.Connection, table: sa.Table, names: Sequence[str], **also: Any
) -> dict[str, int]:
    """Ids of names in a table whose names are unique; new ones are made with `also`."""
    wanted = sorted(set(names))
    if not wanted:
        return {}
    key = table.c.name
    have = sa.select(key, table.c.id).where(key.in_(wanted))
    known = {row[0]: row[1] for row in connection.execute(have)}
    for name in wanted:
        if name not in known:
            made = sa.insert(table).values(name=name, **also).returning(table.c.id)
            known[name] = int(connection.scalar(made) or 0)
    return known


def row_ids(
    connection: sa.Connection, table: sa.Table, rows: Sequence[dict[str, Any]], **also: Any
) -> list[int]:
    """Ids of rows that are known by all their given columns; new ones are made with `also`."""
    ids = []
    for row in rows:
        same = [table.c[key].is_not_distinct_from(value) for key, value in row.items()]
        known = connection.scalar(sa.select(table.c.id).where(*same))
        if known is None:
            known = connection.scalar(sa.insert(table).values(**row, **also).returning(table.c.id))
        ids.append(int(known or 0))
    return ids


def characteristic_ids(
    connection: sa.Connection, values: dict[str, list[str]], version: int
) -> dict[str, tuple[int, dict[str, int]]]:
    """Per characteristic: its id and the ids of its options."""
    ids = named_ids(connection, t.characteristic, list(values), from_version=version)
    out = {}
    for name, options in values.items():
        rows = [{"characteristic_id": ids[name], "value": value} for value in options]
        made = row_ids(connection, t.characteristic_option, rows)
        out[name] = (ids[name], dict(zip(options, made, strict=True)))
    return out
