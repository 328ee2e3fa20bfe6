"""`serve` and `stop`: the web server, in front of the cluster."""

from __future__ import annotations

import contextlib
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request

import click

from bridge_chart.cli.accounts import tell_first_link
from bridge_chart.cli.instance import open_instance, say
from bridge_chart.store.cluster import free_port, stop_cluster
from bridge_chart.store.parts import HOST, PID_FILE
from bridge_chart.store.settings import Settings, load_settings
from bridge_chart.terms.errors import ClusterTrouble, InvalidQuestion

LOG_FILE = "server.log"
SUPERVISE = "bridge_chart.jobs.supervise"


def address_of(port: int) -> str:
    return f"http://{HOST}:{port}/"


def _command(port: int) -> list[str]:
    return [sys.executable, "-m", SUPERVISE, "--port", str(port)]


def _running(settings: Settings) -> tuple[int, int] | None:
    """Process id and port of this instance's server, if it runs."""
    try:
        pid = int((settings.home / PID_FILE).read_text())
        os.kill(pid, 0)
        command = (f"/proc/{pid}/cmdline",)
        with open(command[0], "rb") as handle:
            words = handle.read().decode().split("\0")
    except (OSError, ValueError):
        return None
    if SUPERVISE not in words or "--port" not in words:
        return None
    return pid, int(words[words.index("--port") + 1])


def _taken(port: int) -> bool:
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((HOST, port))
        except OSError:
            return True
        return False


def start_serving(settings: Settings, port: int | None) -> int:
    """Start the server in the background and wait until it answers; return its port."""
    running = _running(settings)
    if running:
        say("the server runs already")
        return running[1]
    if port is not None and _taken(port):
        raise InvalidQuestion(f"Port {port} is taken.", next_step="Give another with --port.")
    port = port or settings.port
    if _taken(port):
        other = free_port()
        say(f"port {port} is taken; serving on {other} instead")
        port = other
    say(f"serving on {address_of(port)}")
    log = settings.home / LOG_FILE
    with log.open("ab") as out:
        started = subprocess.Popen(
            _command(port), stdout=out, stderr=out, stdin=subprocess.DEVNULL,
            start_new_session=True, env={**os.environ, "BRIDGE_HOME": str(settings.home)},
        )  # fmt: skip
    for _ in range(900):
        if started.poll() is not None:
            raise ClusterTrouble("The web server stopped at once.", next_step=f"Read {log}.")
        with contextlib.suppress(urllib.error.URLError, OSError):
            urllib.request.urlopen(f"{address_of(port)}api/health", timeout=2)
            return port
        time.sleep(0.1)
    raise ClusterTrouble("The web server does not answer.", next_step=f"Read {log}.")


@click.command()
@click.option("--port", type=int, help="Where to serve; the settings' port if not given.")
def serve(port: int | None) -> None:
    """Serve this instance until interrupted."""
    settings, engine = open_instance()
    port = port or settings.port
    running = _running(settings)
    if running:
        raise InvalidQuestion(
            f"This instance is served already, at {address_of(running[1])}",
            next_step="Stop it first with ./bridge stop.",
        )
    if _taken(port):
        raise InvalidQuestion(f"Port {port} is taken.", next_step="Give another with --port.")
    tell_first_link(settings, engine, settings.public_address.rstrip("/") or address_of(port)[:-1])
    engine.dispose()
    say(f"serving on {address_of(port)}; stop with Ctrl-C")
    say("the usual questions are worked out behind; until then the first may take longer")
    os.environ["BRIDGE_HOME"] = str(settings.home)
    command = _command(port)
    os.execv(command[0], command)


@click.command()
def work() -> None:
    """Go through long work until interrupted. The web server has a worker beside it already; more
    of them, on any host, share the work."""
    settings, engine = open_instance()
    engine.dispose()
    os.environ["BRIDGE_HOME"] = str(settings.home)
    os.execv(sys.executable, [sys.executable, "-m", "bridge_chart.jobs.worker"])


@click.command()
def stop() -> None:
    """Stop this instance's web server and PostgreSQL."""
    settings = load_settings()
    running = _running(settings)
    if running:
        say("stopping the web server")
        os.kill(running[0], signal.SIGTERM)
        for _ in range(250):
            if _running(settings) is None:
                break
            time.sleep(0.1)
    stop_cluster(settings, say)
    say("stopped; what was kept stays in " + str(settings.home))
