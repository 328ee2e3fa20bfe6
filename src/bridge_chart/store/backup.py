"""The record in one file, and back: a dump by PostgreSQL's own tools, with what every table held.

The file is a ZIP with `record.dump` and `manifest.json`. Both are of one moment: the dump and the
digests read the same snapshot of the database, so keeping goes on meanwhile. Sessions, one-time
links, recovery codes, tokens and tries at signing in stay out: what was ended must not live again
by a restore.
"""

from __future__ import annotations

import datetime as dt
import json
import os
import shutil
import subprocess
import tempfile
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path

import sqlalchemy as sa

from bridge_chart.store.cluster import binaries
from bridge_chart.store.database import connect_owner, known_revisions
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import BackupTrouble, UnreadableFile

LEFT_OUT = ("session", "one_time_link", "recovery_code", "sign_in_try", "api_token")
DUMP, MANIFEST = "record.dump", "manifest.json"
FORMAT = 1
UNFINISHED, TRIED_IN = ".bridge-backup-", "bridge-try-"
"""What a backup writes beside itself while it is made and tried; then the process's own number."""
HOUR = 3600


@dataclass(frozen=True)
class Held:
    """How many rows a table has, and a digest of them in any order."""

    rows: int
    digest: str


@dataclass(frozen=True)
class Manifest:
    """What a backup holds: of which instance, at which version and migration, each table."""

    format: int
    made: str
    instance: str
    version: int
    revision: str
    tables: dict[str, Held]

    @classmethod
    def read(cls, text: str) -> Manifest:
        told = json.loads(text)
        tables = {name: Held(**held) for name, held in told.pop("tables").items()}
        return cls(**told, tables=tables)


def make_backup(settings: Settings, engine: sa.Engine, out: Path) -> Manifest:
    """Write the record into a file, whole or not at all; BackupTrouble says why not."""
    unfinished = out.with_name(f"{out.name}.part")
    with engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection:
        moment = str(connection.scalar(sa.text("SELECT pg_export_snapshot()")))
        manifest = _manifest(connection)
        _clear(out.parent, UNFINISHED)
        with tempfile.TemporaryDirectory(
            dir=out.parent, prefix=f"{UNFINISHED}{os.getpid()}-"
        ) as folder:
            dump = Path(folder) / DUMP
            try:
                _run(
                    settings, settings.owner, "pg_dump", "-Fc", f"--snapshot={moment}",
                    *(f"--exclude-table-data={name}" for name in LEFT_OUT), "-f", str(dump),
                )  # fmt: skip
                with zipfile.ZipFile(unfinished, "w", zipfile.ZIP_STORED) as archive:
                    archive.writestr(MANIFEST, json.dumps(asdict(manifest), indent=1))
                    archive.write(dump, DUMP)
                with unfinished.open("rb") as written:
                    os.fsync(written.fileno())
                os.replace(unfinished, out)
            except OSError as error:
                raise BackupTrouble(
                    f"The backup cannot be written: {error}.", kept="What was there stays.",
                    next_step="Make room, or choose another folder.",
                ) from error  # fmt: skip
            finally:
                unfinished.unlink(missing_ok=True)
    return manifest


def read_manifest(path: Path) -> Manifest:
    """What a backup says it holds; UnreadableFile for any other file."""
    try:
        with zipfile.ZipFile(path) as archive:
            manifest = Manifest.read(archive.read(MANIFEST).decode())
            if archive.testzip() is not None or DUMP not in archive.namelist():
                raise ValueError("damaged")
    except (OSError, ValueError, KeyError, TypeError, zipfile.BadZipFile) as error:
        raise UnreadableFile(
            f"{path.name} is no whole backup of ours.", kept="Nothing was changed.",
            next_step="Take another backup; ./bridge backup writes them.",
        ) from error  # fmt: skip
    if manifest.revision not in known_revisions():
        raise BackupTrouble(
            f"{path.name} is of a newer program than this one.", kept="Nothing was changed.",
            next_step="Restore it with that program, or a newer one.",
        )  # fmt: skip
    return manifest


def holds_a_record(settings: Settings) -> bool:
    """Whether the database has been begun: a restore fills it in one transaction, or not at all."""
    engine = connect_owner(settings)
    try:
        with engine.connect() as connection:
            return connection.scalar(sa.text("SELECT to_regclass('alembic_version')")) is not None
    finally:
        engine.dispose()


def restore_into(settings: Settings, url: str, path: Path) -> None:
    """Fill an empty database with a backup, in one transaction, and compare each table with what
    the backup says; BackupTrouble where one differs."""
    manifest = read_manifest(path)
    with tempfile.TemporaryDirectory(prefix="bridge-restore-") as folder:
        with zipfile.ZipFile(path) as archive:
            dump = Path(archive.extract(DUMP, folder))
        _run(
            settings, url, "pg_restore", "--no-owner", "--no-privileges", "--single-transaction",
            "--exit-on-error", "-d", sa.make_url(url).database or "", str(dump),
        )  # fmt: skip
    engine = sa.create_engine(url)
    try:
        with engine.connect() as connection:
            found = _manifest(connection)
    finally:
        engine.dispose()
    different = [name for name, held in manifest.tables.items() if found.tables.get(name) != held]
    if different or set(found.tables) != set(manifest.tables):
        raise BackupTrouble(
            f"What was restored differs in {', '.join(sorted(different)) or 'its tables'}.",
            kept="The backup file stays as it is.", next_step="Take another backup.",
        )  # fmt: skip


@contextmanager
def restored_beside(settings: Settings, engine: sa.Engine, path: Path) -> Iterator[Settings]:
    """A backup restored into a database of its own beside the record, gone afterwards."""
    name = f"bridge_try_{dt.datetime.now(dt.UTC):%Y%m%d%H%M%S}_{os.getpid()}"
    url = sa.make_url(settings.owner).set(database=name)
    with _autocommit(settings) as connection:
        _drop_left(connection)
        connection.execute(sa.text(f'CREATE DATABASE "{name}"'))
    _clear(Path(tempfile.gettempdir()), TRIED_IN)
    home = Path(tempfile.mkdtemp(prefix=f"{TRIED_IN}{os.getpid()}-"))
    try:
        text = url.render_as_string(hide_password=False)
        restore_into(settings, text, path)
        yield Settings(home=home, database_url=text, secret_key=settings.secret_key)
    finally:
        shutil.rmtree(home, ignore_errors=True)
        with _autocommit(settings) as connection:
            connection.execute(sa.text(f'DROP DATABASE "{name}" WITH (FORCE)'))


def _clear(folder: Path, prefix: str) -> None:
    """Remove what a backup left that was killed: it holds children's records."""
    for left in folder.glob(f"{prefix}*"):
        if not _alive(left.name.removeprefix(prefix).split("-")[0]):
            shutil.rmtree(left, ignore_errors=True)
    for left in folder.glob("*.zip.part"):
        if prefix == UNFINISHED and dt.datetime.now().timestamp() - left.stat().st_mtime > HOUR:
            left.unlink(missing_ok=True)


def _drop_left(connection: sa.Connection) -> None:
    """Drop databases in which backups were tried that were killed; nobody is in them."""
    query = sa.text(
        "SELECT datname FROM pg_database AS d WHERE datname LIKE 'bridge\\_try\\_%' "
        "AND NOT EXISTS (SELECT 1 FROM pg_stat_activity AS a WHERE a.datname = d.datname)"
    )
    for name in connection.scalars(query).all():
        if not _alive(str(name).rsplit("_", 1)[-1]):
            connection.execute(sa.text(f'DROP DATABASE IF EXISTS "{name}"'))


def _alive(process: str) -> bool:
    return process.isdigit() and Path(f"/proc/{process}").exists()


@contextmanager
def _autocommit(settings: Settings) -> Iterator[sa.Connection]:
    engine = connect_owner(settings).execution_options(isolation_level="AUTOCOMMIT")
    try:
        with engine.connect() as connection:
            yield connection
    finally:
        engine.dispose()


def _manifest(connection: sa.Connection) -> Manifest:
    instance = connection.scalar(sa.text("SELECT identity FROM instance"))
    version = connection.scalar(sa.text("SELECT coalesce(max(id), 0) FROM version"))
    revision = connection.scalar(sa.text("SELECT version_num FROM alembic_version"))
    names = connection.scalars(sa.text(
        "SELECT relname FROM pg_class JOIN pg_namespace n ON n.oid = relnamespace "
        "WHERE relkind = 'r' AND nspname = 'public' ORDER BY relname"
    ))  # fmt: skip
    tables = {name: _held(connection, name) for name in list(names) if name not in LEFT_OUT}
    return Manifest(
        FORMAT, dt.datetime.now(dt.UTC).isoformat(), str(instance), int(version or 0),
        str(revision), tables,
    )  # fmt: skip


def _held(connection: sa.Connection, name: str) -> Held:
    """The sum of the digests of all rows: the same in whatever order they come back."""
    quoted = connection.dialect.identifier_preparer.quote(name)
    row = connection.execute(sa.text(
        "SELECT count(*), coalesce(sum(('x' || left(md5(t::text), 15))::bit(60)::bigint), 0) "
        f"FROM {quoted} AS t"
    )).one()  # fmt: skip
    return Held(int(row[0]), str(row[1]))


def _run(settings: Settings, url: str, program: str, *arguments: str) -> None:
    """One of PostgreSQL's programs on a database; BackupTrouble with what it said."""
    at = sa.make_url(url)
    environment = {
        **os.environ, "PGHOST": at.host or "", "PGPORT": str(at.port or ""),
        "PGUSER": at.username or "", "PGPASSWORD": str(at.password or ""),
        "PGDATABASE": at.database or "",
    }  # fmt: skip
    done = subprocess.run(
        [str(binaries() / program), *arguments], env=environment, capture_output=True, text=True,
        check=False,
    )  # fmt: skip
    if done.returncode:
        raise BackupTrouble(
            f"{program} stopped: {done.stderr.strip()[-600:]}", kept="The record is as it was.",
            next_step="Mend what it says, then try again.",
        )  # fmt: skip
