"""How the parts of an instance are, as whoever keeps it up last saw them."""

from __future__ import annotations

import json
import os
import time
from dataclasses import asdict, dataclass
from pathlib import Path

HOST = "127.0.0.1"
PID_FILE = "server.pid"
"""Holds the process id of whoever keeps the instance up."""
FILE = "parts.json"
FRESH = 15.0
"""Seconds for which it is believed."""


@dataclass(frozen=True)
class State:
    """at: in seconds since 1970; falls: how often parts ended by themselves just now."""

    at: float
    record: bool
    web: bool
    worker: bool
    falls: int


def write_state(home: Path, state: State) -> None:
    """Whole or not at all, for others read it meanwhile."""
    made = home / f"{FILE}.new"
    made.write_text(json.dumps(asdict(state)))
    os.replace(made, home / FILE)


def read_state(home: Path) -> State | None:
    """None where nobody keeps the instance up, or has not said so for a while."""
    try:
        state = State(**json.loads((home / FILE).read_text()))
    except (OSError, ValueError, TypeError):
        return None
    return state if time.time() - state.at < FRESH else None
