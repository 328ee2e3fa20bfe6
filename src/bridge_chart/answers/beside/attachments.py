"""What is attached to a sitting: its paper, mark scheme and reports. Whoever sees results of the
sitting may open them; they hold no student's record."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from typing import Literal, get_args

import numpy as np
import sqlalchemy as sa
from pydantic import BaseModel

from bridge_chart.access.audit import note
from bridge_chart.access.scoped import NO_ROW
from bridge_chart.answers.bound.names import one_of
from bridge_chart.store import use_tables as u
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.errors import InvalidQuestion, NotFound, UnreadableFile
from bridge_chart.terms.people import Actor
from bridge_chart.terms.wording import amount, listed

Kind = Literal["paper", "mark scheme", "report"]
KINDS: tuple[Kind, ...] = get_args(Kind)
MEDIA = ((b"%PDF-", "application/pdf"), (b"\x89PNG\r\n\x1a\n", "image/png"),
         (b"\xff\xd8\xff", "image/jpeg"))  # fmt: skip
"""What may be attached, by its first bytes."""
MOST_MEGABYTES = 20
MOST = 20
"""Attachments of a sitting."""
LONGEST_NAME = 120


class Attachment(BaseModel):
    """kind: what it is; form: of which it is, blank: of all; media: by what is inside."""

    id: int
    kind: Kind
    name: str
    form: str
    media: str
    kilobytes: int
    at: dt.datetime


def attachments(engine: sa.Engine, snapshot: Snapshot, sitting: int) -> list[Attachment]:
    """Those of a sitting that the asker sees, by kind; NotFound for another sitting."""
    key = _sitting(snapshot, sitting)
    table = u.attachment
    size = sa.func.length(table.c.bytes).label("size")
    query = (
        sa.select(table.c.id, table.c.kind, table.c.name, table.c.form_id, table.c.media,
                  table.c.at, size)
        .where(table.c.sitting_id == key.sitting.id, sa.not_(table.c.removed))
    )  # fmt: skip
    with engine.connect() as connection:
        rows = list(connection.execute(query))
    names = {form.id: form.name for form in key.forms}
    found = [
        Attachment(
            id=row.id, kind=row.kind, name=row.name, form=names.get(row.form_id, ""),
            media=row.media, kilobytes=-(-row.size // 1024), at=row.at,
        )
        for row in rows
    ]  # fmt: skip
    return sorted(found, key=lambda one: (KINDS.index(one.kind), one.form, one.id))


def attach(
    engine: sa.Engine, actor: Actor, snapshot: Snapshot, sitting: int, kind: Kind, form: str,
    name: str, data: bytes,
) -> Attachment:  # fmt: skip
    """Keep a file with a sitting. UnreadableFile for what is no PDF or picture, or too large."""
    key = _sitting(snapshot, sitting)
    media = next((media for start, media in MEDIA if data.startswith(start)), None)
    plain = "".join(c for c in name.replace("\\", "/").rsplit("/", 1)[-1] if c.isprintable())
    if media is None or len(data) > MOST_MEGABYTES << 20:
        raise UnreadableFile(
            f"{plain or 'The file'} is no PDF, PNG or JPEG of up to {MOST_MEGABYTES} MB.",
            kept="Nothing was attached.", next_step="Save it as PDF, and attach that.",
        )  # fmt: skip
    if len(attachments(engine, snapshot, sitting)) >= MOST:
        raise InvalidQuestion(
            f"{key.label} has {amount(MOST)} attachments, which is the most.",
            kept="Nothing was attached.", next_step="Remove one first.",
        )  # fmt: skip
    forms = [(one.id, one.name) for one in key.forms]
    row = {
        "account_id": actor.account_id, "sitting_id": key.sitting.id, "kind": kind,
        "form_id": one_of("form", form, forms) if form else 0,
        "name": plain[-LONGEST_NAME:] or kind, "media": media, "bytes": data,
    }  # fmt: skip
    with engine.begin() as connection:
        made = connection.scalar(sa.insert(u.attachment).values(**row).returning(u.attachment.c.id))
    note(engine, actor, "attach", {"attachment": made, "sitting": key.label, "name": row["name"]})
    return next(one for one in attachments(engine, snapshot, sitting) if one.id == made)


def opened(
    engine: sa.Engine, actor: Actor, snapshot: Snapshot, attachment: int
) -> tuple[str, str, bytes]:
    """Name, kind of content and bytes; NotFound where the asker does not see its sitting."""
    query = sa.select(u.attachment).where(
        u.attachment.c.id == attachment, sa.not_(u.attachment.c.removed)
    )
    with engine.connect() as connection:
        row = connection.execute(query).one_or_none()
    if row is None or all(row.sitting_id not in _ids(key) for key in _seen(snapshot)):
        raise _none()
    note(engine, actor, "open_attachment", {"attachment": attachment, "name": row.name})
    return row.name, row.media, bytes(row.bytes)


def remove(engine: sa.Engine, actor: Actor, attachment: int) -> None:
    """Take an attachment away; NotFound if there is none."""
    table = u.attachment
    change = (
        sa.update(table).where(table.c.id == attachment, sa.not_(table.c.removed))
        .values(removed=True)
    )  # fmt: skip
    with engine.begin() as connection:
        if connection.execute(change).rowcount == 0:
            raise _none()
    note(engine, actor, "remove_attachment", {"attachment": attachment})


def sitting_named(snapshot: Snapshot, test: str, subject: str, sitting: str) -> int:
    """The id of a sitting by its names; NotFound with those that there are."""
    held = {
        key.sitting.id: key for key in snapshot.measures
        if key.assessment.name.casefold() == test.casefold()
        and subject.casefold() in ("", key.subject.name.casefold() if key.subject else "")
        and sitting.casefold() in ("", key.sitting.name.casefold())
    }  # fmt: skip
    if len(held) == 1:
        return next(iter(held))
    names = [key.label for key in held.values()] or [key.label for key in snapshot.measures]
    raise NotFound(
        "Several sittings are called so." if held else f"No sitting of “{test}” is called so.",
        next_step=f"Name one of {listed(list(dict.fromkeys(names)), 6)}.",
    )


def _sitting(snapshot: Snapshot, sitting: int) -> MeasureKey:
    found = next((key for key in _seen(snapshot) if sitting in _ids(key)), None)
    if found is None:
        raise NotFound("There is no such sitting.")
    return found


def _seen(snapshot: Snapshot) -> Iterator[MeasureKey]:
    """The measures of which the asker sees anybody's result."""
    for key in snapshot.measures:
        if (np.asarray(snapshot.status(key)) != NO_ROW).any():
            yield key


def _ids(key: MeasureKey) -> set[int]:
    return {key.sitting.id, *key.sitting.also}


def _none() -> NotFound:
    return NotFound("There is no such attachment.", next_step="It may have been removed.")
