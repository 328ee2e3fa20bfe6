"""Building the snapshot of a version from the record.

Column files are named by what they are made from (active batches and the number of students);
facts never change, so an existing file is right as it is, and a new version writes only what
changed. The manifest appears last and atomically.
"""

from __future__ import annotations

import fcntl
import hashlib
import json
import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.store.bulk import read_out
from bridge_chart.store.measure_build import MeasureBuilder
from bridge_chart.store.rolls import RollBuilder
from bridge_chart.store.snapshot import UNKNOWN_DAY, Snapshot
from bridge_chart.store.versions import active_batches, current_version

Array = NDArray[Any]
FORM = 2
"""The manifest's own form; one of another form is written anew."""
_loaded: dict[tuple[str, int], Snapshot] = {}


def snapshot_of(engine: sa.Engine, folder: Path, version: int | None = None) -> Snapshot:
    """The snapshot of `version` (None: the newest), built if it is not there."""
    if version is None:
        with engine.connect() as connection:
            version = current_version(connection)
    key = (str(folder), version)
    # Another process may have pruned what this one had loaded.
    path = folder / f"v{version}.json"
    if not path.exists() or (key not in _loaded and not _is_current(path)):
        build(engine, folder, version)
    if key not in _loaded:
        while len(_loaded) >= 4:
            _loaded.pop(next(iter(_loaded)))
        _loaded[key] = Snapshot(folder, version)
    return _loaded[key]


def _is_current(path: Path) -> bool:
    """Whether a manifest is there and in the form that this program writes."""
    return path.exists() and json.loads(path.read_text(encoding="utf-8")).get("form") == FORM


@contextmanager
def _one_builder(folder: Path) -> Iterator[None]:
    """Only one process on this host builds at a time; the lock dies with its process."""
    (folder / "columns").mkdir(parents=True, exist_ok=True)
    with (folder / "build.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def build(engine: sa.Engine, folder: Path, version: int) -> None:
    """Write the snapshot of `version` into `folder`; nothing happens if it is there."""
    with _one_builder(folder):
        if _is_current(folder / f"v{version}.json"):
            return
        with engine.connect().execution_options(isolation_level="REPEATABLE READ") as connection:
            manifest = _Builder(connection, folder, version).manifest()
        temporary = folder / f".v{version}.json"
        temporary.write_text(json.dumps(manifest), encoding="utf-8")
        os.replace(temporary, folder / f"v{version}.json")


def prune(folder: Path, kept: int) -> None:
    """Remove all but the newest `kept` snapshots, and the columns that none of them names."""
    with _one_builder(folder):
        manifests = sorted(folder.glob("v*.json"), key=lambda path: int(path.stem[1:]))
        for path in manifests[:-kept]:
            path.unlink()
        named = "".join(path.read_text(encoding="utf-8") for path in manifests[-kept:])
        for column in (folder / "columns").glob("*.npy"):
            if f'"{column.stem}"' not in named:
                column.unlink()


class _Builder:
    """Works through one version: students, rolls, measures."""

    def __init__(self, connection: sa.Connection, folder: Path, version: int) -> None:
        self.connection = connection
        self.folder = folder
        self.version = version
        self.active = active_batches(version)
        query = sa.text(
            "SELECT batch.id, kind, academic_year, effective_date, covers, counts, "
            "source.name AS file FROM batch JOIN source ON source.id = source_id "
            f"WHERE batch.id IN ({self.active}) ORDER BY effective_date NULLS LAST, batch.id"
        )
        self.batches = list(connection.execute(query).mappings())
        self.rosters = [b for b in self.batches if b["kind"] == "roster"]
        self.ids = read_out(
            connection, "SELECT id FROM student ORDER BY id", np.dtype([("id", np.int32)])
        )["id"]

    def manifest(self) -> dict[str, Any]:
        rosters = [b["id"] for b in self.rosters]
        roll = RollBuilder(self.connection, self.ids, self.rosters, self.column).build()
        tables = self._tables()
        made = MeasureBuilder(
            self.connection, self.ids, self.batches, self.active, tables, self.column, self.folder
        ).build()
        return {
            "version": self.version,
            "form": FORM,
            "students": len(self.ids),
            "today": max((str(b["effective_date"]) for b in self.rosters), default=None),
            "files": {str(b["id"]): b["file"] for b in self.batches},
            "student_ids": self.column("ids", [], lambda: self.ids),
            **self._names(rosters),
            **roll,
            **made,
            "tables": tables,
            "aliases": self._aliases(),
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

    def column(self, what: str, made_from: list[Any], make: Callable[[], Array]) -> str:
        """The name of a column file; it is written only if it is not there yet."""
        origin = json.dumps([what, len(self.ids), made_from], default=str)
        name = f"{what}-{hashlib.sha256(origin.encode()).hexdigest()[:16]}"
        path = self.folder / "columns" / f"{name}.npy"
        if not path.exists():
            temporary = path.with_name(f".{name}.{os.getpid()}")
            with temporary.open("wb") as out:
                np.save(out, np.ascontiguousarray(make()))
            os.replace(temporary, path)
        return name

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
            "numbers": self.column("numbers", [], text("number", "student", "")),
            "birth_days": self.column("births", rosters, births),
            "given_names": self.column(
                "given", rosters, text("given_name", "student_detail", latest)
            ),
            "family_names": self.column(
                "family", rosters, text("family_name", "student_detail", latest)
            ),
        }
