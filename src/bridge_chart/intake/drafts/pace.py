"""How long a piece of work will still take: from what its phases took the last time."""

from __future__ import annotations

from collections.abc import Mapping

EXPECTED = {
    "roster": {
        "read": 0.1, "understand": 0.05, "match": 0.3, "check": 0.15, "compare": 0.1, "wait": 0.0,
        "write": 0.35, "write_more": 0.3, "answerable": 0.5,
    },
    "results": {
        "read": 0.05, "understand": 0.01, "match": 0.06, "check": 0.03, "compare": 0.03,
        "wait": 0.0, "write": 0.05, "write_scores": 0.08, "answerable": 0.1,
    },
}  # fmt: skip
"""Seconds a megabyte of each phase, before this instance has any work of its own to go by."""
KEEPING = ("wait", "write", "write_scores", "write_more", "answerable")


def expected(
    kind: str, doing: str, megabytes: float, last: tuple[Mapping[str, float], float] | None
) -> dict[str, float]:
    """Seconds of each phase to come, in order. `last`: what the phases took the last time that
    such a file was worked on, and how many megabytes it had.

    >>> expected("results", "examine", 10, ({"read": 4.0, "match": 2.0}, 20))
    {'read': 2.0, 'match': 1.0}
    """
    usual = EXPECTED.get(kind, {"read": 0.1})
    took, of = last or (usual, 1.0)
    phases = [p for p in usual if doing == "keep" or p not in KEEPING]
    return {p: took[p] * megabytes / max(of, 0.01) for p in phases if p in took}


def left(
    plan: Mapping[str, float], took: Mapping[str, float], phase: str, seconds_in: float
) -> float:
    """Seconds left. Phases that are done say how fast this machine is today.

    >>> left({"read": 2.0, "match": 1.0, "check": 1.0}, {"read": 4.0}, "match", 1.0)
    3.0
    """
    done = sum(plan[p] for p in took if p in plan)
    pace = sum(took[p] for p in took if p in plan) / done if done > 0 else 1.0
    pace = min(max(pace, 0.2), 10.0)
    later = sum(seconds for p, seconds in plan.items() if p not in took and p != phase)
    # A phase that takes longer than it should is taken to be nearly over, never to be past it.
    here = max(plan.get(phase, 0.0) * pace - seconds_in, 0.1 * plan.get(phase, 0.0) * pace)
    return later * pace + here
