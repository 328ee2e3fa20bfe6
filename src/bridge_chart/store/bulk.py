"""Rows in and out of PostgreSQL as NumPy record arrays, by binary COPY.

Both ways need columns of fixed width without nulls; a nullable column goes as text
through `copy_text_in`.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
import sqlalchemy as sa
from numpy.typing import NDArray
from psycopg import sql

HEADER = b"PGCOPY\n\xff\r\n\x00" + bytes(8)
TRAILER = b"\xff\xff"
EPOCH = np.datetime64("2000-01-01", "D")
BLOCK = 1 << 16
Records = NDArray[np.void]


def _wire(dtype: np.dtype[Any]) -> np.dtype[Any]:
    """The wire's layout of one row: field count, then a length before each value."""
    parts: list[tuple[str, Any]] = [("count", ">i2")]
    for name in dtype.names or ():
        parts += [(f"length_{name}", ">i4"), (name, dtype[name].newbyteorder(">"))]
    return np.dtype(parts)


def days(dates: NDArray[np.datetime64]) -> NDArray[np.int32]:
    """Dates as PostgreSQL sends them: days since 2000-01-01."""
    return (dates.astype("datetime64[D]") - EPOCH).astype(np.int32)


def _raw_cursor(connection: sa.Connection) -> Any:
    driver = connection.connection.driver_connection
    assert driver is not None
    return driver.cursor()


def copy_in(connection: sa.Connection, table: str, records: Records) -> None:
    """COPY a record array into `table`; field names are column names.

    Integers go as they are wide, float64 as double precision, bool as boolean; a date column
    takes int32 from `days`.
    """
    names = records.dtype.names or ()
    wire = _wire(records.dtype)
    statement = sql.SQL("COPY {} ({}) FROM STDIN (FORMAT BINARY)").format(
        sql.Identifier(table), sql.SQL(", ").join(map(sql.Identifier, names))
    )
    with _raw_cursor(connection) as cursor, cursor.copy(statement) as copy:
        copy.write(HEADER)
        for start in range(0, len(records), BLOCK):
            block = records[start : start + BLOCK]
            out = np.empty(len(block), wire)
            out["count"] = len(names)
            for name in names:
                out[f"length_{name}"] = records.dtype[name].itemsize
                out[name] = block[name]
            copy.write(out.tobytes())
        copy.write(TRAILER)


def copy_text_in(
    connection: sa.Connection, table: str, columns: Sequence[str], rows: Iterable[Sequence[Any]]
) -> None:
    """COPY rows of any types, nulls included."""
    statement = sql.SQL("COPY {} ({}) FROM STDIN").format(
        sql.Identifier(table), sql.SQL(", ").join(map(sql.Identifier, columns))
    )
    with _raw_cursor(connection) as cursor, cursor.copy(statement) as copy:
        for row in rows:
            copy.write_row(row)


def copy_out(connection: sa.Connection, query: str, dtype: np.dtype[Any]) -> Records:
    """The query's rows as a record array; its columns must be `dtype`'s, without nulls.

    `query` is written by this program only; values that come from people never stand in it.
    """
    with _raw_cursor(connection) as cursor:
        statement = sql.SQL("COPY ({}) TO STDOUT (FORMAT BINARY)").format(sql.SQL(query))
        with cursor.copy(statement) as copy:
            data = b"".join(bytes(part) for part in copy)
    body = data[len(HEADER) : -len(TRAILER)]
    wire = _wire(dtype)
    if len(body) % wire.itemsize:
        raise ValueError("a column of the query is null or of another width than its dtype")
    rows = np.frombuffer(body, wire)
    out = np.empty(len(rows), dtype)
    for name in dtype.names or ():
        out[name] = rows[name]
    return out


def reserve_ids(connection: sa.Connection, sequence: str, count: int) -> int:
    """The first of `count` ids taken from the sequence (the caller holds the keep lock)."""
    query = sa.text("SELECT setval(:name, nextval(:name) + :more) - :more")
    return int(connection.scalar(query, {"name": sequence, "more": max(count - 1, 0)}) or 0)
