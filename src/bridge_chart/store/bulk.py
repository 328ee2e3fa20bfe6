"""Rows in and out of PostgreSQL as NumPy record arrays: in by binary COPY, out as arrays.

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

from bridge_chart.terms.progress import UNWATCHED, Progress

HEADER = b"PGCOPY\n\xff\r\n\x00" + bytes(8)
TRAILER = b"\xff\xff"
EPOCH = np.datetime64("2000-01-01", "D")
BLOCK = 1 << 16
Records = NDArray[np.void]
_ARRAY_HEADER = np.dtype(
    [("dimensions", ">i4"), ("nulls", ">i4"), ("type", ">i4"), ("length", ">i4"), ("base", ">i4")]
)


def _wire(dtype: np.dtype[Any]) -> np.dtype[Any]:
    """The wire's layout of one row: field count, then a length before each value."""
    parts: list[tuple[str, Any]] = [("count", ">i2")]
    for name in dtype.names or ():
        parts += [(f"length_{name}", ">i4"), (name, _wire_value(dtype[name]))]
    return np.dtype(parts)


_INT2 = 21
"""PostgreSQL's number for smallint, the only element that arrays are sent of."""


def _wire_value(dtype: np.dtype[Any]) -> np.dtype[Any]:
    """A single value as it is; a row of int16 as an array with its header."""
    if dtype.subdtype is None:
        return dtype.newbyteorder(">")
    cell = np.dtype([("size", ">i4"), ("value", ">i2")])
    return np.dtype([("header", _ARRAY_HEADER), ("cells", cell, dtype.shape)])


def _put(out: Records, name: str, values: NDArray[Any]) -> None:
    """Fill one column of a block in the wire's layout."""
    out[f"length_{name}"] = out.dtype[name].itemsize
    if values.ndim == 1:
        out[name] = values
        return
    out[name]["header"] = (1, 0, _INT2, values.shape[1], 1)
    out[name]["cells"]["size"] = 2
    out[name]["cells"]["value"] = values


def days(dates: NDArray[np.datetime64]) -> NDArray[np.int32]:
    """Dates as PostgreSQL sends them: days since 2000-01-01."""
    return (dates.astype("datetime64[D]") - EPOCH).astype(np.int32)


def _raw_cursor(connection: sa.Connection) -> Any:
    driver = connection.connection.driver_connection
    assert driver is not None
    return driver.cursor()


def copy_in(
    connection: sa.Connection, table: str, records: Records, progress: Progress = UNWATCHED
) -> None:
    """COPY a record array into `table`; field names are column names. Between blocks of rows
    `progress` may raise Cancelled.

    Integers go as they are wide, float64 as double precision, bool as boolean; a date column
    takes int32 from `days`, a smallint[] column a row of int16 for each record.
    """
    names = records.dtype.names or ()
    wire = _wire(records.dtype)
    statement = sql.SQL("COPY {} ({}) FROM STDIN (FORMAT BINARY)").format(
        sql.Identifier(table), sql.SQL(", ").join(map(sql.Identifier, names))
    )
    with _raw_cursor(connection) as cursor, cursor.copy(statement) as copy:
        copy.write(HEADER)
        for start in range(0, len(records), BLOCK):
            progress.alive()
            block = records[start : start + BLOCK]
            out = np.empty(len(block), wire)
            out["count"] = len(names)
            for name in names:
                _put(out, name, block[name])
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


def read_out(connection: sa.Connection, query: str, dtype: np.dtype[Any]) -> Records:
    """The query's rows as a record array; its columns are called as `dtype`'s fields, without
    nulls (ValueError else).

    Each column comes as one binary array: a row of its own in the protocol would cost more than
    the row's data. `query` is written by this program only; no text of a person stands in it.
    """
    names = dtype.names or ()
    gathered = sql.SQL(", ").join(
        sql.SQL("array_agg({})").format(sql.Identifier(name)) for name in names
    )
    statement = sql.SQL("SELECT {} FROM ({}) AS rows").format(gathered, sql.SQL(query))
    with _raw_cursor(connection) as cursor:
        cursor.execute(statement, binary=True)
        columns = [cursor.pgresult.get_value(0, place) for place in range(len(names))]
    if columns[0] is None:
        return np.empty(0, dtype)
    out = np.empty(_length(columns[0]), dtype)
    for name, column in zip(names, columns, strict=True):
        out[name] = _values(name, column, dtype[name])
    return out


def _length(column: bytes) -> int:
    return int(np.frombuffer(column, _ARRAY_HEADER, 1)["length"][0])


def _values(name: str, column: bytes, dtype: np.dtype[Any]) -> NDArray[Any]:
    """A binary array's elements; each has its length before it."""
    cell = np.dtype([("size", ">i4"), ("value", dtype.newbyteorder(">"))])
    body = memoryview(column)[_ARRAY_HEADER.itemsize :]
    header = np.frombuffer(column, _ARRAY_HEADER, 1)[0]
    if header["nulls"] or len(body) != int(header["length"]) * cell.itemsize:
        raise ValueError(f"column {name} has nulls or another width than its dtype")
    values: NDArray[Any] = np.frombuffer(body, cell)["value"]
    return values


def reserve_ids(connection: sa.Connection, sequence: str, count: int) -> int:
    """The first of `count` ids taken from the sequence (the caller holds the keep lock)."""
    query = sa.text("SELECT setval(:name, nextval(:name) + :more) - :more")
    return int(connection.scalar(query, {"name": sequence, "more": max(count - 1, 0)}) or 0)
