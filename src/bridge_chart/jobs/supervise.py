"""What keeps an instance up: starts the web server, a worker and PostgreSQL, looks at them, and
starts again what has fallen, each time after a longer pause.

`python -m bridge_chart.jobs.supervise --port PORT`, with the instance in BRIDGE_HOME.
"""

from __future__ import annotations

import contextlib
import logging
import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path

from bridge_chart.store.cluster import cluster_runs, start_cluster
from bridge_chart.store.parts import HOST, PID_FILE, State, write_state
from bridge_chart.store.settings import Settings, load_settings
from bridge_chart.terms.errors import BridgeError

log = logging.getLogger(__name__)
LONGEST_PAUSE = 30.0
STEADY = 60.0
"""Seconds after which a part that runs counts as well again."""
LOOK = 0.5
LOOK_AT_RECORD = 5.0
FIRST_START = 120.0


def pause_after(falls: int) -> float:
    """Seconds before a part is started again that fell so many times in a row.

    >>> [pause_after(n) for n in (1, 2, 3, 9)]
    [0.5, 1.0, 2.0, 30.0]
    """
    return min(0.5 * 2.0 ** (falls - 1), LONGEST_PAUSE)


@dataclass
class Part:
    """A process that should run. falls: how often in a row it ended by itself; again: when it is
    started once more."""

    name: str
    command: list[str]
    started: subprocess.Popen[bytes] | None = None
    since: float = 0.0
    falls: int = 0
    again: float = 0.0

    @property
    def up(self) -> bool:
        return self.started is not None and self.started.poll() is None

    def look(self, now: float) -> None:
        """Start it where it is time to, and note where it fell."""
        if self.up:
            if self.falls and now - self.since > STEADY:
                self.falls = 0
            return
        if self.started is not None:
            self.falls += 1
            self.again = now + pause_after(self.falls)
            log.warning("%s ended (%s); started again in %.1f s",
                        self.name, self.started.returncode, self.again - now)  # fmt: skip
            self.started = None
        if now >= self.again:
            self.started = subprocess.Popen(self.command, stdin=subprocess.DEVNULL)
            self.since = now

    def stop(self, seconds: float) -> None:
        """End it, gently first; work under way is taken up again at the next start."""
        if self.started is None:
            return
        self.started.terminate()
        try:
            self.started.wait(timeout=seconds)
        except subprocess.TimeoutExpired:
            self.started.kill()
            self.started.wait()


@dataclass
class Record:
    """The cluster, where it is ours."""

    settings: Settings
    falls: int = 0
    looked: float = 0.0
    again: float = 0.0
    up: bool = True

    def look(self, now: float) -> None:
        if not self.settings.cluster or now < self.looked + LOOK_AT_RECORD:
            return
        self.looked = now
        self.up = cluster_runs(self.settings)
        if self.up:
            self.falls = 0
        elif now >= self.again:
            self.falls += 1
            self.again = now + pause_after(self.falls)
            log.warning("PostgreSQL does not run; starting it")
            with contextlib.suppress(BridgeError):
                start_cluster(self.settings, log.warning)
                self.up = True


def web_command(settings: Settings, port: int) -> list[str]:
    return [
        sys.executable, "-m", "gunicorn", "--bind", f"{HOST}:{port}",
        "--config", "python:bridge_chart.jobs.beside",
        "--workers", str(settings.workers), "--threads", str(settings.threads),
        "--keep-alive", "30", "--preload", "--no-control-socket",
        "--timeout", "600", "--graceful-timeout", "20", "bridge_chart.api.app:make_app()",
    ]  # fmt: skip


def worker_command() -> list[str]:
    return [sys.executable, "-m", "bridge_chart.jobs.worker", "--beside", str(os.getpid())]


@dataclass
class Supervisor:
    """The parts of one instance, looked at until somebody ends it."""

    settings: Settings
    port: int
    ended: bool = False
    parts: list[Part] = field(default_factory=list)

    def run(self) -> int:
        """Until ended: 0; the web server's own code where it cannot start at all."""
        record = Record(self.settings)
        web = Part("the web server", web_command(self.settings, self.port))
        self.parts = [web, Part("the worker", worker_command())]
        answered, begun = False, time.monotonic()
        for now in self._looks():
            record.look(now)
            for part in self.parts:
                part.look(now)
            answered = answered or _listens(self.port)
            if not answered and web.falls and now - begun < FIRST_START:
                log.error("the web server cannot start")
                return 1
            write_state(
                self.settings.home,
                State(time.time(), record.up, web.up, self.parts[1].up,
                      sum(part.falls for part in self.parts) + record.falls),
            )  # fmt: skip
        return 0

    def end(self) -> None:
        self.ended = True

    def stop(self) -> None:
        """End all parts, the web server first: nobody asks what is not there."""
        for part in self.parts:
            part.stop(25)

    def _looks(self) -> Iterator[float]:
        while not self.ended:
            yield time.monotonic()
            time.sleep(LOOK)


def _listens(port: int) -> bool:
    with socket.socket() as probe:
        probe.settimeout(0.2)
        return probe.connect_ex((HOST, port)) == 0


def supervise(settings: Settings, port: int) -> int:
    """Keep an instance up until this process is ended; its own process id is in the home."""
    supervisor = Supervisor(settings, port)
    for one in (signal.SIGTERM, signal.SIGINT):
        signal.signal(one, _ends(supervisor.end))
    pid = Path(settings.home / PID_FILE)
    pid.write_text(str(os.getpid()))
    try:
        return supervisor.run()
    finally:
        supervisor.stop()
        pid.unlink(missing_ok=True)


def _ends(end: Callable[[], None]) -> Callable[[int, object], None]:
    return lambda *_: end()


def main() -> None:
    """`python -m bridge_chart.jobs.supervise --port PORT`."""
    os.umask(0o077)
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(message)s")
    port = int(sys.argv[sys.argv.index("--port") + 1])
    sys.exit(supervise(load_settings(), port))


if __name__ == "__main__":
    main()
