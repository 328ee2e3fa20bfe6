"""For gunicorn (`-c python:bridge_chart.jobs.beside`): a worker beside the web server, and the
usual questions worked out behind it, while it answers already."""

from __future__ import annotations

import gc
import os
import subprocess
import sys
import threading
from typing import Any

from bridge_chart.answers.asking.warm import warm
from bridge_chart.intake.reading.apart import warm as warm_reader
from bridge_chart.store.database import connect
from bridge_chart.store.settings import load_settings
from bridge_chart.store.snapshot_build import snapshot_of

_started: list[subprocess.Popen[bytes]] = []


def when_ready(_: Any) -> None:
    """Start the worker when the server listens."""
    me = str(os.getpid())
    command = [sys.executable, "-m", "bridge_chart.jobs.worker", "--beside", me]
    _started.append(subprocess.Popen(command, stdin=subprocess.DEVNULL))


def on_exit(_: Any) -> None:
    """Stop it with the server; work under way is taken up again at the next start."""
    for worker in _started:
        worker.terminate()
        try:
            worker.wait(timeout=15)
        except subprocess.TimeoutExpired:
            worker.kill()


def post_worker_init(_: Any) -> None:
    """Each process of the web server warms itself when it answers already."""
    threading.Thread(target=_warm_up, name="warm", daemon=True).start()


def _warm_up() -> None:
    settings = load_settings()
    engine = connect(settings)
    warm_reader()
    warm(snapshot_of(engine, settings.snapshots))
    engine.dispose()
    # What is held now lives as long as the process: the collector need not walk it each time.
    gc.collect()
    gc.freeze()
