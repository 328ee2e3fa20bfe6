"""For gunicorn (`-c python:bridge_chart.jobs.beside`): a worker beside the web server."""

from __future__ import annotations

import os
import subprocess
import sys
from typing import Any

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
