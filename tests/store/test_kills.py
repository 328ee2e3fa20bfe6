"""Killed at a random moment, with everything below it: a backup, a restore, a migration, an
erasure, a file being kept. Whatever the moment, nothing is lost, doubled or half afterwards.

One kill of each kind in the usual run, at another moment each day; eight with `./bridge test
--long`.
"""

from __future__ import annotations

import datetime as dt
import os
import random
import shutil
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from tests.effort import LONG
from tests.support import Place, roster

from bridge_chart.cli.instance import make_instance
from bridge_chart.store.backup import make_backup, read_manifest
from bridge_chart.store.cluster import stop_cluster
from bridge_chart.store.database import connect, connect_owner, migrations
from bridge_chart.store.tables import metadata

KILLS = range(8 if LONG else 1)
TODAY = dt.date.today().toordinal()
STUDENTS = 1500
QUIZ = {"what": [{"assessment": "Quiz"}], "split": [{"field": "school"}], "show": "table"}
FACTS = ("batch", "version", "student", "enrolment", "attempt", "result", "student_detail")


@pytest.fixture
def filled(place: Place) -> Place:
    people = [(f"{n:05d}", ("Tarn", "Orme", "Skaw")[n % 3], 7) for n in range(STUDENTS)]
    place.bring("roster", roster(people), "roster.csv", academic_year="2025-26")
    place.bring("results", marks("Quiz"), "quiz.csv", date="2026-05-01")
    place.engine.dispose()
    return place


def marks(test: str) -> str:
    return "Number,Test,Score\n" + "".join(f"{n:05d},{test},{n % 50}\n" for n in range(STUDENTS))


def started(home: Path, *arguments: str) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [sys.executable, "-m", "bridge_chart.cli.main", *arguments],
        env={**os.environ, "BRIDGE_HOME": str(home)}, start_new_session=True,
        stdout=subprocess.DEVNULL, stderr=subprocess.PIPE,
    )  # fmt: skip


def killed(home: Path, kill: int, longest: float, *arguments: str) -> bool:
    """Start a command and kill it and all below it; whether it was still at work."""
    at = random.Random(f"{TODAY} {kill} {arguments[0]}").uniform(0.2, longest)
    process = started(home, *arguments)
    time.sleep(at)
    alive = process.poll() is None
    if alive:
        os.killpg(process.pid, signal.SIGKILL)
    process.communicate()
    return alive


def done(home: Path, *arguments: str) -> None:
    process = started(home, *arguments)
    _, said = process.communicate(timeout=300)
    assert process.returncode == 0, said.decode()


def counts(place: Place) -> dict[str, object]:
    return {name: place.scalar(f"SELECT count(*) FROM {name}") for name in FACTS}


def took(home: Path, *arguments: str) -> float:
    begun = time.monotonic()
    done(home, *arguments)
    return time.monotonic() - begun


@pytest.mark.parametrize("kill", KILLS)
def test_during_a_backup(filled: Place, tmp_path: Path, kill: int) -> None:
    home, before = filled.settings.home, counts(filled)
    longest = took(home, "backup", str(tmp_path / "whole.zip"))
    out = tmp_path / "killed.zip"
    killed(home, kill, longest, "backup", str(out))
    if out.exists():
        read_manifest(out)  # whole, or not there
    assert counts(filled) == before
    done(home, "backup", str(out))
    assert read_manifest(out).tables["result"].rows == before["result"]
    tried = "SELECT count(*) FROM pg_database WHERE datname LIKE 'bridge_try%'"
    assert filled.scalar(tried) == 0  # nor does what the dead one left stay
    assert {one.name for one in tmp_path.iterdir()} == {"whole.zip", "killed.zip"}


@pytest.fixture
def elsewhere(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Path]:
    home = tmp_path_factory.mktemp("elsewhere")
    home.parent.chmod(0o755)
    yield home
    with_settings = home / "settings.toml"
    if with_settings.exists():
        stop_cluster(make_instance(home), lambda _: None)
    shutil.rmtree(home, ignore_errors=True)


@pytest.mark.parametrize("kill", KILLS)
def test_during_a_restore(filled: Place, tmp_path: Path, elsewhere: Path, kill: int) -> None:
    file = tmp_path / "b.zip"
    make_backup(filled.settings, filled.engine, file)
    make_instance(elsewhere)  # its cluster is there already: the restore itself is killed
    killed(elsewhere, kill, 6.0, "restore", str(file))
    again = started(elsewhere, "restore", str(file))
    _, said = again.communicate(timeout=300)
    assert again.returncode == 0 or b"There is a record" in said, said.decode()
    settings = make_instance(elsewhere)
    done(elsewhere, "history")  # whatever the kill left out is brought up to date
    there = Place(make_instance(elsewhere), connect(settings))
    assert counts(there) == counts(filled)
    assert there.ask(QUIZ).body == filled.ask(QUIZ).body
    there.engine.dispose()


@pytest.mark.parametrize("kill", KILLS)
def test_during_a_migration(filled: Place, kill: int) -> None:
    before, owner = counts(filled), connect_owner(filled.settings)
    config = migrations()
    with owner.begin() as connection:
        config.attributes["connection"] = connection
        command.downgrade(config, "0013")
    killed(filled.settings.home, kill, 4.0, "history")
    done(filled.settings.home, "history")
    with owner.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), metadata) == []
    owner.dispose()
    assert counts(filled) == before
    assert filled.ask(QUIZ).coverage[0].counted == STUDENTS


@pytest.mark.parametrize("kill", KILLS)
def test_during_an_erasure(filled: Place, kill: int) -> None:
    home, before = filled.settings.home, counts(filled)
    erase = ("record", "erase", "00007", "--reference", "Letter 7", "--yes")
    killed(home, kill, 6.0, *erase)
    gone = filled.scalar("SELECT count(*) = 0 FROM student WHERE number = '00007'")
    if not gone:
        assert counts(filled) == before  # nothing of it has happened
        waiting = filled.scalar("SELECT count(*) FROM erasure WHERE state = 'waiting'")
        done(home, *(erase if not waiting else ("record", "carry-out")))
    else:
        done(home, "record", "carry-out")
    now = counts(filled)
    for name in ("student", "enrolment", "attempt", "result"):
        assert int(str(now[name])) == int(str(before[name])) - 1, name
    assert now["version"] == int(str(before["version"])) + 1
    assert filled.scalar("SELECT string_agg(state, ' ') FROM erasure") == "done"
    assert filled.ask(QUIZ).coverage[0].counted == STUDENTS - 1
    assert b"00007" not in b"".join(
        path.read_bytes() for path in filled.settings.snapshots.rglob("*") if path.is_file()
    )


@pytest.mark.parametrize("kill", KILLS)
def test_during_the_keeping_of_a_file(filled: Place, tmp_path: Path, kill: int) -> None:
    home, file = filled.settings.home, tmp_path / "more.csv"
    file.write_text(marks("More"))
    bring = ("import", "results", str(file), "--date", "2026-06-01")
    before = counts(filled)
    killed(home, kill, 8.0, *bring)
    kept = filled.scalar("SELECT count(*) FROM batch WHERE title LIKE '%More%'")
    if kept:
        assert int(str(counts(filled)["result"])) == int(str(before["result"])) + STUDENTS
    else:
        assert counts(filled) == before
        done(home, *bring)
    assert int(str(counts(filled)["result"])) == int(str(before["result"])) + STUDENTS
    asked = {**QUIZ, "what": [{"assessment": "More"}]}
    assert filled.ask(asked).coverage[0].counted == STUDENTS
