"""The record: migrations give the declared tables; bulk in and out lose nothing."""

from __future__ import annotations

import json

import numpy as np
import pytest
import sqlalchemy as sa
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from tests.support import Place, roster

from bridge_chart.store import snapshot_build
from bridge_chart.store.bulk import copy_in, days, read_out
from bridge_chart.store.database import connect_owner, migrate
from bridge_chart.store.snapshot_build import prune
from bridge_chart.store.use_tables import metadata

FIELDS = [("a", np.int16), ("b", np.int32), ("c", np.int64), ("d", np.float64)]


def test_the_migrations_give_the_declared_tables(place: Place) -> None:
    with place.engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), metadata) == []
    migrate(place.engine)  # again: nothing happens


def test_rows_go_in_and_come_out_as_they_were(place: Place) -> None:
    rows = np.zeros(70_000, np.dtype(FIELDS))
    rows["a"] = np.arange(70_000) % 30_000 - 15_000
    rows["b"] = -np.arange(70_000)
    rows["c"] = np.arange(70_000) * 10**12
    rows["d"] = np.linspace(-1e300, 1e300, 70_000)
    rows["d"][5] = np.nan
    owner = connect_owner(place.settings)
    with owner.begin() as connection:
        connection.execute(sa.text("CREATE TABLE t (a int2, b int4, c int8, d float8)"))
        copy_in(connection, "t", rows)
        back = read_out(connection, "SELECT a, b, c, d FROM t", rows.dtype)
        none = read_out(connection, "SELECT a FROM t WHERE a > 30000", np.dtype([("a", np.int16)]))
        with pytest.raises(ValueError, match="nulls or another width"):
            read_out(connection, "SELECT b AS a FROM t", np.dtype([("a", np.int16)]))
        with pytest.raises(ValueError, match="nulls"):
            read_out(connection, "SELECT NULL::int2 AS a FROM t", np.dtype([("a", np.int16)]))
    owner.dispose()
    for name, _ in FIELDS:
        np.testing.assert_array_equal(back[name], rows[name])
    assert len(none) == 0


def test_days_are_those_of_postgresql() -> None:
    dates = np.array(["2000-01-01", "2026-05-12", "1999-12-31"], "datetime64[D]")
    assert days(dates).tolist() == [0, 9628, -1]


def test_old_snapshots_are_pruned_and_built_again_when_asked_for(place: Place) -> None:
    for level in range(3, 9):
        place.bring("roster", roster([("1", "Tarn", level)]), academic_year="2025-26",
                    as_of=f"2025-09-{level:02d}")  # fmt: skip
    place.bring("results", "Number,Test,Score\n1,Quiz,5\n")
    folder = place.settings.snapshots
    assert len(list(folder.glob("v*.json"))) == place.settings.snapshots_kept
    prune(folder, 1)
    columns = len(list((folder / "columns").glob("*.npy")))
    assert place.ask({"what": [{"assessment": "Quiz"}], "version": 7}).coverage[0].counted == 1
    assert len(list(folder.glob("v*.json"))) == 1
    assert len(list((folder / "columns").glob("*.npy"))) == columns


def test_what_another_process_pruned_is_built_again(place: Place) -> None:
    place.bring("roster", roster([("1", "Tarn", 8)]), academic_year="2025-26")
    place.bring("results", "Number,Test,Score\n1,Quiz,5\n")
    place.bring("results", "Number,Test,Score\n1,Quiz,6\n")
    folder = place.settings.snapshots
    question = {"what": [{"assessment": "Quiz"}], "version": 2}
    prune(folder, 1)  # version 2 was loaded here, but no column of it has been read yet
    assert not (folder / "v2.json").exists()
    shown = place.ask({**question, "show": "students"}).body.columns
    assert next(c.values for c in shown if c.key == "score") == [5.0]
    assert place.ask({**question, "version": None}).resolved.version == 3


def test_a_snapshot_of_an_older_form_is_written_anew(place: Place) -> None:
    """An instance that was kept by an earlier program opens with this one."""
    place.bring("roster", "No,School\n001,Tarn\n", academic_year="2025-26")
    path = place.settings.snapshots / f"v{place.snapshot.version}.json"
    old = json.loads(path.read_text(encoding="utf-8"))["manifest"]
    for key in ("form", "aliases", "birth_days"):
        del old[key]
    path.write_text(json.dumps(old), encoding="utf-8")
    snapshot_build._loaded.clear()
    assert place.snapshot.aliases == {}
    assert len(place.snapshot.birth_days) == 1
