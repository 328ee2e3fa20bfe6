"""Files without some students: those that were kept are stored anew without their lines, those
that wait and hold one of them are thrown away."""

from __future__ import annotations

import hashlib
from dataclasses import replace

import sqlalchemy as sa

from bridge_chart.intake.columns.columns import position_of, understand
from bridge_chart.intake.erasing.asking import FileGone
from bridge_chart.intake.erasing.persons import FACT_TABLES, Persons
from bridge_chart.intake.reading.apart import file_without, sheet_in
from bridge_chart.intake.reading.whose import SURE_LENGTH, Whose
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store import tables as t
from bridge_chart.terms.errors import BridgeError


def take_out_of_files(connection: sa.Connection, them: Persons) -> list[FileGone]:
    """Every file of the record without their lines; what was done, in the order of the files."""
    query = sa.select(t.source.c.id, t.source.c.name).order_by(t.source.c.id)
    told: list[FileGone] = []
    for row in connection.execute(query).all():
        if connection.scalar(sa.select(t.batch.c.id).where(t.batch.c.source_id == row.id).limit(1)):
            told += _of_kept(connection, row.id, row.name, them)
        else:
            told += _of_waiting(connection, row.id, row.name, them)
    return told


def _of_kept(connection: sa.Connection, source: int, name: str, them: Persons) -> list[FileGone]:
    """A file that was kept, once or several times; its rows that were set aside go with it."""
    b = t.batch.c
    batches = connection.execute(
        sa.select(b.id, b.settings, b.columns).where(b.source_id == source).order_by(b.id)
    ).all()
    data = _bytes(connection, source)
    lost: set[int] = set()
    for batch in batches:
        said = IntakeSettings.model_validate(batch.settings)
        whose = _whose(connection, batch.id, batch.columns, them)
        data, lines = file_without(name, data, said, whose, _elsewhere(them))
        aside = t.set_aside.c
        gone = sa.delete(t.set_aside).where(aside.batch_id == batch.id, aside.row.in_(lines))
        connection.execute(gone)
        lost |= set(lines)
    if data != _bytes(connection, source):
        _stored_anew(connection, source, name, data)
    return [FileGone(file=name, lines=len(lost))] if lost else []


def _stored_anew(connection: sa.Connection, source: int, name: str, data: bytes) -> None:
    """A row of its own: what any process still holds of the old one is never asked for again."""
    digest = hashlib.sha256(data).hexdigest()
    row = {"name": name, "sha256": digest, "bytes": data}
    made = connection.scalar(sa.insert(t.source).values(**row).returning(t.source.c.id))
    for table in (t.batch, t.draft):
        mine = sa.update(table).where(table.c.source_id == source)
        connection.execute(mine.values(source_id=made))
    connection.execute(
        sa.update(t.draft).where(t.draft.c.source_id == made).values(understood=None)
    )
    connection.execute(sa.delete(t.source).where(t.source.c.id == source))


def _of_waiting(connection: sa.Connection, source: int, name: str, them: Persons) -> list[FileGone]:
    """A file that nobody kept: it is thrown away where it holds one of them."""
    d = t.draft.c
    drafts = connection.execute(
        sa.select(d.id, d.kind, d.settings).where(d.source_id == source)
    ).all()
    data = _bytes(connection, source)
    try:
        kinds = [(one.kind, IntakeSettings.model_validate(one.settings)) for one in drafts]
        holds = not kinds or any(_holds(name, data, kind, said, them) for kind, said in kinds)
    except BridgeError:
        holds = True  # what cannot be looked into is not left lying
    if not holds:
        return []
    connection.execute(sa.delete(t.draft).where(d.source_id == source))
    connection.execute(sa.delete(t.source).where(t.source.c.id == source))
    return [FileGone(file=name, waiting=True)] if drafts else []


def _holds(name: str, data: bytes, kind: str, said: IntakeSettings, them: Persons) -> bool:
    at = position_of(understand(kind, sheet_in(name, data, said), said), "number")
    whose = elsewhere = _elsewhere(them)
    if at is not None:
        whose = replace(whose, numbers=_numbers(them), number_columns=frozenset({at}))
    return file_without(name, data, said, whose, elsewhere)[0] != data


def _whose(connection: sa.Connection, batch: int, columns: object, them: Persons) -> Whose:
    """Whose lines of a batch are theirs, and which are somebody else's."""
    lines: set[int] = set()
    others: set[int] = set()
    for table in FACT_TABLES:
        c = table.c
        mine = c.student_id.in_(them.ids)
        query = sa.select(c.row, sa.func.bool_or(mine)).where(c.batch_id == batch).group_by(c.row)
        for row, theirs in connection.execute(query):
            (lines if theirs else others).add(row)
    listed = columns if isinstance(columns, list) else []
    numbers = frozenset(one["index"] for one in listed if one["role"] == "number")
    return Whose(
        frozenset(lines), frozenset(others - lines), numbers, _numbers(them), them.names
    )  # fmt: skip


def _elsewhere(them: Persons) -> Whose:
    """What names them where nothing is known of a table."""
    sure = frozenset(one for one in _numbers(them) if len(one) >= SURE_LENGTH)
    return Whose(numbers=sure, names=them.names)


def _numbers(them: Persons) -> frozenset[str]:
    return frozenset(one.casefold() for one in them.numbers)


def _bytes(connection: sa.Connection, source: int) -> bytes:
    query = sa.select(t.source.c.bytes).where(t.source.c.id == source)
    return bytes(connection.scalar(query) or b"")
