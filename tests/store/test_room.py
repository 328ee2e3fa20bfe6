"""A disk that fills: said before, nothing half kept, and all goes on once there is room."""

from __future__ import annotations

import errno
import io
from collections import namedtuple
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import psycopg
import pytest
import sqlalchemy as sa
from tests.support import PASSWORD, Place, roster, serving

from bridge_chart.cli import main as cli
from bridge_chart.intake.keep import keep
from bridge_chart.store import room
from bridge_chart.store.database import connect_owner
from bridge_chart.terms.errors import NoRoom

Usage = namedtuple("Usage", "total used free")
MARKS = "Number,Test,Score\n1,Quiz,5\n2,Quiz,7\n"
QUIZ = {"what": [{"assessment": "Quiz"}]}


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", roster([("1", "Tarn", 7), ("2", "Tarn", 7)]), academic_year="2025-26")
    place.account("ailsa", "data_lead")
    return place


def left(monkeypatch: pytest.MonkeyPatch, megabytes: int) -> None:
    monkeypatch.setattr(room.shutil, "disk_usage", lambda _: Usage(0, 0, megabytes * 1_000_000))


@contextmanager
def full_record(place: Place) -> Iterator[None]:
    """PostgreSQL that finds its disk full as it writes results, in its own words."""
    owner = connect_owner(place.settings)
    with owner.begin() as connection:
        connection.execute(sa.text(
            "CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN "
            "RAISE EXCEPTION 'could not extend file: No space left on device' "
            "USING ERRCODE = '53100'; END $$"
        ))  # fmt: skip
        connection.execute(sa.text(
            "CREATE TRIGGER full_disk BEFORE INSERT ON result EXECUTE FUNCTION full_disk()"
        ))  # fmt: skip
    yield
    with owner.begin() as connection:
        connection.execute(sa.text("DROP FUNCTION full_disk CASCADE"))
    owner.dispose()


def test_little_room_is_said_before_and_nothing_is_begun(
    tarn: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    with serving(tarn) as app:
        client = app.test_client()
        client.post("/api/session", json={"login": "ailsa", "password": PASSWORD})
        left(monkeypatch, 900)
        assert client.get("/api/room").get_json() == {"free_megabytes": 900, "low": True}
        assert client.get("/api/health").get_json()["disk_is_low"]
        tarn.bring("results", MARKS)  # it is low, and there is room for this
        left(monkeypatch, 200)
        file = {"kind": "results", "file": (io.BytesIO(MARKS.encode()), "more.csv")}
        refused = client.post("/api/drafts", data=file)
        assert refused.status_code == 507
        told = refused.get_json()["error"]
        assert told["code"] == "no_room"
        assert "200 MB left" in told["message"]
        assert "is safe" in told["kept"]
        with pytest.raises(NoRoom):
            tarn.bring("results", MARKS.replace("Quiz", "Other"))
        assert client.post("/api/answers", json=QUIZ).status_code == 200  # reading goes on
        left(monkeypatch, 5_000)
        tarn.bring("results", MARKS.replace("Quiz", "Other"))


def test_a_disk_that_fills_while_keeping_leaves_nothing_half(tarn: Place) -> None:
    tables = ("batch", "version", "attempt", "result", "assessment", "source")
    counts = {name: tarn.scalar(f"SELECT count(*) FROM {name}") for name in tables}
    with full_record(tarn), pytest.raises(psycopg.errors.DiskFull) as caught:
        tarn.bring("results", MARKS)
    assert room.as_no_room(caught.value) is not None
    counts["source"] = tarn.scalar("SELECT count(*) FROM source")  # the file as it came waits
    assert counts == {name: tarn.scalar(f"SELECT count(*) FROM {name}") for name in tables}
    tarn.bring("results", MARKS)
    assert tarn.ask(QUIZ).coverage[0].counted == 2


def test_the_interface_says_that_the_disk_is_full(tarn: Place) -> None:
    with serving(tarn) as app, full_record(tarn):
        client = app.test_client()
        client.post("/api/session", json={"login": "ailsa", "password": PASSWORD})
        data = io.BytesIO(MARKS.encode())
        made = client.post("/api/drafts", data={"kind": "results", "file": (data, "m.csv")})
        draft = made.get_json()
        path = f"/api/drafts/{draft['id']}"
        client.put(f"{path}/settings", json={**draft["settings"], "date": "2026-05-01"})
        token = client.get(path).get_json()["examination"]["token"]
        answer = client.post(f"{path}/keep", json={"token": token})
        assert answer.status_code == 507
        assert answer.get_json()["error"]["message"] == "The disk is full."
        assert client.get(path).status_code == 200  # the draft still waits


def test_what_was_kept_stays_where_its_snapshot_finds_no_room(
    tarn: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = keep.snapshot_of

    def full(engine: Any, folder: Any, version: Any = None) -> Any:
        if version == 2:
            raise OSError(errno.ENOSPC, "No space left on device")
        return real(engine, folder, version)

    monkeypatch.setattr(keep, "snapshot_of", full)
    tarn.bring("results", MARKS)
    monkeypatch.undo()
    assert tarn.ask(QUIZ).coverage[0].counted == 2


def test_the_command_line_says_it_in_one_line(
    tarn: Place, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    def full() -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("bridge_chart.cli.audit.open_instance", full)
    with pytest.raises(SystemExit) as ended:
        cli.main(["audit"])
    assert ended.value.code == 74
    assert capsys.readouterr().err.startswith("bridge: The disk is full.")
