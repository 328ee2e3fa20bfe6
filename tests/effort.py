"""How much is tried: a sample in the usual run, everything with `./bridge test --long`."""

from __future__ import annotations

import os

LONG = bool(os.environ.get("BRIDGE_LONG"))


def examples(usual: int) -> int:
    """How many random examples: forty times the usual ones in the long run."""
    return 40 * usual if LONG else usual


def seeds(usual: int) -> range:
    """Seeds of simulations and attackers: ten times the usual ones in the long run."""
    return range(10 * usual if LONG else usual)
