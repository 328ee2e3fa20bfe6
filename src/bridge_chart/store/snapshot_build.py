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
from bridge_chart.store.codes import SCORES, STATUSES
from bridge_chart.store.rolls import RollBuilder
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.versions import active_batches, current_version

Array = NDArray[Any]
_loaded: dict[tuple[str, int], Snapshot] = {}


def snapshot_of(engine: sa.Engine, folder: Path, version: int | None = None) -> Snapshot:
    """The snapshot of `version` (None: the newest), built if it is not there."""
    if version is None:
        with engine.connect() as connection:
            version = current_version(connection)
    key = (str(folder), version)
    # Another process may have pruned what this one had loaded.
    if not (folder / f"v{version}.json").exists():
        build(engine, folder, version)
    if key not in _loaded:
        while len(_loaded) >= 4:
            _loaded.pop(next(iter(_loaded)))
        _loaded[key] = Snapshot(folder, version)
    return _loaded[key]


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
        if (folder / f"v{version}.json").exists():
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
        measures, files = self._measures()
        return {
            "version": self.version,
            "students": len(self.ids),
            "today": max((str(b["effective_date"]) for b in self.rosters), default=None),
            "files": {str(b["id"]): b["file"] for b in self.batches},
            "student_ids": self.column("ids", [], lambda: self.ids),
            **self._names(rosters),
            **roll,
            "measures": measures,
            "measure_files": files,
        }

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

        latest = (
            f"JOIN batch ON batch.id = batch_id WHERE batch_id IN ({self.active}) "
            "ORDER BY effective_date, batch_id"
        )
        return {
            "numbers": self.column("numbers", [], text("number", "student", "")),
            "given_names": self.column(
                "given", rosters, text("given_name", "student_detail", latest)
            ),
            "family_names": self.column(
                "family", rosters, text("family_name", "student_detail", latest)
            ),
        }

    def _measures(self) -> tuple[list[dict[str, Any]], dict[str, dict[str, str]]]:
        touching: dict[int, list[int]] = {}
        for batch in sorted(self.batches, key=lambda b: b["id"]):
            for sitting_id in batch["counts"].get("sitting_ids", []):
                touching.setdefault(sitting_id, []).append(batch["id"])
        measures: list[dict[str, Any]] = []
        files: dict[str, dict[str, str]] = {}
        for sitting in self._sittings(list(touching)):
            sheet = _Sheet(self, sitting["id"], touching[sitting["id"]])
            shared = {
                "status": sheet.file("status"),
                "tested_year_level": sheet.file("tested_year_level"),
                "batch": sheet.file("batch_id"),
                "line": sheet.file("row"),
            }
            for code in self._scores(sitting["id"], touching[sitting["id"]]):
                key = f"{sitting['id']}.{SCORES[code]}"
                value = sheet.file("value", code)
                measures.append(self._described(sitting, code, key, value))
                files[key] = {"value": value, "order": sheet.file("order", code), **shared}
        return measures, files

    def _sittings(self, ids: list[int]) -> list[dict[str, Any]]:
        query = sa.text(
            "SELECT sitting.id, sitting.name, sitting.date, sitting.academic_year, "
            "assessment_id, assessment.name AS assessment, subject_id, subject.name AS subject, "
            f"(SELECT count(*) FROM set_aside WHERE sitting_id = sitting.id "
            f"AND batch_id IN ({self.active})) AS set_aside "
            "FROM sitting JOIN assessment ON assessment.id = assessment_id "
            "LEFT JOIN subject ON subject.id = subject_id WHERE sitting.id = ANY(:ids) "
            "ORDER BY sitting.date, assessment.name, subject.name, sitting.id"
        )
        return [dict(row) for row in self.connection.execute(query, {"ids": ids}).mappings()]

    def _scores(self, sitting_id: int, batches: list[int]) -> list[int]:
        kinds = [
            set(b["counts"]["scores"].get(str(sitting_id), []))
            for b in self.batches
            if b["id"] in batches
        ]
        return sorted(SCORES.index(kind) for kind in set().union(*kinds))

    def _described(
        self, sitting: dict[str, Any], code: int, key: str, value: str
    ) -> dict[str, Any]:
        steps = self.connection.execute(
            sa.text(
                "SELECT step.name FROM step JOIN scale ON scale.id = scale_id "
                "WHERE assessment_id = :assessment AND subject_id IS NOT DISTINCT FROM :subject "
                "AND score = :score ORDER BY position"
            ),
            {
                "assessment": sitting["assessment_id"],
                "subject": sitting["subject_id"],
                "score": SCORES[code],
            },
        ).scalars()
        values = np.load(self.folder / "columns" / f"{value}.npy", mmap_mode="r")
        held = values[~np.isnan(values)]
        subject = sitting["subject_id"] and {
            "id": sitting["subject_id"],
            "name": sitting["subject"],
        }
        return {
            "key": key,
            "assessment": {"id": sitting["assessment_id"], "name": sitting["assessment"]},
            "subject": subject if sitting["subject_id"] else None,
            "sitting": {"id": sitting["id"], "name": sitting["name"]},
            "date": str(sitting["date"]),
            "academic_year": sitting["academic_year"],
            "score": SCORES[code],
            "steps": list(steps),
            "decimals": next(
                (d for d in (0, 1, 2) if np.allclose(held, held.round(d), rtol=0, atol=1e-9)), 3
            ),
            "set_aside": sitting["set_aside"],
        }


ATTEMPT_COLUMNS: dict[str, tuple[int, Any]] = {
    "status": (0, np.int8),
    "tested_year_level": (-1, np.int8),
    "batch_id": (0, np.int32),
    "row": (0, np.int32),
}
"""What a student's latest attempt gives, and what stands where there is none."""


class _Sheet:
    """One sitting's facts, read once if any of its columns has to be written."""

    def __init__(self, builder: _Builder, sitting_id: int, batches: list[int]) -> None:
        self.builder = builder
        self.sitting_id = sitting_id
        self.batches = batches
        self._attempts: Array | None = None
        self._results: Array | None = None

    def file(self, what: str, code: int | None = None) -> str:
        made_from = [self.sitting_id, code, self.batches]
        return self.builder.column(
            f"{what}-{self.sitting_id}", made_from, lambda: self._make(what, code)
        )

    def _make(self, what: str, code: int | None) -> Array:
        count = len(self.builder.ids)
        if what in ATTEMPT_COLUMNS:
            attempts = self.attempts()
            nobody, kind = ATTEMPT_COLUMNS[what]
            out = np.full(count, nobody, kind)
            out[attempts["at"]] = attempts[what]
            return out
        assert code is not None
        values = self.values(code)
        if what == "value":
            return values
        order = np.argsort(values, kind="stable").astype(np.int32)
        return order[: int(np.count_nonzero(~np.isnan(values)))]

    def values(self, code: int) -> Array:
        """Later batches win; a later status without a score takes an earlier score away."""
        values = np.full(len(self.builder.ids), np.nan)
        attempts, results = self.attempts(), self.results()
        for batch_id in self.batches:
            unsat = attempts[
                (attempts["batch_id"] == batch_id) & (attempts["status"] != STATUSES.index("sat"))
            ]
            values[unsat["at"]] = np.nan
            given = results[(results["batch_id"] == batch_id) & (results["score"] == code)]
            stepped = given["position"] > 0
            values[given["at"]] = np.where(stepped, given["position"], given["value"])
        return values

    def attempts(self) -> Array:
        if self._attempts is None:
            self._attempts = self._read(
                "SELECT batch_id, row, student_id AS at, status, tested_year_level FROM attempt",
                [("batch_id", np.int32), ("row", np.int32), ("at", np.int32), ("status", np.int16),
                 ("tested_year_level", np.int16)],
            )  # fmt: skip
        return self._attempts

    def results(self) -> Array:
        if self._results is None:
            self._results = self._read(
                "SELECT batch_id, student_id AS at, score, value, "
                "COALESCE(position, 0) AS position "
                "FROM result LEFT JOIN step ON step.id = step_id AND step_id > 0",
                [("batch_id", np.int32), ("at", np.int32), ("score", np.int16),
                 ("value", np.float64), ("position", np.int32)],
            )  # fmt: skip
        return self._results

    def _read(self, select: str, fields: list[tuple[str, Any]]) -> Array:
        listed = ",".join(map(str, self.batches))
        rows = read_out(
            self.builder.connection,
            f"{select} WHERE sitting_id = {int(self.sitting_id)} AND batch_id IN ({listed})",
            np.dtype(fields),
        )
        rows = rows[np.argsort(rows["batch_id"], kind="stable")]
        rows["at"] = np.searchsorted(self.builder.ids, rows["at"])
        return rows
