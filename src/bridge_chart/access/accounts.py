"""Accounts: made, signed in, turned into actors."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from functools import cache

import sqlalchemy as sa
from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerifyMismatchError
from sqlalchemy.dialects.postgresql import insert

from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.terms.errors import InvalidQuestion, NotFound, NotSignedIn
from bridge_chart.terms.people import ROLES, Actor

OPERATOR = Actor(None, "operator", "Operator at the command line", "data_lead")
"""Whoever can read the instance's folder can read everything in it, so acts as data lead."""

SHORTEST_PASSWORD = 10
FORGOTTEN_AFTER = dt.timedelta(days=60)
"""Ended sessions are kept for longer than any cookie is good."""
_hasher = PasswordHasher()


@cache
def _nobodys_hash() -> str:
    """Checked where there is no such login, so that both take the same time."""
    return _hasher.hash("nobody has this password")


def add_account(
    engine: sa.Engine, login: str, name: str, password: str, role: str,
    schools: Sequence[str] = (), teachers: Sequence[tuple[str, str]] = (),
) -> None:  # fmt: skip
    """Make an account, or give an existing one this name, password, role, schools and teachers of
    the rosters who this person is: a school and a name each."""
    if role not in ROLES:
        raise InvalidQuestion(f"There is no role “{role}”.", next_step=f"Roles: {', '.join(ROLES)}")
    if len(password) < SHORTEST_PASSWORD:
        raise InvalidQuestion(f"A password must have {SHORTEST_PASSWORD} characters or more.")
    values = {"name": name, "password_hash": _hasher.hash(password), "role": role}
    with engine.begin() as connection:
        granted = _ids(connection, t.school, schools, "school")
        taught_at = _ids(connection, t.school, [school for school, _ in teachers], "school")
        persons = _ids(connection, t.staff, [name for _, name in teachers], "teacher")
        account = connection.scalar(sa.select(t.account.c.id).where(t.account.c.login == login))
        if account is None:
            made = sa.insert(t.account).values(login=login, **values).returning(t.account.c.id)
            account = connection.scalar(made)
        else:
            connection.execute(
                sa.update(t.account).where(t.account.c.id == account).values(**values)
            )
        _grant(connection, t.account_grant, account, [{"school_id": one} for one in granted])
        pairs = zip(taught_at, persons, strict=True)
        told = [{"school_id": school, "staff_id": person} for school, person in pairs]
        _grant(connection, t.account_teacher, account, told)


def _ids(connection: sa.Connection, table: sa.Table, names: Sequence[str], what: str) -> list[int]:
    """The ids of what is named; NotFound where there is none of a name."""
    query = sa.select(table.c.name, table.c.id).where(table.c.name.in_(names))
    known = {row[0]: row[1] for row in connection.execute(query)}
    for name in names:
        if name not in known:
            raise NotFound(f"There is no {what} “{name}”.", kept="No account was made.")
    return [known[name] for name in names]


def _grant(
    connection: sa.Connection, table: sa.Table, account: int, rows: list[dict[str, int]]
) -> None:
    """Give an account these, and no others."""
    connection.execute(sa.delete(table).where(table.c.account_id == account))
    for row in rows:
        connection.execute(sa.insert(table).values(account_id=account, **row))


def sign_in(engine: sa.Engine, login: str, password: str) -> Actor:
    """The actor for a login and password; NotSignedIn, in the same time and words, if either is
    wrong."""
    with engine.connect() as connection:
        row = connection.execute(
            sa.select(t.account.c.id, t.account.c.password_hash).where(
                t.account.c.login == login, ~t.account.c.closed
            )
        ).first()
    try:
        _hasher.verify(row.password_hash if row else _nobodys_hash(), password)
    except (VerifyMismatchError, InvalidHashError):
        row = None
    if row is None:
        raise NotSignedIn(
            "This login and password do not fit.",
            next_step="Check both, or ask the district's data lead for a new password.",
        )
    return actor_of(engine, row.id)


def actor_of(engine: sa.Engine, account_id: int) -> Actor:
    """The actor of an account id; NotSignedIn if it is gone or closed."""
    return _actor(engine, t.account.c.id == account_id)


def actor_in(engine: sa.Engine, account_id: int, session: str) -> Actor:
    """The actor of an account in a session that was begun at signing in; NotSignedIn where either
    has ended."""
    ended = sa.select(u.ended_session.c.session).where(u.ended_session.c.session == session)
    with engine.connect() as connection:
        if not session or connection.scalar(ended) is not None:
            raise NotSignedIn("This session has ended.")
    return actor_of(engine, account_id)


def end_session(engine: sa.Engine, session: str) -> None:
    """End a session for good: an answer that was under way when its person signed out may write
    the cookie once more, and a copied cookie is worth nothing after it."""
    old = u.ended_session.c.at < sa.func.now() - FORGOTTEN_AFTER
    with engine.begin() as connection:
        connection.execute(sa.delete(u.ended_session).where(old))
        row = insert(u.ended_session).values(session=session)
        connection.execute(row.on_conflict_do_nothing())


def actor_named(engine: sa.Engine, login: str) -> Actor:
    """The actor of a login, for the command line's --as."""
    return _actor(engine, t.account.c.login == login)


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
