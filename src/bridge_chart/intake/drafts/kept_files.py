"""What can be done with a file after it was kept: settle its rows that were set aside, see what
an undo would mean, take back what is remembered of it, look at its own lines."""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa

from bridge_chart.access.audit import note
from bridge_chart.intake.drafts.drafts import Draft, draft_of, sheet_of
from bridge_chart.intake.drafts.work import is_large
from bridge_chart.intake.keep.keep import change_standing, latest_event
from bridge_chart.intake.said.settings import About, IntakeSettings
from bridge_chart.store import tables as t
from bridge_chart.store.database import lock_for_keeping
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.store.versions import active_batches, current_version, new_version
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.people import Actor

NOT_FOUND = "Look in the history."
MOST_LINES = 200


def set_aside_rows(engine: sa.Engine, batch_id: int) -> list[dict[str, Any]]:
    """A batch's rows that are set aside and not settled yet, in the file's order."""
    with engine.connect() as connection:
        return [dict(row) for row in connection.execute(_aside(connection, batch_id)).mappings()]


def _aside(connection: sa.Connection, batch_id: int) -> sa.Select[Any]:
    active = active_batches(current_version(connection))
    settled = t.set_aside.c.settled_by.in_(sa.text(active))
    return (
        sa.select(t.set_aside.c.row, t.set_aside.c.reason, t.set_aside.c.cells)
        .where(t.set_aside.c.batch_id == batch_id, sa.func.coalesce(settled, False).is_(False))
        .order_by(t.set_aside.c.row)
    )


def settle(engine: sa.Engine, settings: Settings, actor: Actor, batch_id: int) -> Draft:
    """A draft of the lines of a kept file that are set aside, with what was said of the file.
    Keeping it settles them; what is set aside once more stays with the first batch."""
    batch = _kept(engine, batch_id)
    with engine.connect() as connection:
        lines = sorted({row.row for row in connection.execute(_aside(connection, batch_id))})
    if not lines:
        raise NotFound("No row of this file is set aside any more.", next_step=NOT_FOUND)
    said = IntakeSettings.model_validate(batch["settings"])
    open_again = {k: v for k, v in said.decisions.items() if v != "set_aside"}
    # A few rows say little about their columns: they are what the whole file's were.
    place = {f"#{c['index'] + 1}": c for c in batch["columns"]}
    columns = {name: c["role"] for name, c in place.items()}
    about = {name: About.model_validate(c["about"]) for name, c in place.items() if c.get("about")}
    told = {
        "columns": columns,
        "about": about,
        "lines": lines,
        "settles": batch_id,
        "decisions": open_again,
        "like": "",
    }
    if batch["kind"] == "roster":
        told |= {"academic_year": batch["academic_year"], "as_of": batch["effective_date"]}
    said = said.model_copy(update=told)
    large = is_large(settings, batch["name"], batch["bytes"])
    source = (batch["kind"], batch["name"], batch["source_id"])
    return draft_of(engine, actor, *source, said, large=large)


def read_again(engine: sa.Engine, settings: Settings, actor: Actor, batch_id: int) -> Draft:
    """A draft of a whole kept file with what was said of it, to say it otherwise; the file is taken
    back first, so that it is read as if it had never come."""
    batch = _kept(engine, batch_id)
    if latest_event(engine, batch_id) == "kept":
        change_standing(engine, settings, actor, batch_id, "undone")
    said = IntakeSettings.model_validate(batch["settings"])
    large = is_large(settings, batch["name"], batch["bytes"])
    source = (batch["kind"], batch["name"], batch["source_id"])
    return draft_of(engine, actor, *source, said, large=large)


def _kept(engine: sa.Engine, batch_id: int) -> Any:
    query = (
        sa.select(
            t.batch.c.kind, t.batch.c.settings, t.batch.c.source_id, t.source.c.name,
            t.batch.c.academic_year, t.batch.c.effective_date, t.batch.c.columns,
            t.source.c.bytes,
        )
        .join(t.source)
        .where(t.batch.c.id == batch_id)
    )  # fmt: skip
    with engine.connect() as connection:
        batch = connection.execute(query).mappings().first()
    if batch is None:
        raise NotFound(f"There is no batch {batch_id}.", next_step=NOT_FOUND)
    return batch


def file_lines(engine: sa.Engine, batch_id: int, lines: list[int]) -> tuple[list[str], list[Any]]:
    """Column names and (line, cells) of a kept file, as the file has them."""
    query = sa.select(t.batch.c.source_id, t.batch.c.settings).where(t.batch.c.id == batch_id)
    with engine.connect() as connection:
        batch = connection.execute(query).mappings().first()
    if batch is None:
        raise NotFound(f"There is no batch {batch_id}.", next_step=NOT_FOUND)
    said = IntakeSettings.model_validate(batch["settings"]).model_copy(update={"lines": []})
    sheet = sheet_of(engine, batch["source_id"], said)
    return list(sheet.headers), sheet.rows_at(lines[:MOST_LINES])


def remembered(engine: sa.Engine) -> list[dict[str, Any]]:
    """Numbers that were accepted as a student's and hold now, newest first."""
    query = (
        sa.select(
            t.alias.c.id, t.alias.c.text, t.alias.c.at, t.alias.c.batch_id,
            t.student.c.number, t.source.c.name.label("file"),
        )
        .join(t.student, t.student.c.id == t.alias.c.student_id)
        .join(t.batch, t.batch.c.id == t.alias.c.batch_id)
        .join(t.source, t.source.c.id == t.batch.c.source_id)
        .where(t.alias.c.revoked_version.is_(None))
        .order_by(t.alias.c.id.desc())
    )  # fmt: skip
    with engine.connect() as connection:
        active = sa.text(active_batches(current_version(connection)))
        rows = connection.execute(query.where(t.alias.c.batch_id.in_(active))).mappings()
        return [dict(row) for row in rows]


def forget(engine: sa.Engine, settings: Settings, actor: Actor, alias_id: int) -> int:
    """Take a remembered number back from the next version on; what was kept with it stays."""
    with engine.begin() as connection:
        lock_for_keeping(connection, settings)
        text = connection.scalar(
            sa.select(t.alias.c.text).where(
                t.alias.c.id == alias_id, t.alias.c.revoked_version.is_(None)
            )
        )
        if text is None:
            raise NotFound("This number is not remembered any more.", next_step=NOT_FOUND)
        number = new_version(connection, actor.account_id, f"forgotten: {text}")
        connection.execute(
            sa.update(t.alias).where(t.alias.c.id == alias_id).values(revoked_version=number)
        )
    note(engine, actor, "forget", {"alias": alias_id})
    snapshot_of(engine, settings.snapshots, number)
    return number
