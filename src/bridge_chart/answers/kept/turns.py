"""Turns: one answer is worked out at a time in a process, and who waits for one goes before what
is worked out around it.

Two sums that share a core would both come later. A long sum that nobody waits for first (the
split strip) gives way between its parts.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager


class Turns:
    """A lock with two kinds of holders: urgent ones go first, others may give way.

    >>> turns = Turns()
    >>> with turns.mine(urgent=True):
    ...     turns.give_way()
    """

    def __init__(self) -> None:
        self._changed = threading.Condition()
        self._owner: int | None = None
        self._urgent = 0

    @contextmanager
    def mine(self, *, urgent: bool) -> Iterator[None]:
        """Wait for a turn and hold it."""
        self._take(urgent)
        try:
            yield
        finally:
            self._leave()

    def give_way(self) -> None:
        """Let urgent ones go before the holder goes on; nothing happens where nobody waits, or
        where the caller holds no turn."""
        if self._urgent and self._owner == threading.get_ident():
            self._leave()
            self._take(urgent=False)

    def _take(self, urgent: bool) -> None:
        with self._changed:
            self._urgent += urgent
            while self._owner is not None or (not urgent and self._urgent):
                self._changed.wait()
            self._urgent -= urgent
            self._owner = threading.get_ident()

    def _leave(self) -> None:
        with self._changed:
            self._owner = None
            self._changed.notify_all()


TURNS = Turns()
"""The process's own."""
