"""Large files: gone through by a worker, watched, taken back, taken up again after a death."""

from __future__ import annotations

import asyncio
import io
import os
import signal
import subprocess
import sys
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import pytest
import sqlalchemy as sa
from flask.testing import FlaskClient
from tests.support import Place, roster, signed_in

from bridge_chart.api import intake
from bridge_chart.intake.drafts import large, work
from bridge_chart.intake.drafts.work import Watched
from bridge_chart.jobs.worker import make_queue, run, take_up_again
from bridge_chart.terms.errors import BridgeError

ROSTER = roster([(f"{n:03d}", "Tarn", 7) for n in range(1, 31)])
MARKS = "Number,Test,Score,Date\n" + "".join(f"{n:03d},Quiz,{n},2026-05-01\n" for n in range(1, 31))


@pytest.fixture
def tarn(place: Place) -> Place:
    """An instance with thirty students, to which every file is a large one."""
    place.bring("roster", ROSTER, academic_year="2025-26")
    place.settings = replace(place.settings, large_file_kilobytes=0)
    place.settings.save()
    place.account("ailsa", "data_lead")
    place.account("rowan", "data_lead")
    return place


@pytest.fixture
def client(tarn: Place) -> Iterator[FlaskClient]:
    with signed_in(tarn) as client:
        yield client


def upload(client: FlaskClient, data: str | bytes, name: str = "quiz.csv") -> dict[str, Any]:
    raw = data if isinstance(data, bytes) else data.encode()
    form = {"kind": "results", "file": (io.BytesIO(raw), name)}
    return dict(client.post("/api/drafts", data=form).get_json())


def draft(client: FlaskClient, identity: str) -> dict[str, Any]:
    return dict(client.get(f"/api/drafts/{identity}").get_json())


def understood(place: Place, client: FlaskClient, data: str = MARKS) -> dict[str, Any]:
    """A large file that a worker has looked into."""
    waiting = upload(client, data)
    run(place.settings, until_empty=True)
    return draft(client, waiting["id"])


def begin_keep(client: FlaskClient, state: dict[str, Any]) -> dict[str, Any]:
    token = {"token": state["examination"]["token"]}
    answer = client.post(f"/api/drafts/{state['id']}/keep", json=token)
    assert answer.status_code == 202
    return dict(answer.get_json())


def watched(client: FlaskClient, piece: dict[str, Any]) -> dict[str, Any]:
    return dict(client.get(f"/api/work/{piece['id']}").get_json())


def batches(place: Place) -> object:
    return place.scalar("SELECT count(*) FROM batch")


def test_a_worker_understands_a_large_file_as_a_small_one_is_and_keeps_it(
    tarn: Place, client: FlaskClient
) -> None:
    waiting = upload(client, MARKS)
    assert waiting["examination"] is None
    assert (waiting["work"]["state"], waiting["work"]["doing"]) == ("waiting", "examine")
    assert waiting["work"]["left_seconds"] > 0
    listed = client.get("/api/drafts").get_json()["drafts"]
    assert listed[0]["work"]["id"] == waiting["work"]["id"]

    run(tarn.settings, until_empty=True)
    state = draft(client, waiting["id"])
    assert state["work"] is None
    alike = tarn.look("results", MARKS, "quiz.csv").examination
    assert state["examination"] == alike.model_dump(mode="json") | {
        "defaults": state["examination"]["defaults"],  # they say today's date
        "token": state["examination"]["token"],
        "creates": state["examination"]["creates"],
    }
    piece = begin_keep(client, state)
    run(tarn.settings, until_empty=True)
    done = watched(client, piece)
    assert (done["state"], done["kept"]) == ("done", {"batch_id": 2, "version": 2})
    assert client.get(f"/api/drafts/{state['id']}").status_code == 404
    assert tarn.ask({"what": [{"assessment": "Quiz"}]}).coverage[0].counted == 30


@pytest.mark.parametrize("end_before", [1, 2, 3])
def test_a_page_that_asks_while_the_work_ends_still_sees_its_end(
    tarn: Place, client: FlaskClient, monkeypatch: pytest.MonkeyPatch, end_before: int
) -> None:
    waiting = upload(client, MARKS)
    looks = []

    def late(module: Any, name: str) -> None:
        was = getattr(module, name)

        def look(*args: Any) -> Any:
            looks.append(name)
            if len(looks) == end_before:
                run(tarn.settings, until_empty=True)
            return was(*args)

        monkeypatch.setattr(module, name, look)

    late(intake, "work_on")
    late(intake.drafts, "open_draft")
    late(intake.drafts, "understood_of")
    state = draft(client, waiting["id"])
    assert len(looks) > end_before
    # Either it is under way still, and the page asks again, or what was understood is there.
    assert state["work"] is not None or state["examination"] is not None


def test_the_rows_of_a_finding_are_there_without_reading_the_file_again(
    tarn: Place, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    state = understood(tarn, client, MARKS + "999,Quiz,4,2026-05-01\n")
    monkeypatch.setattr("bridge_chart.intake.drafts.drafts.sheet_in", None)
    answer = client.get(f"/api/drafts/{state['id']}/rows?finding=no_student")
    assert answer.get_json() == {
        "headers": ["Number", "Test", "Score", "Date"],
        "rows": [{"row": 32, "cells": ["999", "Quiz", "4", "2026-05-01"]}],
    }
    assert client.get(f"/api/drafts/{state['id']}/rows?finding=none").status_code == 404


def test_what_is_said_is_examined_anew_and_refused_settings_change_nothing(
    tarn: Place, client: FlaskClient
) -> None:
    state = understood(tarn, client)
    path = f"/api/drafts/{state['id']}/settings"
    said = client.put(path, json={"test": "Ignored", "score": "percent"})
    assert said.status_code == 202
    again = client.put(path, json={"score": "scaled"})  # before the first was looked at
    run(tarn.settings, until_empty=True)
    now = draft(client, state["id"])
    assert now["settings"]["score"] == "scaled"
    assert [c["role"] for c in now["columns"]] == ["number", "test", "score:scaled", "date"]
    first = watched(client, said.get_json()["work"])
    assert first["state"] == "cancelled"
    assert watched(client, again.get_json()["work"])["state"] == "done"

    client.put(path, json={"columns": {"Nothing": "number"}})
    run(tarn.settings, until_empty=True)
    now = draft(client, state["id"])
    assert now["work"]["state"] == "failed"
    assert "“Nothing”" in now["work"]["error"]["message"]
    assert now["settings"]["score"] == "scaled"
    assert now["examination"]["rows_kept"] == 30


def test_waiting_work_can_be_taken_back_and_begun_again(tarn: Place, client: FlaskClient) -> None:
    state = understood(tarn, client)
    piece = begin_keep(client, state)
    refused = client.put(f"/api/drafts/{state['id']}/settings", json={"test": "Late"})
    assert refused.status_code == 409  # it is just being kept
    stopped = client.post(f"/api/work/{piece['id']}/stop").get_json()
    assert stopped["state"] == "cancelled"
    run(tarn.settings, until_empty=True)
    assert batches(tarn) == 1
    begin_keep(client, draft(client, state["id"]))
    run(tarn.settings, until_empty=True)
    assert batches(tarn) == 2
    late = client.post(f"/api/work/{piece['id'] + 1}/stop")
    assert late.status_code == 409
    assert late.get_json()["error"]["message"] == "The file is kept already."


@pytest.mark.parametrize("phase", ["read", "match", "wait", "write", "write_scores"])
def test_work_under_way_can_be_stopped_and_leaves_nothing(
    tarn: Place, client: FlaskClient, monkeypatch: pytest.MonkeyPatch, phase: str
) -> None:
    state = understood(tarn, client)
    piece = begin_keep(client, state)
    before = Watched.at

    def at(self: Watched, now: str) -> None:
        if now == phase:
            client.post(f"/api/work/{piece['id']}/stop")
        before(self, now)

    monkeypatch.setattr(Watched, "at", at)
    run(tarn.settings, until_empty=True)
    assert watched(client, piece)["state"] == "cancelled"
    assert batches(tarn) == 1
    assert tarn.scalar("SELECT count(*) FROM attempt") == 0
    assert draft(client, state["id"])["work"]["state"] == "cancelled"
    assert draft(client, state["id"])["examination"]["rows_kept"] == 30


def test_work_whose_worker_was_killed_is_taken_up_and_kept_once(
    tarn: Place, client: FlaskClient
) -> None:
    state = understood(tarn, client)
    piece = begin_keep(client, state)
    died = (
        "import os, signal\n"
        "from bridge_chart.intake.drafts.work import Watched\n"
        "from bridge_chart.jobs.worker import main\n"
        "before = Watched.at\n"
        "def at(self, phase):\n"
        "    before(self, phase)\n"
        "    if phase == 'write_scores': os.kill(os.getpid(), signal.SIGKILL)\n"
        "Watched.at = at\n"
        "main()\n"
    )
    home = {**os.environ, "BRIDGE_HOME": str(tarn.settings.home)}
    worker = subprocess.run([sys.executable, "-c", died], env=home, timeout=60, check=False)
    assert worker.returncode == -signal.SIGKILL
    assert batches(tarn) == 1
    under_way = watched(client, piece)
    assert (under_way["state"], under_way["phase"]) == ("running", "Writing scores")

    run(tarn.settings, until_empty=True)  # its heart may still beat
    assert watched(client, piece)["state"] == "running"
    with tarn.engine.begin() as connection:
        silent = "UPDATE queue.procrastinate_workers SET last_heartbeat = now() - interval '1 min'"
        connection.execute(sa.text(silent))

    async def take_up() -> None:
        queue = make_queue(tarn.settings, tarn.engine)
        async with queue.open_async():
            await take_up_again(queue)

    asyncio.run(take_up())
    run(tarn.settings, until_empty=True)
    assert watched(client, piece)["state"] == "done"
    assert batches(tarn) == 2


def test_what_was_kept_before_its_worker_died_is_not_kept_again(
    tarn: Place, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    state = understood(tarn, client)
    piece = begin_keep(client, state)
    monkeypatch.setattr("bridge_chart.intake.keep.keep._refresh", _dies)
    with pytest.raises(KeyboardInterrupt):
        large.go_through(tarn.engine, tarn.settings, piece["id"])
    monkeypatch.undo()
    assert watched(client, piece)["state"] == "running"
    large.go_through(tarn.engine, tarn.settings, piece["id"])
    assert watched(client, piece)["state"] == "done"
    assert batches(tarn) == 2


def _dies(*_: object) -> None:
    raise KeyboardInterrupt


def test_a_file_that_reads_differently_by_now_is_not_kept_but_shown_anew(
    tarn: Place, client: FlaskClient
) -> None:
    state = understood(tarn, client)
    assert {c["key"]: c["n"] for c in state["examination"]["counts"]}["new"] == 30
    tarn.bring("results", MARKS, "quiz.csv")
    piece = begin_keep(client, state)
    run(tarn.settings, until_empty=True)
    failed = watched(client, piece)
    assert (failed["state"], failed["error"]["code"]) == ("failed", "changed_meanwhile")
    now = draft(client, state["id"])
    assert {c["key"]: c["n"] for c in now["examination"]["counts"]}["same"] == 30
    begin_keep(client, now)
    run(tarn.settings, until_empty=True)
    assert batches(tarn) == 3


def test_every_table_of_a_large_archive_waits(tarn: Place, client: FlaskClient) -> None:
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        archive.writestr("8A.csv", MARKS)
        archive.writestr("8B.csv", MARKS.replace("Quiz", "Test"))
    waiting = upload(client, packed.getvalue(), "classes.zip")
    run(tarn.settings, until_empty=True)
    listed = client.get("/api/drafts").get_json()["drafts"]
    assert sorted(item["name"] for item in listed) == ["8A.csv", "8B.csv"]
    assert waiting["id"] in [item["id"] for item in listed]
    for item in listed:
        assert draft(client, item["id"])["examination"]["rows_kept"] == 30
    assert tarn.scalar("SELECT count(*) FROM source WHERE name = 'classes.zip'") == 0


def test_a_file_that_cannot_be_read_says_so_and_waits(tarn: Place, client: FlaskClient) -> None:
    waiting = upload(client, b"%PDF-1.7 nothing of a table", "marks.csv")
    run(tarn.settings, until_empty=True)
    state = draft(client, waiting["id"])
    assert state["work"]["error"]["message"].startswith("marks.csv is a PDF")
    assert client.delete(f"/api/drafts/{waiting['id']}").status_code == 200
    assert client.get("/api/drafts").get_json() == {"drafts": []}


def test_work_is_its_own_persons(tarn: Place, client: FlaskClient) -> None:
    piece = upload(client, MARKS)["work"]
    with signed_in(tarn, "rowan") as other:
        assert other.get(f"/api/work/{piece['id']}").status_code == 404
        assert other.post(f"/api/work/{piece['id']}/stop").status_code == 404
    assert watched(client, piece)["state"] == "waiting"


def test_work_of_somebody_who_may_no_longer_do_it_is_not_done(
    tarn: Place, client: FlaskClient
) -> None:
    state = understood(tarn, client)
    piece = begin_keep(client, state)
    tarn.account("ailsa", "school_lead", "Tarn")
    run(tarn.settings, until_empty=True)
    assert batches(tarn) == 1
    assert tarn.scalar(f"SELECT error->>'code' FROM work WHERE id = {piece['id']}") == "not_allowed"


def test_the_estimate_learns_from_the_last_file_of_its_kind(
    tarn: Place, client: FlaskClient
) -> None:
    understood(tarn, client)
    with tarn.engine.begin() as connection:
        took = """UPDATE work SET megabytes = 10, took = '{"read": 40, "match": 60}'"""
        connection.execute(sa.text(took))
    waiting = upload(client, MARKS)["work"]
    with tarn.engine.begin() as connection:
        connection.execute(sa.text(f"UPDATE work SET megabytes = 5 WHERE id = {waiting['id']}"))
    assert watched(client, waiting)["left_seconds"] == pytest.approx(50.0)
    with tarn.engine.begin() as connection:
        running = """UPDATE work SET state = 'running', phase = 'match', took = '{"read": 10}',
            phase_at = now() - interval '5 s' WHERE id = """
        connection.execute(sa.text(running + str(waiting["id"])))
    now = watched(client, waiting)  # reading went twice as fast as it should
    assert now["left_seconds"] == pytest.approx(10.0, abs=5)
    assert now["share"] == pytest.approx(15 / 25, abs=0.2)


def test_old_work_is_forgotten(tarn: Place, client: FlaskClient) -> None:
    understood(tarn, client)
    upload(client, MARKS)
    with tarn.engine.begin() as connection:
        connection.execute(sa.text("UPDATE work SET at = now() - interval '31 days'"))
    work.sweep(tarn.engine)
    assert tarn.scalar("SELECT string_agg(state, ',') FROM work") == "waiting"


def test_unforeseen_errors_are_told_as_ours(
    tarn: Place, client: FlaskClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    waiting = upload(client, MARKS)
    monkeypatch.setattr("bridge_chart.intake.drafts.large.understand_draft", _breaks)
    run(tarn.settings, until_empty=True)
    state = draft(client, waiting["id"])
    assert (
        state["work"]["error"]["message"]
        == BridgeError("Something went wrong on our side.").message
    )
    assert state["examination"] is None


def _breaks(*_: object, **__: object) -> None:
    raise RuntimeError("a bug")
