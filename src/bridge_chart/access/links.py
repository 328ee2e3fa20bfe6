"""One-time links: for a first password, a new one, and the first data lead of all.

The link holds a secret, given out once; whoever opens it says a password and is signed in. A newer
link of an account takes the place of the older.
"""

from __future__ import annotations

import datetime as dt

import sqlalchemy as sa
from pydantic import BaseModel

from bridge_chart.access.accounts import OPERATOR, actor_of
from bridge_chart.access.audit import noted
from bridge_chart.access.codes import require_code
from bridge_chart.access.passwords import hashed, require_strong
from bridge_chart.access.secrets import digest_of, new_secret
from bridge_chart.access.sessions import begin_session, end_sessions
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor

GOOD_FOR = dt.timedelta(days=7)
PATH = "/welcome#"
"""The secret stands behind the #, which no server and no log is sent."""


class Link(BaseModel):
    """`path` within the instance's address; shown once."""

    path: str
    good_until: dt.datetime


class LinkFor(BaseModel):
    """Whose it is; `first`: of the first data lead, who gives a login and a name too."""

    first: bool
    login: str
    name: str


def make_link(connection: sa.Connection, account_id: int | None) -> Link:
    """A link for an account, or for the first data lead; earlier ones are void."""
    table = u.one_time_link
    void_links(connection, account_id)
    secret = new_secret()
    good_until = dt.datetime.now(dt.UTC) + GOOD_FOR
    row = {"digest": digest_of(secret), "account_id": account_id, "good_until": good_until}
    connection.execute(sa.insert(table).values(**row))
    return Link(path=f"{PATH}{secret}", good_until=good_until)


def void_links(connection: sa.Connection, account_id: int | None) -> None:
    """No link of an account (None: of the first data lead) opens anything any more."""
    table = u.one_time_link
    same = table.c.account_id.is_not_distinct_from(account_id)
    connection.execute(sa.update(table).where(same).values(used=True))


def first_link(engine: sa.Engine) -> Link | None:
    """The link of the first data lead, where nobody can sign in as one; None else."""
    with engine.begin() as connection:
        if _data_lead(connection):
            return None
        link = make_link(connection, None)
        noted(connection, OPERATOR, "first_link", {})
        return link


def look_at(engine: sa.Engine, secret: str) -> LinkFor:
    """Whom a link is for; NotFound where it has been used or is too old."""
    with engine.connect() as connection:
        return _found(connection, secret)[1]


def use_link(
    engine: sa.Engine, secret: str, password: str, address: str, login: str = "", name: str = "",
    code: str = "",
) -> tuple[Actor, str]:  # fmt: skip
    """Set the password that a link is for, once: who it is, and the secret of a new session. Every
    other session of the account ends. An account that asks for codes asks here too."""
    with engine.begin() as connection:
        account_id, held = _found(connection, secret)
        if held.first:
            if _data_lead(connection):
                raise NotFound("There is a data lead already.", next_step="Sign in.")
            account_id = _first(connection, login.strip(), name.strip())
            held = LinkFor(first=True, login=login.strip(), name=name.strip())
        assert account_id is not None
        require_strong(password, held.login, held.name)
        if not require_code(connection, account_id, code):
            raise InvalidQuestion("This one-time code does not fit.", kept="The link stays good.",
                                  next_step="Say the one that your app shows now.")  # fmt: skip
        change = sa.update(t.account).where(t.account.c.id == account_id)
        connection.execute(change.values(password_hash=hashed(password)))
        void_links(connection, None if held.first else account_id)
        end_sessions(connection, account_id)
        who = Actor(account_id, held.login, held.name, "")
        noted(connection, who, "use_link", {"first": held.first})
        session = begin_session(connection, who, address)
    return actor_of(engine, account_id), session


def _found(connection: sa.Connection, secret: str) -> tuple[int | None, LinkFor]:
    table = u.one_time_link
    query = (
        sa.select(table.c.account_id, t.account.c.login, t.account.c.name, t.account.c.closed)
        .outerjoin(t.account, t.account.c.id == table.c.account_id)
        .where(table.c.digest == digest_of(secret), ~table.c.used,
               table.c.good_until > sa.func.now())
        .with_for_update(of=table)
    )  # fmt: skip
    row = connection.execute(query).first()
    if row is None or row.closed:
        raise NotFound(
            "This link has been used, or its time is over.",
            kept="Nothing was changed.",
            next_step="Ask whoever sent it for a new one.",
        )
    first = row.account_id is None
    return row.account_id, LinkFor(first=first, login=row.login or "", name=row.name or "")


def _first(connection: sa.Connection, login: str, name: str) -> int:
    if not login or not name:
        raise InvalidQuestion("The first data lead needs a login and a name.",
                              kept="Nothing was changed.")  # fmt: skip
    taken = sa.select(t.account.c.id).where(t.account.c.login == login)
    if connection.scalar(taken) is not None:
        raise InvalidQuestion(f"There is a login “{login}” already.", kept="Nothing was changed.")
    row = {"login": login, "name": name, "role": "data_lead"}
    made = connection.scalar(sa.insert(t.account).values(**row).returning(t.account.c.id))
    return int(made or 0)


def _data_lead(connection: sa.Connection) -> bool:
    """Whether somebody can sign in as data lead."""
    a = t.account.c
    comes = a.password_hash.is_not(None) | a.subject.is_not(None)
    query = sa.select(a.id).where(a.role == "data_lead", ~a.closed, comes)
    return connection.scalar(query.limit(1)) is not None
