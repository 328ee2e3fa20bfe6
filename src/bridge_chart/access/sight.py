"""Which role sees which characteristic, and colleagues' notes. The data lead says so at Setup.

What nobody said is seen by every role, but a sensitive characteristic by data leads and school
leads alone. Data leads see everything: they keep it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import insert

from bridge_chart.access.audit import note
from bridge_chart.access.rules import RULES, require
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.people import ROLES, Actor
from bridge_chart.terms.words import spoken

KEEPER = "data_lead"
LEADS = ("data_lead", "school_lead")
NOTES = "notes"


@dataclass(frozen=True)
class Sight:
    """One thing and who sees it. what: “notes”, or the id of a characteristic as text."""

    what: str
    label: str
    sensitive: bool
    roles: tuple[str, ...]


def sights(engine: sa.Engine, actor: Actor) -> list[Sight]:
    """Every characteristic that was ever kept, and notes, with the roles that see them."""
    require(actor, "sight")
    return _sights(engine)


def _sights(engine: sa.Engine) -> list[Sight]:
    with engine.connect() as connection:
        said = {row.what: row for row in connection.execute(sa.select(u.sight))}
        names = connection.execute(
            sa.select(t.characteristic.c.id, t.characteristic.c.name).order_by(
                t.characteristic.c.name
            )
        )
        own = spoken().characteristics
    things = [
        *((str(row.id), own.get(row.id, row.name)) for row in names),
        (NOTES, "Notes of colleagues"),
    ]
    out = []
    for what, label in things:
        row = said.get(what)
        sensitive = bool(row.sensitive) if row is not None else False
        roles = row.roles if row is not None else None
        seen = _roles(sensitive, roles)
        # Notes are about students, whom not every role sees.
        seen = tuple(r for r in seen if what != NOTES or r in RULES["open_students"])
        out.append(Sight(what, label, sensitive, seen))
    return out


def _roles(sensitive: bool, said: Sequence[str] | None) -> tuple[str, ...]:
    """The roles that see a thing; `said`: by the data lead, or nothing."""
    seen = said if said is not None else (LEADS if sensitive else ROLES)
    return tuple(role for role in ROLES if role in seen or role == KEEPER)


def say_who_sees(
    engine: sa.Engine, actor: Actor, what: str, *, sensitive: bool, roles: Sequence[str] | None
) -> Sight:
    """Say which roles see a characteristic or notes (None: as its kind says)."""
    require(actor, "sight")
    unknown = [role for role in roles or () if role not in ROLES]
    if unknown:
        raise InvalidQuestion(f"There is no role “{unknown[0]}”.", next_step=", ".join(ROLES))
    if what == NOTES and roles and not {*roles} <= RULES["open_students"]:
        raise InvalidQuestion("Notes are about students, and a viewer sees none.",
                              kept="Nothing was changed.")  # fmt: skip
    if all(one.what != what for one in _sights(engine)):
        raise NotFound("There is no such characteristic.", kept="Nothing was changed.")
    values = {"what": what, "sensitive": sensitive, "roles": None if roles is None else [*roles]}
    with engine.begin() as connection:
        made = insert(u.sight).values(**values)
        connection.execute(made.on_conflict_do_update(index_elements=["what"], set_=values))
    note(engine, actor, "say_who_sees", values)
    return next(one for one in _sights(engine) if one.what == what)


def hidden_from(engine: sa.Engine, role: str) -> frozenset[int]:
    """The characteristics that a role does not see."""
    if role == KEEPER:
        return frozenset()
    with engine.connect() as connection:
        rows = connection.execute(sa.select(u.sight).where(u.sight.c.what != NOTES)).all()
    return frozenset(int(row.what) for row in rows if role not in _roles(row.sensitive, row.roles))


def sees_notes(engine: sa.Engine, role: str) -> bool:
    """Whether a role sees what colleagues wrote for others to read."""
    if role == KEEPER:
        return True
    with engine.connect() as connection:
        row = connection.execute(sa.select(u.sight).where(u.sight.c.what == NOTES)).first()
    return row is None or role in _roles(row.sensitive, row.roles)
