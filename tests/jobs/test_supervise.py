"""What falls comes back: a part after its pauses, a whole instance whatever of it is killed."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import pytest
from tests.cli.warm import command

from bridge_chart.jobs.supervise import STEADY, Part, pause_after
from bridge_chart.store.cluster import free_port
from bridge_chart.store.parts import FRESH, State, read_state, write_state
from bridge_chart.store.settings import load_settings


def until(true: Callable[[], bool], seconds: float = 60) -> None:
    end = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < end, "it never came"
        time.sleep(0.1)


def falling() -> Part:
    return Part("a part", [sys.executable, "-c", "raise SystemExit(3)"])


def test_a_part_that_falls_is_started_again_after_longer_pauses() -> None:
    part, now = falling(), 1000.0
    pauses = []
    for _ in range(4):
        part.look(now)
        assert part.started is not None
        part.started.wait()
        part.look(now)
        assert part.started is None
        pauses.append(part.again - now)
        part.look(part.again - 0.01)  # not before
        assert part.started is None
        now = part.again
    assert pauses == [pause_after(n) for n in (1, 2, 3, 4)] == [0.5, 1.0, 2.0, 4.0]


def test_a_part_that_ran_well_falls_as_if_for_the_first_time() -> None:
    part = Part("a part", [sys.executable, "-c", "import time; time.sleep(60)"], falls=4)
    try:
        part.look(0.0)
        part.look(STEADY - 1)
        assert part.falls == 4
        part.look(STEADY + 1)
        assert part.falls == 0
    finally:
        part.stop(5)
    assert not part.up


def test_a_state_is_believed_while_it_is_fresh(tmp_path: Path) -> None:
    assert read_state(tmp_path) is None
    write_state(tmp_path, State(time.time(), True, True, False, 1))
    told = read_state(tmp_path)
    assert told is not None
    assert not told.worker
    write_state(tmp_path, State(time.time() - FRESH - 1, True, True, True, 0))
    assert read_state(tmp_path) is None
    (tmp_path / "parts.json").write_text("{")
    assert read_state(tmp_path) is None


@dataclass
class Instance:
    """One of our own, for its PostgreSQL is killed."""

    home: Path
    port: int

    def health(self) -> tuple[int, dict[str, Any]]:
        try:
            with urllib.request.urlopen(
                f"http://127.0.0.1:{self.port}/api/health", timeout=5
            ) as one:
                return one.status, json.loads(one.read())
        except urllib.error.HTTPError as error:
            return error.code, json.loads(error.read())
        except OSError:
            return 0, {}

    def well(self) -> bool:
        status, told = self.health()
        return status == 200 and told["parts"] == {"record": "up", "worker": "up"}

    def of(self, *words: str) -> list[int]:
        """Its processes with such words in their command, the first the oldest."""
        found = []
        for folder in Path("/proc").glob("[0-9]*"):
            try:
                line = (folder / "cmdline").read_bytes().decode().split("\0")
                mine = f"BRIDGE_HOME={self.home}".encode() in (folder / "environ").read_bytes()
            except OSError:
                continue
            if mine and set(words) <= set(line):
                found.append(int(folder.name))
        return sorted(found)

    @property
    def postmaster(self) -> int:
        cluster = Path(load_settings(self.home).cluster)
        return int((cluster / "postmaster.pid").read_text().split("\n")[0])


@pytest.fixture
def instance() -> Iterator[Instance]:
    parent = Path(tempfile.mkdtemp(prefix="bridge-kept-up-"))
    parent.chmod(0o755)
    one = Instance(parent / "home", free_port())
    assert command(one.home, "init").returncode == 0
    started = subprocess.Popen(
        [sys.executable, "-m", "bridge_chart.cli.main", "serve", "--port", str(one.port)],
        env={**os.environ, "BRIDGE_HOME": str(one.home)},
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    until(one.well)
    yield one
    started.send_signal(signal.SIGTERM)
    started.wait(timeout=60)
    command(one.home, "stop")
    shutil.rmtree(parent, ignore_errors=True)


def test_whatever_is_killed_comes_back(instance: Instance) -> None:
    (worker,) = instance.of("bridge_chart.jobs.worker")
    os.kill(worker, signal.SIGKILL)
    until(lambda: instance.of("bridge_chart.jobs.worker") not in ([], [worker]))
    until(instance.well)

    web = instance.of("gunicorn")[0]
    os.kill(web, signal.SIGKILL)
    until(lambda: instance.health()[0] == 0)
    until(instance.well)
    assert web not in instance.of("gunicorn")

    postmaster = instance.postmaster
    os.kill(postmaster, signal.SIGKILL)
    until(lambda: instance.health()[0] == 503)
    assert instance.health()[1]["parts"]["record"] == "down"
    asked = urllib.request.Request(
        f"http://127.0.0.1:{instance.port}/api/session", method="POST",
        data=b'{"login": "x", "password": "y"}', headers={"Content-Type": "application/json"},
    )  # fmt: skip
    with pytest.raises(urllib.error.HTTPError) as refused:
        urllib.request.urlopen(asked, timeout=5)
    assert refused.value.code == 503
    assert json.loads(refused.value.read())["error"]["code"] == "record_away"
    until(instance.well)
    assert instance.postmaster != postmaster
