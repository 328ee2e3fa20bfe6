"""Room on the disk: asked for before anything is kept, and said plainly where it ran out."""

from __future__ import annotations

import errno
import shutil
from pathlib import Path

import psycopg
import sqlalchemy as sa

from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import NoRoom

LEAST = 300
"""Megabytes below which nothing more is kept: PostgreSQL and the snapshots need some to go on."""
LITTLE = 1_000
"""Megabytes below which it is said."""
SAFE = "What was kept before is safe."


def free_megabytes(settings: Settings) -> int:
    """What is free on the disk of the home or of the cluster, whichever is less."""
    places = [settings.home, *([Path(settings.cluster)] if settings.cluster else [])]
    return min(shutil.disk_usage(place).free for place in places) // 1_000_000


def require_room(settings: Settings) -> None:
    """NoRoom where so little is left that nothing more should be kept."""
    free = free_megabytes(settings)
    if free < LEAST:
        raise NoRoom(
            f"The disk has {free} MB left; nothing is kept below {LEAST}.", kept=SAFE,
            next_step="Whoever runs this instance makes room; then try again.",
        )  # fmt: skip


def as_no_room(error: BaseException) -> NoRoom | None:
    """What an error says plainly if it is that the disk is full; None for any other.

    >>> as_no_room(OSError(errno.ENOSPC, "full")).code, as_no_room(OSError(errno.EIO, "broken"))
    ('no_room', None)
    """
    of_record = error.orig if isinstance(error, sa.exc.DBAPIError) else error
    if isinstance(of_record, psycopg.errors.DiskFull) or (
        isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT)
    ):
        return NoRoom(
            "The disk is full.", kept=SAFE,
            next_step="Whoever runs this instance makes room; then try again.",
        )  # fmt: skip
    return None
