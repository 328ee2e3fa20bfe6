"""Vintages: of which version a fit is that a narrower role is shown.

A line before and after one result elsewhere is brought in or corrected gives that result to whoever
takes them from each other. So a fit is that of the version asked, unless fewer than FEWEST
students of some year level changed since the last one that was shown: then it stays that one.
Whether they did is worked out once for each version that touched a sitting, and kept.
"""

from __future__ import annotations

from pathlib import Path

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert

from bridge_chart.access.since import changed_enough
from bridge_chart.store import use_tables as u
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.store.versions import touching


def vintage_of(
    engine: sa.Engine, folder: Path, whole: Snapshot, sittings: tuple[int, ...]
) -> Snapshot:
    """The version whose fits on some sittings are shown where `whole` is asked."""
    keys = [m for m in whole.measures if m.sitting.id in sittings]
    years = sorted({m.academic_year for m in keys})
    with engine.connect() as connection:
        every = sorted({one for m in keys for one in m.sitting.ids})
        touched = touching(connection, whole.version, every, years)
    if len(touched) < 2:
        return whole
    held = touched[0]
    for later in touched[1:]:
        held = _next(engine, folder, held, later, sittings)
    return whole if held == touched[-1] else snapshot_of(engine, folder, held)


def _next(engine: sa.Engine, folder: Path, held: int, later: int, sittings: tuple[int, ...]) -> int:
    """The vintage at `later`, where it was `held` before."""
    table = u.vintage
    of = (table.c.held == held, table.c.version_id == later, table.c.sittings == list(sittings))
    with engine.connect() as connection:
        known = connection.scalar(sa.select(table.c.enough).where(*of))
    if known is None:
        before, after = (snapshot_of(engine, folder, number) for number in (held, later))
        known = all(changed_enough(before, after, sitting) for sitting in sittings)
        row = {"held": held, "version_id": later, "sittings": list(sittings), "enough": known}
        with engine.begin() as connection:
            connection.execute(insert(table).values(**row).on_conflict_do_nothing())
    return later if known else held
