"""Accounts turned into actors."""

from __future__ import annotations

from dataclasses import replace

import sqlalchemy as sa

from bridge_chart.access.rules import LOOKING, may
from bridge_chart.store import tables as t
from bridge_chart.terms.errors import NotSignedIn
from bridge_chart.terms.people import Actor

OPERATOR = Actor(None, "operator", "Operator at the command line", "data_lead")
"""Whoever can read the instance's folder can read everything in it, so acts as data lead."""


NO_ACCOUNT = -1
"""Whose own things nobody has."""


def actor_of(engine: sa.Engine, account_id: int) -> Actor:
    """The actor of an account id; NotSignedIn if it is gone or closed."""
    return _actor(engine, t.account.c.id == account_id)


def actor_named(engine: sa.Engine, login: str) -> Actor:
    """The actor of a login, for the command line's --as."""
    return _actor(engine, t.account.c.login == login)


def seeing_as(engine: sa.Engine, who: Actor, account_id: object) -> Actor:
    """Who sees what an account sees, and may change nothing; whoever asked stays the one who is
    noted, and none of that account's own notes and questions are theirs. `who` themselves where
    they may not, or the account is gone or closed."""
    if not isinstance(account_id, int) or not may(who, "see_as"):
        return who
    try:
        other = actor_of(engine, account_id)
    except NotSignedIn:
        return who
    return replace(
        other, account_id=NO_ACCOUNT, login=who.login, seeing_as=other.login, only=LOOKING,
        names_hidden=who.names_hidden, stand_ins=who.stand_ins,
    )  # fmt: skip


def _actor(engine: sa.Engine, which: sa.ColumnElement[bool]) -> Actor:
    with engine.connect() as connection:
        row = connection.execute(sa.select(t.account).where(which, ~t.account.c.closed)).first()
        if row is None:
            raise NotSignedIn("There is no such account.")
        grants = connection.scalars(
            sa.select(t.account_grant.c.school_id).where(t.account_grant.c.account_id == row.id)
        )
        persons = connection.execute(
            sa.select(t.account_teacher.c.school_id, t.staff.c.name)
            .join(t.account_teacher, t.account_teacher.c.staff_id == t.staff.c.id)
            .where(t.account_teacher.c.account_id == row.id)
        )
        return Actor(
            row.id,
            row.login,
            row.name,
            row.role,
            frozenset(grants),
            frozenset((one.school_id, one.name) for one in persons),
        )
