"""Pairings: two classes whose teachers talk about one test, each with the other's figures before
them. A data lead or a lead of both classes' school pairs them, and ends it.

What a teacher sees of the class beside their own is what `answers.published.paired` lets out.
"""

from __future__ import annotations

import datetime as dt

import sqlalchemy as sa
from pydantic import BaseModel

from bridge_chart.access.audit import note
from bridge_chart.access.rules import may, require
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.store.snapshot import MeasureKey, SchoolClass, Snapshot
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor

Paired = frozenset[tuple[int, int]]
"""(id of a sitting, id of a class) that may be seen beside the own ones."""


class Pairing(BaseModel):
    """sitting, classes: in words; by: who paired them."""

    id: int
    sitting: str
    classes: list[str]
    by: str
    at: dt.datetime


def pairings(engine: sa.Engine, actor: Actor, snapshot: Snapshot) -> list[Pairing]:
    """Those under way of which the actor sees both classes, newest first."""
    require(actor, "pair")
    classes, sittings = _classes(snapshot), _sittings(snapshot)
    query = (
        sa.select(u.pairing, t.account.c.name.label("by"))
        .outerjoin(t.account, t.account.c.id == u.pairing.c.account_id)
        .where(~u.pairing.c.ended).order_by(u.pairing.c.id.desc())
    )  # fmt: skip
    with engine.connect() as connection:
        rows = connection.execute(query).all()
    return [
        Pairing(
            id=row.id, sitting=sittings[row.sitting_id].label, by=row.by or "the operator",
            classes=[named(classes[row.class_id], snapshot),
                     named(classes[row.other_id], snapshot)],
            at=row.at,
        )
        for row in rows
        if row.sitting_id in sittings and {row.class_id, row.other_id} <= set(classes)
    ]  # fmt: skip


def pair(
    engine: sa.Engine, actor: Actor, snapshot: Snapshot, sitting: int, one: int, other: int
) -> Pairing:
    """Pair two classes for a talk about a sitting; NotFound for what the actor does not see."""
    require(actor, "pair")
    classes, key = _classes(snapshot), _sittings(snapshot).get(sitting)
    if key is None or one not in classes or other not in classes:
        raise NotFound(
            "There is no such sitting." if key is None else "There is no such class.",
            kept="Nothing was paired.",
        )
    if classes[one].id == classes[other].id:
        raise InvalidQuestion(
            "A class is paired with another one.", kept="Nothing was paired.",
            next_step="Choose two classes.",
        )  # fmt: skip
    if not all(classes[n].teachers for n in (one, other)):
        raise InvalidQuestion(
            "The rosters name no teacher of one of these classes, so there is nobody to talk.",
            kept="Nothing was paired.",
            next_step="Bring in a roster that names the teachers of both.",
        )
    ids = {"class_id": classes[one].id, "other_id": classes[other].id}
    row = {"account_id": actor.account_id, "sitting_id": key.sitting.id, **ids}
    with engine.begin() as connection:
        made = connection.scalar(sa.insert(u.pairing).values(**row).returning(u.pairing.c.id))
    found = next(p for p in pairings(engine, actor, snapshot) if p.id == made)
    note(engine, actor, "pair", {"pairing": made, "of": [*found.classes], "on": found.sitting})
    return found


def end_pairing(engine: sa.Engine, actor: Actor, snapshot: Snapshot, pairing: int) -> None:
    """End a pairing; NotFound where the actor sees none such."""
    if pairing not in {one.id for one in pairings(engine, actor, snapshot)}:
        raise NotFound("There is no such pairing.", next_step="It may have been ended.")
    with engine.begin() as connection:
        change = sa.update(u.pairing).where(u.pairing.c.id == pairing)
        connection.execute(change.values(ended=True))
    note(engine, actor, "end_pairing", {"pairing": pairing})


def paired_for(engine: sa.Engine, actor: Actor, own: set[int]) -> Paired:
    """What stands beside the classes of a teacher, by their ids."""
    if may(actor, "pair") or not own:
        return frozenset()
    table = u.pairing.c
    query = sa.select(table.sitting_id, table.class_id, table.other_id).where(~table.ended)
    with engine.connect() as connection:
        rows = connection.execute(query).all()
    return frozenset(
        (row.sitting_id, there)
        for row in rows
        for here, there in ((row.class_id, row.other_id), (row.other_id, row.class_id))
        if here in own and there not in own
    )


def named(one: SchoolClass, snapshot: Snapshot) -> str:
    """A class with its school, as a talk is about it."""
    school = next(s.name for s in snapshot.schools if s.id == one.school_id)
    return f"{one.name}, {school}"


def _classes(snapshot: Snapshot) -> dict[int, SchoolClass]:
    return {identity: one for one in snapshot.classes for identity in (one.id, *one.also)}


def _sittings(snapshot: Snapshot) -> dict[int, MeasureKey]:
    return {n: key for key in snapshot.measures for n in (key.sitting.id, *key.sitting.also)}
