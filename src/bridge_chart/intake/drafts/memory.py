"""What was said of a file of the same shape, when it was last kept: said again, and shown."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa

from bridge_chart.intake.reading.apart import sheet_in
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.intake.said.settings import HowToRead, IntakeSettings
from bridge_chart.store import tables as t
from bridge_chart.store.versions import active_batches, current_version
from bridge_chart.terms.errors import NotFound, UnreadableFile

REMEMBERED = ("columns", "about", "score", "date_order", "reading", "pattern", "kinds")
"""What belongs to the shape of a file; what it is about and what was decided is its own."""
MOST_LOOKED_AT = 40


def like_before(
    engine: sa.Engine, kind: str, name: str, data: bytes, plain: Sheet | None
) -> IntakeSettings:
    """The settings of the newest kept file with the same column names; plain ones without one.

    `plain`: the file as it reads by itself, None where it does not.
    """
    for batch in _kept(engine, kind):
        said = _shape_of(batch)
        if said == IntakeSettings(like=said.like):
            continue
        sheet = plain if said.reading == HowToRead() else _read_so(name, data, said)
        headers = [column["header"] for column in batch["columns"]]
        if sheet is not None and list(sheet.headers) == headers:
            return said
    return IntakeSettings()


def _read_so(name: str, data: bytes, said: IntakeSettings) -> Sheet | None:
    try:
        return sheet_in(name, data, said)
    except UnreadableFile:
        return None


def said_of(engine: sa.Engine, batch_id: int) -> IntakeSettings:
    """Everything that was said of a kept file: a mapping for the next one of its shape."""
    query = sa.select(t.batch.c.settings).where(t.batch.c.id == batch_id)
    with engine.connect() as connection:
        said = connection.scalar(query)
    if said is None:
        raise NotFound(f"There is no batch {batch_id}.", next_step="Look in the history.")
    of_its_own: dict[str, Any] = {"archive": "", "left_behind": [], "lines": [], "settles": None}
    return IntakeSettings.model_validate(said).model_copy(update=of_its_own)


def _kept(engine: sa.Engine, kind: str) -> list[dict[str, Any]]:
    with engine.connect() as connection:
        active = active_batches(current_version(connection))
        query = (
            sa.select(t.batch.c.settings, t.batch.c.columns, t.batch.c.at, t.source.c.name)
            .join(t.source)
            .where(t.batch.c.kind == kind, t.batch.c.id.in_(sa.text(active)))
            .order_by(t.batch.c.id.desc())
            .limit(MOST_LOOKED_AT)
        )
        return [dict(row) for row in connection.execute(query).mappings()]


def _shape_of(batch: dict[str, Any]) -> IntakeSettings:
    said = {key: value for key, value in batch["settings"].items() if key in REMEMBERED}
    return IntakeSettings.model_validate(
        {**said, "like": f"{batch['name']}, {batch['at']:%Y-%m-%d}"}
    )
