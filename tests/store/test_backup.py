"""Backups: of one moment, tried by restoring them beside, never half; and what is no backup."""

from __future__ import annotations

import json
import zipfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from tests.support import PASSWORD, Place, roster

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.sessions import sign_in
from bridge_chart.access.tokens import NewToken, make_token
from bridge_chart.answers.asking.ask import answer, read_question
from bridge_chart.answers.beside import backups
from bridge_chart.store import backup
from bridge_chart.store.backup import make_backup, read_manifest, restored_beside
from bridge_chart.store.database import connect, connect_owner, migrate
from bridge_chart.terms.errors import BackupTrouble, RecordTooNew, UnreadableFile

ASKED = {"what": [{"assessment": "Quiz"}], "split": [{"field": "school"}], "show": "table"}


@pytest.fixture
def tarn(place: Place) -> Place:
    people = [(f"{n:03d}", "Tarn" if n < 13 else "Orme", 7) for n in range(1, 25)]
    place.bring("roster", roster(people), academic_year="2025-26")
    marks = "Number,Score\n" + "".join(f"{n:03d},{n}\n" for n in range(1, 25))
    place.bring("results", marks, test="Quiz", date="2026-05-01")
    place.account("ailsa", "data_lead")
    return place


def rewritten(path: Path, change: Callable[[dict[str, Any]], None]) -> None:
    """The same backup with another manifest."""
    with zipfile.ZipFile(path) as archive:
        told, dump = json.loads(archive.read(backup.MANIFEST)), archive.read(backup.DUMP)
    change(told)
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr(backup.MANIFEST, json.dumps(told))
        archive.writestr(backup.DUMP, dump)


def databases(place: Place) -> object:
    return place.scalar("SELECT count(*) FROM pg_database WHERE datname LIKE 'bridge_try%'")


def test_a_backup_is_tried_and_answers_as_the_record_does(tarn: Place, tmp_path: Path) -> None:
    made = backups.back_up(tarn.engine, tarn.settings, tmp_path / "b.zip")
    assert made.tried is not None
    assert made.trouble is None
    assert made.version == 2
    listed = backups.list_backups(tarn.engine, tarn.settings, OPERATOR)
    assert (len(listed.backups), listed.last_good) == (1, made.at)
    with restored_beside(tarn.settings, tarn.engine, tmp_path / "b.zip") as beside:
        engine = connect(beside)
        found = answer(engine, beside, OPERATOR, read_question(ASKED))
        engine.dispose()
    assert found.body == tarn.ask(ASKED).body
    assert databases(tarn) == 0


def test_what_is_kept_meanwhile_is_whole_in_it_or_not_at_all(
    tarn: Place, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = backup._run

    def late(settings: Any, url: str, program: str, *arguments: str) -> None:
        if program == "pg_dump":  # after the digests were taken
            tarn.bring("results", "Number,Score\n001,99\n", "more.csv", test="Later",
                       date="2026-05-02")  # fmt: skip
        real(settings, url, program, *arguments)

    monkeypatch.setattr(backup, "_run", late)
    made = backups.back_up(tarn.engine, tarn.settings, tmp_path / "b.zip")
    assert (made.version, tarn.snapshot.version) == (2, 3)
    assert made.trouble is None


def test_sessions_links_and_tries_stay_out(tarn: Place, tmp_path: Path) -> None:
    sign_in(tarn.engine, "ailsa", PASSWORD, "127.0.0.1")
    said = NewToken(name="sheet", may=["ask"], days=9)
    make_token(tarn.engine, actor_named(tarn.engine, "ailsa"), said)
    make_backup(tarn.settings, tarn.engine, tmp_path / "b.zip")
    with restored_beside(tarn.settings, tarn.engine, tmp_path / "b.zip") as beside:
        engine = connect(beside)
        with engine.connect() as connection:
            for table, n in (("session", 0), ("one_time_link", 0), ("sign_in_try", 0),
                             ("api_token", 0), ("account", 1)):  # fmt: skip
                assert connection.scalar(sa.text(f"SELECT count(*) FROM {table}")) == n
        engine.dispose()


@pytest.mark.parametrize("what", ["a row", "a table"])
def test_a_backup_that_is_not_what_it_says_is_told(tarn: Place, tmp_path: Path, what: str) -> None:
    path = tmp_path / "b.zip"
    make_backup(tarn.settings, tarn.engine, path)

    def change(told: dict[str, Any]) -> None:
        if what == "a row":
            told["tables"]["result"]["digest"] = "1"
        else:
            told["tables"]["nothing"] = {"rows": 0, "digest": "0"}

    rewritten(path, change)
    with (
        pytest.raises(BackupTrouble, match="differs in"),
        restored_beside(tarn.settings, tarn.engine, path),
    ):
        pass
    assert databases(tarn) == 0


def test_an_answer_that_differs_is_told_and_stays_listed(
    tarn: Place, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = backups.answer

    def other(engine: Any, settings: Any, *rest: Any) -> Any:
        told = real(engine, settings, *rest)
        beside = settings.home != tarn.settings.home
        return told.model_copy(update={"coverage": []}) if beside else told

    monkeypatch.setattr(backups, "answer", other)
    with pytest.raises(BackupTrouble, match="answered otherwise"):
        backups.back_up(tarn.engine, tarn.settings, tmp_path / "b.zip")
    listed = backups.list_backups(tarn.engine, tarn.settings, OPERATOR)
    assert listed.last_good is None
    assert "answered otherwise" in (listed.backups[0].trouble or "")


def test_what_is_no_backup_of_ours_is_refused(tarn: Place, tmp_path: Path) -> None:
    path = tmp_path / "b.zip"
    make_backup(tarn.settings, tarn.engine, path)
    whole = path.read_bytes()
    for wrong in (b"", b"PK", whole[: len(whole) // 2], whole.replace(b"PGDMP", b"XXDMP", 1)):
        path.write_bytes(wrong)
        with pytest.raises(UnreadableFile, match="no whole backup"):
            read_manifest(path)
    path.write_bytes(whole)
    rewritten(path, lambda told: told.update(revision="9999"))
    with pytest.raises(BackupTrouble, match="newer program"):
        read_manifest(path)


def test_a_backup_that_fails_leaves_the_last_one(
    tarn: Place, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "b.zip"
    make_backup(tarn.settings, tarn.engine, path)
    whole = path.read_bytes()

    def full(*_: object, **__: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(backup.os, "fsync", full)
    with pytest.raises(BackupTrouble, match="No space left"):
        make_backup(tarn.settings, tarn.engine, path)
    assert path.read_bytes() == whole
    assert [one.name for one in tmp_path.iterdir()] == ["b.zip"]


def test_the_days_backup_is_written_once_and_old_ones_go(tarn: Place, tmp_path: Path) -> None:
    assert backups.back_up_if_due(tarn.engine, tarn.settings) is None
    folder = tmp_path / "backups"
    folder.mkdir()
    mine = folder / "holiday.zip"
    mine.touch()
    for n in range(3):
        (folder / f"bridge-chart-2026-01-0{n + 1}-020000.zip").touch()
    settings = replace(tarn.settings, backup_folder=str(folder), backups_kept=2)
    made = backups.back_up_if_due(tarn.engine, settings)
    assert made is not None
    assert {one.name for one in folder.iterdir()} == {
        "holiday.zip", "bridge-chart-2026-01-03-020000.zip", made.name,
    }  # fmt: skip
    assert backups.back_up_if_due(tarn.engine, settings) is None


def test_an_older_program_refuses_a_newer_record(tarn: Place) -> None:
    owner = connect_owner(tarn.settings)
    with owner.begin() as connection:
        connection.execute(sa.text("UPDATE alembic_version SET version_num = '9999'"))
    with pytest.raises(RecordTooNew, match="newer program"):
        migrate(owner)
    owner.dispose()
