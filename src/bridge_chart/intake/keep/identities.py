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
            "INSERT INTO student (number) "
            "SELECT DISTINCT unnest(CAST(:numbers AS text[])) AS number ORDER BY number "
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
    have = sa.select(table.c.name, table.c.id).where(table.c.name.in_(wanted))
    known = {row[0]: row[1] for row in connection.execute(have)}
    new = [{"name": name, **also} for name in wanted if name not in known]
    if new:
        connection.execute(sa.insert(table), new)
        known = {row[0]: row[1] for row in connection.execute(have)}
    return known


def class_ids(
    connection: sa.Connection, academic_year: str, keys: Sequence[tuple[int, str]]
) -> dict[tuple[int, str], int]:
    """Ids of classes by school id and name in a school year; new ones are made."""
    table = t.school_class
    have = sa.select(table.c.school_id, table.c.name, table.c.id).where(
        table.c.academic_year == academic_year
    )
    known = {(row[0], row[1]): row[2] for row in connection.execute(have)}
    new = [
        {"school_id": school, "academic_year": academic_year, "name": name}
        for school, name in keys
        if (school, name) not in known
    ]
    if new:
        connection.execute(sa.insert(table), new)
        known = {(row[0], row[1]): row[2] for row in connection.execute(have)}
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
