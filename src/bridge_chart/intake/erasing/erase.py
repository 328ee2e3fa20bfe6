"""Taking students out of the record: of every version, file, list and note, in one transaction.

Done by the owner of the tables, in the worker or at the command line. What is worked out of the
record is thrown away after it, and made anew by whoever asks; a worker that dies in between is
followed by another, which finds the erasure waiting.
"""

from __future__ import annotations

import shutil
from pathlib import Path

import sqlalchemy as sa

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.audit import noted
from bridge_chart.intake.erasing.asking import Receipt
from bridge_chart.intake.erasing.files import take_out_of_files
from bridge_chart.intake.erasing.persons import STUDENT_TABLES, Persons, persons
from bridge_chart.intake.erasing.texts import take_out_of_audit, take_out_of_texts
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.store.database import lock_for_keeping
from bridge_chart.store.erasures import tell
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot_build import one_builder
from bridge_chart.store.versions import new_version
from bridge_chart.terms.errors import BridgeError
from bridge_chart.terms.wording import count

READ = "read"
"""The schema that `output.read_schema` fills for whoever goes on in SQL."""
NOT_LOOKED_INTO = (
    "Papers and reports that are attached are pictures and documents: look through these yourself.",
    "A mention by first name alone, in a note or a title, is not found.",
    "What was printed or exported before is in the hands of those who did so; the audit says who.",
)


def erase_waiting(owner: sa.Engine, settings: Settings) -> int:
    """Carry out every erasure that waits; how many. One that cannot be says why, and is left."""
    e = u.erasure.c
    with owner.connect() as connection:
        waiting = sa.select(e.id).where(e.state == "waiting").order_by(e.id)
        ids = list(connection.scalars(waiting))
    for one in ids:
        try:
            erase(owner, settings, one)
        except BridgeError as error:
            stopped = sa.update(u.erasure).where(e.id == one)
            with owner.begin() as connection:
                connection.execute(stopped.values(state="stopped", trouble=str(error)))
    sweep(owner, settings)
    return len(ids)


def erase(owner: sa.Engine, settings: Settings, erasure: int) -> None:
    """Carry out one erasure, whole or not at all."""
    e = u.erasure.c
    with owner.begin() as connection:
        lock_for_keeping(connection, settings)
        row = connection.execute(
            sa.select(u.erasure).where(e.id == erasure).with_for_update()
        ).one()
        if row.state != "waiting":
            return
        them = persons(connection, row.marks)
        # Told before it is done: a restore would else bring back whom this erases.
        for folder in _folders(settings):
            tell(folder, row.marks)
        receipt, sittings, version = _taken_out(connection, them, row.account_id)
        noted(connection, OPERATOR, "erase", {"erasure": erasure, "name": row.reference,
                                              "version": version})  # fmt: skip
        done = {"state": "sweeping", "done": sa.func.now(), "version_id": version,
                "sittings": sittings, "receipt": receipt.model_dump()}  # fmt: skip
        connection.execute(sa.update(u.erasure).where(e.id == erasure).values(**done))
    sweep(owner, settings)


def sweep(owner: sa.Engine, settings: Settings) -> None:
    """Throw away what was worked out of the record before an erasure; it is done then."""
    e = u.erasure.c
    with owner.connect() as connection:
        ids = list(connection.scalars(sa.select(e.id).where(e.state == "sweeping")))
    if ids:
        forget_snapshots(settings)
        # What was deleted stands in the tables' files until they are swept.
        with owner.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
            connection.execute(sa.text("VACUUM"))
        with owner.begin() as connection:
            connection.execute(sa.update(u.erasure).where(e.id.in_(ids)).values(state="done"))


def erase_again(owner: sa.Engine, settings: Settings, marks: list[str]) -> int:
    """After a restore: erase whom the record had forgotten since; how many came back with it."""
    with owner.begin() as connection:
        there = persons(connection, marks)
        if not there.ids:
            return 0
        row = {"reference": "Erased before, came back with a backup", "marks": list(there.marks),
               "sittings": []}  # fmt: skip
        made = connection.scalar(sa.insert(u.erasure).values(**row).returning(u.erasure.c.id))
    erase(owner, settings, int(made or 0))
    return len(there.ids)


def _taken_out(
    connection: sa.Connection, them: Persons, account: int | None
) -> tuple[Receipt, list[int], int]:
    """The receipt, the sittings in which they had results, and the new version."""
    attached = _attached(connection, them)
    files = take_out_of_files(connection, them)
    sittings = sorted(connection.scalars(
        sa.select(t.result.c.sitting_id).where(t.result.c.student_id.in_(them.ids)).distinct()
    ))  # fmt: skip
    rows = _rows_gone(connection, them)
    _empty_tables_for_sql(connection)
    texts = take_out_of_texts(connection, them)
    told = f"{count(len(them.ids), 'student')} erased"
    version = new_version(connection, account, told)
    # Whatever was worked out of an older version is of another one now.
    connection.execute(sa.update(t.version).values(identity=sa.func.gen_random_uuid()))
    lines = take_out_of_audit(connection, them)
    receipt = Receipt(
        students=len(them.ids), rows=rows, attached=attached,
        files=[one.model_copy(update={"file": them.without(one.file)}) for one in files],
        texts=texts | ({"audit": lines} if lines else {}),
        backups=list(connection.scalars(sa.select(u.backup.c.file).order_by(u.backup.c.id))),
        not_looked_into=list(NOT_LOOKED_INTO),
    )  # fmt: skip
    return receipt, sittings, version


def _attached(connection: sa.Connection, them: Persons) -> list[str]:
    """What is attached to sittings that they sat."""
    sat = sa.select(t.attempt.c.sitting_id).where(t.attempt.c.student_id.in_(them.ids))
    a = u.attachment.c
    query = sa.select(a.name).where(a.sitting_id.in_(sat), ~a.removed).order_by(a.id)
    return [str(them.without(name)) for name in connection.scalars(query)]


def _rows_gone(connection: sa.Connection, them: Persons) -> dict[str, int]:
    """How many rows of each table were theirs; they are no more."""
    rows = {}
    for table in (*STUDENT_TABLES, t.student):
        mine = (table.c.student_id if "student_id" in table.c else table.c.id).in_(them.ids)
        gone = connection.execute(sa.delete(table).where(mine)).rowcount
        if gone:
            rows[table.name] = gone
    held = u.student_set.c.students
    for one in them.ids:
        with_them = sa.update(u.student_set).where(sa.literal(one) == sa.any_(held))
        less = with_them.values(students=sa.func.array_remove(held, one))
        changed = connection.execute(less).rowcount
        if changed:
            rows["student_set"] = rows.get("student_set", 0) + changed
    return rows


def _empty_tables_for_sql(connection: sa.Connection) -> None:
    """Nothing stays of the tables that were filled for SQL: they are worked out of the record."""
    query = sa.text("SELECT table_name FROM information_schema.tables "
                    "WHERE table_schema = :schema AND table_type = 'BASE TABLE'")  # fmt: skip
    for name in connection.scalars(query, {"schema": READ}).all():
        connection.execute(sa.text(f'DELETE FROM "{READ}"."{name}"'))


def _folders(settings: Settings) -> list[Path]:
    """Where it is told whom the record has forgotten: in the home, and beside the backups."""
    return [settings.home, *([Path(settings.backup_folder)] if settings.backup_folder else [])]


def forget_snapshots(settings: Settings) -> None:
    """Throw away all that is worked out of the record: it is made anew when it is asked for."""
    for other in settings.snapshots.parent.glob("layout-*"):
        if other != settings.snapshots:
            shutil.rmtree(other, ignore_errors=True)
    with one_builder(settings.snapshots):
        for path in settings.snapshots.glob("*"):
            if path.is_dir():
                shutil.rmtree(path, ignore_errors=True)
            elif path.name != "build.lock":
                path.unlink(missing_ok=True)
