"""For gunicorn (`-c python:bridge_chart.jobs.beside`): the usual questions are worked out behind
the web server, while it answers already."""

from __future__ import annotations

import gc
import os
import threading
from typing import Any

from bridge_chart.answers.asking.warm import warm
from bridge_chart.intake.reading.apart import warm as warm_reader
from bridge_chart.jobs.worker import end_with
from bridge_chart.store.database import connect
from bridge_chart.store.settings import load_settings
from bridge_chart.store.snapshot_build import snapshot_of


def when_ready(_: Any) -> None:
    """The server ends with whoever keeps it up, also where that was killed."""
    threading.Thread(target=end_with, args=(os.getppid(),), name="end", daemon=True).start()


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
