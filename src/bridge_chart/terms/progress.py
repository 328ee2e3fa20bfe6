"""How far a long piece of work is: phases with words, and a way to stop between two of them."""

from __future__ import annotations

from typing import Protocol

from bridge_chart.terms.errors import BridgeError

PHASES = {
    "read": "Reading the file",
    "understand": "Understanding the columns",
    "match": "Matching students",
    "check": "Checking scores and doubles",
    "compare": "Comparing with what is kept",
    "wait": "Waiting for another file to be kept",
    "write": "Writing rows",
    "write_scores": "Writing scores",
    "write_more": "Writing classes and characteristics",
    "answerable": "Making it answerable",
}
"""Phases in the order in which they come; a kind of file has some of them."""


class Cancelled(BridgeError):
    """Somebody took the work back before it was done."""

    code = "cancelled"
    status = 409
    exit_code = 130


class Progress(Protocol):
    """Told of each phase as it begins, and in between that the work is alive. Both raise Cancelled
    where somebody took the work back."""

    def at(self, phase: str) -> None:
        """A phase begins."""

    def alive(self) -> None:
        """The phase goes on."""


class Unwatched:
    """Nobody looks on, and nobody can stop it."""

    def at(self, phase: str) -> None:
        """Nothing is noted."""

    def alive(self) -> None:
        """Nothing is asked."""


UNWATCHED = Unwatched()
