"""Progress on the terminal: one line that is written over, on standard error."""

from __future__ import annotations

import sys
import time
from typing import TextIO

from bridge_chart.intake.drafts.pace import expected, left
from bridge_chart.store.settings import Settings
from bridge_chart.terms.progress import PHASES


class OnTerminal:
    """Says each phase of a large file with an estimate of what is left. Ctrl-C stops the work, and
    nothing of it stays."""

    def __init__(self, kind: str, megabytes: float, out: TextIO) -> None:
        self.plan = expected(kind, "keep", megabytes, None)
        self.out = out
        self.took: dict[str, float] = {}
        self.phase, self.since = "", time.monotonic()

    def at(self, phase: str) -> None:
        """A phase begins: its words, and how long it all still takes."""
        now = time.monotonic()
        if self.phase:
            self.took[self.phase] = now - self.since
        self.phase, self.since = phase, now
        seconds = left(self.plan, self.took, phase, 0.0)
        self.out.write(f"\r\033[K· {PHASES[phase]}, about {max(round(seconds), 1)} s left")
        self.out.flush()

    def alive(self) -> None:
        """Ctrl-C comes by itself."""

    def end(self) -> None:
        """Take the line away."""
        self.out.write("\r\033[K")
        self.out.flush()


def watch(settings: Settings, kind: str, size: int) -> OnTerminal | None:
    """Progress for a large file where somebody looks on; None else."""
    large = size > settings.large_file_kilobytes * 1024
    return OnTerminal(kind, size / 1e6, sys.stderr) if large and sys.stderr.isatty() else None
