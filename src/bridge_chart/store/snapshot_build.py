"""Building the snapshot of a version from the record.

Column files are named by what they are made from: the students, the active batches, and the
random identity of the version that brought each batch. Facts never change, so an existing file
is right as it is, and a new version writes what changed. The manifest appears last, whole, and
seals every column; a file or manifest that does not fit is made again and noted.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from threading import Lock
from typing import Any

import numpy as np
import sqlalchemy as sa
from cachetools import LRUCache
from numpy.typing import NDArray

from bridge_chart.store import tables as t
from bridge_chart.store.bulk import read_out
from bridge_chart.store.columns import Columns, Seal, fits, write_column
from bridge_chart.store.credit_build import CreditBuilder
from bridge_chart.store.erasures import erased_after
from bridge_chart.store.measure_build import MeasureBuilder
from bridge_chart.store.practice_build import Practice
from bridge_chart.store.reference_tables import ReferenceTables
from bridge_chart.store.rolls import RollBuilder
from bridge_chart.store.snapshot import UNKNOWN_DAY, Snapshot, seals_of
from bridge_chart.store.versions import Identified, active_batches, identified

Array = NDArray[Any]
FORM = 9
"""The manifest's own form; one of another form is written anew."""
PROGRAM = "bridge chart"
"""Who mended a file, in the audit."""
_loaded: LRUCache[tuple[str, int, str], Snapshot] = LRUCache(8)
_loading = Lock()


def snapshot_of(engine: sa.Engine, folder: Path, version: int | None = None) -> Snapshot:
    """The snapshot of `version` (None: the newest), built if it is not there or is of another
    record than this one."""
    with engine.connect() as connection:
        wanted = identified(connection, version)
    key = (str(folder), wanted.version, wanted.identity)
    with _loading:
        found = _loaded.get(key)
    # Another process may have pruned what this one had loaded.
    if found is not None and (folder / f"v{wanted.version}.json").exists():
        return found
    manifest = build(engine, folder, wanted)
    loaded = Snapshot(folder, manifest, lambda name: mend(engine, folder, wanted, name))
    with _loading:
        for old in [one for one in _loaded if one[:2] == key[:2] and one[2] != key[2]]:
            del _loaded[old]  # of students who were erased since, or of another record
        return _loaded.setdefault(key, found or loaded)


def manifest_of(folder: Path, wanted: Identified) -> dict[str, Any] | None:
    """The manifest of a version if it is whole, of this record and in the form that this program
    writes; None otherwise."""
    manifest = _whole(folder / f"v{wanted.version}.json")
    if manifest is None:
        return None
    return manifest if manifest["identity"] == wanted.identity else None


def _whole(path: Path) -> dict[str, Any] | None:
    """A manifest as it was written, in the form that this program writes; None for any other."""
    try:
        sealed = json.loads(path.read_text(encoding="utf-8"))
        manifest: dict[str, Any] = sealed["manifest"]
        if sealed["digest"] != _digest(manifest) or manifest["form"] != FORM:
            return None
    except (OSError, ValueError, KeyError, TypeError):
        return None
    return manifest


def _digest(value: Any) -> str:
    text = json.dumps(value, sort_keys=True, default=str)
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


@contextmanager
def one_builder(folder: Path) -> Iterator[None]:
    """Only one process on this host builds at a time; the lock dies with its process."""
    (folder / "columns").mkdir(parents=True, exist_ok=True)
    with (folder / "build.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def build(engine: sa.Engine, folder: Path, wanted: Identified) -> dict[str, Any]:
    """The manifest of a version; its snapshot is written into `folder` unless it is there."""
    manifest = manifest_of(folder, wanted)
    if manifest is not None:
        return manifest
    with one_builder(folder):
        manifest = manifest_of(folder, wanted)
        if manifest is not None:
            return manifest
        if (folder / f"v{wanted.version}.json").exists():
            _note(engine, {"version": wanted.version, "what": "manifest"})
        return _write(engine, folder, wanted)


def mend(engine: sa.Engine, folder: Path, wanted: Identified, name: str) -> Seal:
    """Make a column again that is lost or is not what was written; noted in the audit."""
    with one_builder(folder):
        manifest = manifest_of(folder, wanted)
        seal = seals_of(manifest).get(name) if manifest else None
        if seal is not None and fits(folder, name, seal):
            return seal  # another process was here before
        (folder / "columns" / f"{name}.npy").unlink(missing_ok=True)
        _note(engine, {"version": wanted.version, "what": "column", "name": name})
        return seals_of(_write(engine, folder, wanted))[name]


def _write(engine: sa.Engine, folder: Path, wanted: Identified) -> dict[str, Any]:
    with engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection:
        made = _Builder(connection, folder, wanted)
        manifest = json.loads(json.dumps(made.manifest()))
    sealed = json.dumps({"digest": _digest(manifest), "manifest": manifest})
    temporary = folder / f".v{wanted.version}.json"
    with temporary.open("w", encoding="utf-8") as out:
        out.write(sealed)
        out.flush()
        os.fsync(out.fileno())
    os.replace(temporary, folder / f"v{wanted.version}.json")
    return dict(manifest)


def _note(engine: sa.Engine, detail: dict[str, Any]) -> None:
    with engine.begin() as connection:
        row = {"login": PROGRAM, "action": "mend_snapshot", "detail": detail}
        connection.execute(sa.insert(t.audit).values(**row))


def prune(folder: Path, kept: int, pinned: Iterable[int] = ()) -> None:
    """Remove all but the newest `kept` snapshots and the pinned ones, and the columns that none of
    those that stay names."""
    with one_builder(folder):
        manifests = sorted(folder.glob("v*.json"), key=lambda path: int(path.stem[1:]))
        held = {*(path.stem for path in manifests[-kept:]), *(f"v{number}" for number in pinned)}
        stay = [path for path in manifests if path.stem in held]
        for path in set(manifests) - set(stay):
            path.unlink()
        named = "".join(path.read_text(encoding="utf-8") for path in stay)
        for column in (folder / "columns").glob("*.npy"):
            if f'"{column.stem}"' not in named:
                column.unlink()


class _Builder:
    """Works through one version: students, rolls, measures."""

    def __init__(self, connection: sa.Connection, folder: Path, wanted: Identified) -> None:
        self.connection = connection
        self.folder = folder
        self.wanted = wanted
        self.version = wanted.version
        self.active = active_batches(self.version)
        query = sa.text(
            "SELECT batch.id, kind, academic_year, effective_date, covers, counts, "
            "source.name AS file, (SELECT version.identity::text FROM batch_event JOIN version "
            "ON version.id = version_id WHERE batch_id = batch.id ORDER BY batch_event.id LIMIT 1"
            ") AS brought_by FROM batch JOIN source ON source.id = source_id "
            f"WHERE batch.id IN ({self.active}) ORDER BY effective_date NULLS LAST, batch.id"
        )
        self.batches = list(connection.execute(query).mappings())
        self.brought_by = {b["id"]: b["brought_by"] for b in self.batches}
        self.rosters = [b for b in self.batches if b["kind"] == "roster"]
        self.ids = read_out(
            connection, "SELECT id FROM student ORDER BY id", np.dtype([("id", np.int32)])
        )["id"]
        self._who = hashlib.blake2b(self.ids.tobytes(), digest_size=8).hexdigest()
        self._known = self._sealed_before()
        self._seals: dict[str, Seal] = {}
        self._makers: dict[str, Callable[[], Array]] = {}
        self.columns = Columns(folder, self._seals, self._again)

    def _sealed_before(self) -> dict[str, Seal]:
        """What other manifests say of columns: such a file need not be written again."""
        out: dict[str, Seal] = {}
        for path in self.folder.glob("v*.json"):
            manifest = _whole(path)
            if manifest is not None:
                out |= seals_of(manifest)
        return out

    def manifest(self) -> dict[str, Any]:
        rosters = [b["id"] for b in self.rosters]
        tables = self._tables()
        names = ReferenceTables(tables).names
        roll = RollBuilder(self.connection, self.ids, self.rosters, names, self.column).build()
        made = MeasureBuilder(
            self.connection, self.ids, self.batches, self.active, tables, self.column, self.columns
        ).build()
        practice = Practice(ReferenceTables(tables).rows("practice"), made, self.columns)
        credit = CreditBuilder(
            self.connection, self.ids, self.batches, names, practice, self.column
        ).build()
        made["measure_files"] |= credit.pop("measure_files")
        return {
            "version": self.version,
            "identity": self.wanted.identity,
            "form": FORM,
            "students": len(self.ids),
            "today": max((str(b["effective_date"]) for b in self.rosters), default=None),
            "files": {str(b["id"]): b["file"] for b in self.batches},
            "student_ids": self.column("ids", [], [], lambda: self.ids),
            **self._names(rosters),
            **roll,
            **made,
            **credit,
            "tables": tables,
            "erased": erased_after(self.connection, self.version),
            "aliases": self._aliases(),
            "seals": {name: [s.length, s.digest] for name, s in self._seals.items()},
        }

    def _aliases(self) -> dict[str, int]:
        """What files wrote instead of a number → the student's id; the newest saying holds."""
        query = sa.text(
            f"SELECT text, student_id FROM alias WHERE batch_id IN ({self.active}) "
            "AND (revoked_version IS NULL OR revoked_version > :version) ORDER BY id"
        )
        return {row[0]: row[1] for row in self.connection.execute(query, {"version": self.version})}

    def _tables(self) -> dict[str, list[dict[str, Any]]]:
        """Rows of the active tables of reference, in the order in which they were kept."""
        query = sa.text(
            f"SELECT kind, batch_id, cells FROM table_row WHERE batch_id IN ({self.active}) "
            "ORDER BY batch_id, row"
        )
        out: dict[str, list[dict[str, Any]]] = {}
        for kind, batch_id, cells in self.connection.execute(query):
            out.setdefault(kind, []).append({**cells, "batch": batch_id})
        return out

    def column(
        self, what: str, batches: Sequence[int], made_from: list[Any], make: Callable[[], Array]
    ) -> str:
        """The name of a column made from batches and whatever else; it is written only if it is
        not there yet."""
        brought = [self.brought_by[batch] for batch in batches]
        origin = json.dumps([what, self._who, list(batches), brought, made_from], default=str)
        name = f"{what}-{hashlib.sha256(origin.encode()).hexdigest()[:16]}"
        self._makers[name] = make
        known, path = self._known.get(name), self.folder / "columns" / f"{name}.npy"
        if known is not None and path.exists() and path.stat().st_size == known.length:
            self._seals[name] = known
        else:
            self._seals[name] = self._again(name)
        return name

    def _again(self, name: str) -> Seal:
        return write_column(self.folder, name, self._makers[name]())

    def _numbers_digest(self) -> str:
        """Numbers are of no batch, and a restored record may give an id another number."""
        query = sa.text(
            "SELECT md5(coalesce(string_agg(number, E'\\n' ORDER BY id), '')) FROM student"
        )
        return str(self.connection.scalar(query))

    def _names(self, rosters: list[int]) -> dict[str, str]:
        def text(column: str, table: str, where: str) -> Callable[[], Array]:
            def make() -> Array:
                out = np.full(len(self.ids), "", dtype=object)
                query = sa.text(
                    f"SELECT {column}, {'id' if table == 'student' else 'student_id'} "
                    f"FROM {table} {where}"
                )
                rows = self.connection.execute(query).all()
                if rows:
                    at = np.searchsorted(self.ids, np.array([row[1] for row in rows]))
                    out[at] = [row[0] or "" for row in rows]
                return out.astype(str)

            return make

        def births() -> Array:
            out = np.full(len(self.ids), UNKNOWN_DAY, np.int32)
            query = sa.text(
                "SELECT birth_date - DATE '1970-01-01', student_id FROM student_detail "
                f"{latest.replace('ORDER', 'AND birth_date IS NOT NULL ORDER')}"
            )
            rows = np.array(self.connection.execute(query).all(), np.int64).reshape(-1, 2)
            out[np.searchsorted(self.ids, rows[:, 1])] = rows[:, 0]
            return out

        latest = (
            f"JOIN batch ON batch.id = batch_id WHERE batch_id IN ({self.active}) "
            "ORDER BY effective_date, batch_id"
        )
        return {
            "numbers": self.column(
                "numbers", [], [self._numbers_digest()], text("number", "student", "")
            ),
            "birth_days": self.column("births", rosters, [], births),
            "given_names": self.column(
                "given", rosters, [], text("given_name", "student_detail", latest)
            ),
            "family_names": self.column(
                "family", rosters, [], text("family_name", "student_detail", latest)
            ),
        }
