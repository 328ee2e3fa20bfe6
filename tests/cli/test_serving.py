"""Serving: in front, in the background, once; a taken port is told; stop ends what was started."""

from __future__ import annotations

import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from pathlib import Path

import pytest
from tests.cli.warm import command
from tests.support import Place

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.intake.drafts.drafts import unread_draft
from bridge_chart.intake.drafts.work import begin, work_of
from bridge_chart.store.cluster import free_port


def get(port: int, path: str) -> tuple[int, bytes]:
    with urllib.request.urlopen(f"http://127.0.0.1:{port}{path}", timeout=5) as response:
        return response.status, response.read()


def wait_for(port: int) -> None:
    for _ in range(1500):  # how long a start takes says something of the machine
        try:
            get(port, "/api/health")
        except OSError:
            time.sleep(0.1)
        else:
            return
    raise AssertionError("the server never answered")


@pytest.fixture
def served(place: Place) -> Iterator[tuple[Place, int, subprocess.Popen[bytes]]]:
    port = free_port()
    started = subprocess.Popen(
        [sys.executable, "-m", "bridge_chart.cli.main", "serve", "--port", str(port)],
        env={**os.environ, "BRIDGE_HOME": str(place.settings.home)},
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    try:
        wait_for(port)
        yield place, port, started
    finally:
        started.send_signal(signal.SIGTERM)
        started.wait(timeout=60)


def test_serve_gives_pages_and_interface(
    served: tuple[Place, int, subprocess.Popen[bytes]],
) -> None:
    place, port, _ = served
    status, page = get(port, "/")
    assert status == 200
    assert b'<div id="root">' in page
    assert get(port, "/compare?q=anything")[1] == page  # the page finds its own way
    document = json.loads(get(port, "/api/openapi.json")[1])
    assert document["info"]["title"] == "Bridge Chart"
    again = command(place.settings.home, "serve", "--port", str(free_port()))
    assert again.returncode == 65
    assert "is served already" in again.stderr


def test_a_taken_port_is_told(place: Place) -> None:
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        done = command(place.settings.home, "serve", "--port", str(port))
    assert done.returncode == 65
    assert f"Port {port} is taken" in done.stderr


def test_a_killed_server_is_no_running_server(
    served: tuple[Place, int, subprocess.Popen[bytes]],
) -> None:
    """A process id left behind by a crash must not be taken for a server."""
    place = served[0]
    pid_file = place.settings.home / "server.pid"
    held = pid_file.read_text()
    pid_file.write_text(str(os.getpid()))  # some other living process
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        done = command(place.settings.home, "serve", "--port", str(taken.getsockname()[1]))
    assert "is taken" in done.stderr
    pid_file.write_text(held)


def test_the_demo_starts_keeps_and_stops() -> None:
    parent = Path(tempfile.mkdtemp(prefix="bridge-demo-"))
    parent.chmod(0o755)
    home, port = parent / "home", free_port()
    try:
        first = command(home, "demo", "--port", str(port))
        assert first.returncode == 0, first.stderr
        assert f"Bridge Chart is at http://127.0.0.1:{port}/" in first.stdout
        assert "ailsa / island-ferries" in first.stdout
        assert get(port, "/api/health")[0] == 200
        command(home, "undo", "7")
        again = command(home, "demo", "--port", str(port))
        assert "what was kept is still there" in again.stderr
        assert "undone" in command(home, "history").stdout
        assert command(home, "stop").returncode == 0
        with pytest.raises(OSError, match="refused"):
            get(port, "/api/health")
    finally:
        command(home, "stop")
        shutil.rmtree(parent, ignore_errors=True)


def workers(place: Place) -> list[str]:
    """Processes that go through long work of this instance."""
    found = []
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            command_line = (folder / "cmdline").read_bytes().decode().split("\0")
            home = f"BRIDGE_HOME={place.settings.home}".encode()
            mine = home in (folder / "environ").read_bytes().split(b"\0")
        except OSError:
            continue
        if mine and "bridge_chart.jobs.worker" in command_line:
            found.append(folder.name)
    return found


def test_a_worker_runs_beside_the_server_and_ends_with_it(
    served: tuple[Place, int, subprocess.Popen[bytes]],
) -> None:
    place, _, started = served
    place.bring("roster", "Number,School\n01,Tarn\n02,Tarn\n", academic_year="2025-26")
    draft = unread_draft(
        place.engine, OPERATOR, "results", "quiz.csv", b"Number,Mark\n01,5\n02,6\n"
    )
    begun = begin(place.engine, place.settings, OPERATOR, draft, "examine", draft.settings)
    for _ in range(1500):  # how long a start takes says something of the machine
        now = work_of(place.engine, OPERATOR, begun.id)
        if not now.under_way:
            break
        time.sleep(0.1)
    assert now.state == "done"
    assert len(workers(place)) == 1
    started.send_signal(signal.SIGTERM)
    started.wait(timeout=30)
    assert workers(place) == []


def test_a_worker_whose_server_was_killed_ends_by_itself(
    served: tuple[Place, int, subprocess.Popen[bytes]],
) -> None:
    place, _, started = served
    for _ in range(100):
        if workers(place):
            break
        time.sleep(0.1)
    assert len(workers(place)) == 1
    started.kill()
    started.wait(timeout=30)
    for _ in range(150):
        if not workers(place):
            break
        time.sleep(0.1)
    assert workers(place) == []
