"""Sessions: begun at signing in, looked up at each request, ended for good.

The record holds them; the cookie holds a secret whose digest is there. So a copied cookie is worth
nothing once its session has ended, by signing out, a new password, another role, or time.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import replace

import sqlalchemy as sa

from bridge_chart.access.accounts import actor_of, seeing_as
from bridge_chart.access.audit import noted
from bridge_chart.access.codes import require_code
from bridge_chart.access.passwords import fits
from bridge_chart.access.rules import require
from bridge_chart.access.secrets import digest_of, new_secret
from bridge_chart.access.tries import begin_try, came_through
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import NotFound, NotSignedIn
from bridge_chart.terms.people import Actor

LOOKED_AT_EVERY = dt.timedelta(minutes=1)
FORGOTTEN_AFTER = dt.timedelta(days=400)
"""When somebody was last here is told of their newest session."""
NOBODY = "nobody"
UNKNOWN = "no such login"
FIRST_CODES = frozenset({"own_account", "look"})


def sign_in(
    engine: sa.Engine, login: str, password: str, address: str, code: str = ""
) -> tuple[Actor, str]:
    """Who it is, and the secret of their new session; NotSignedIn, in the same time and words, if
    login or password is wrong; CodeNeeded where they fit and a code is asked for; TooManyTries."""
    one = begin_try(engine, login, address)
    query = sa.select(t.account.c.id, t.account.c.password_hash).where(
        t.account.c.login == login, ~t.account.c.closed
    )
    with engine.connect() as connection:
        row = connection.execute(query).first()
    good = fits(row.password_hash if row else None, password) and row is not None
    wrong = "This login and password do not fit."
    if good and row is not None:
        with engine.begin() as connection:
            good = require_code(connection, row.id, code)
        wrong = "This one-time code does not fit."
    if not good or row is None:
        # What is no login may be a password in the wrong field, and lines stay for good.
        stranger = Actor(row.id if row else None, login if row else UNKNOWN, "", NOBODY)
        with engine.begin() as connection:
            noted(connection, stranger, "sign_in_refused", {"address": address})
        raise NotSignedIn(
            wrong, next_step="Check it, or ask the district's data lead for a new password.",
        )  # fmt: skip
    who = actor_of(engine, row.id)
    with engine.begin() as connection:
        came_through(connection, one, login)
        return who, begin_session(connection, who, address)


def begin_session(
    connection: sa.Connection, who: Actor, address: str, provider_token: str | None = None
) -> str:
    """The secret of a new session. provider_token: by which the provider that vouched for them can
    be told that it is over."""
    secret = new_secret()
    table = u.session
    old = table.c.at < sa.func.now() - FORGOTTEN_AFTER
    connection.execute(sa.delete(table).where(old))
    row = {"digest": digest_of(secret), "account_id": who.account_id,
           "provider_token": provider_token}  # fmt: skip
    connection.execute(sa.insert(table).values(**row))
    at = {"address": address} | ({"name": "by the provider"} if provider_token else {})
    noted(connection, who, "sign_in", at)
    return secret


def actor_in(engine: sa.Engine, settings: Settings, secret: str) -> Actor:
    """Who is signed in; NotSignedIn where the session has ended, was not used for too long, or is
    too old."""
    table = u.session
    now = sa.func.now()
    idle = now - dt.timedelta(minutes=settings.session_minutes)
    oldest = now - dt.timedelta(hours=settings.session_hours)
    mine = table.c.digest == digest_of(secret)
    good = (mine, ~table.c.ended, table.c.seen > idle, table.c.at > oldest)
    stale = (table.c.seen < now - LOOKED_AT_EVERY).label("stale")
    asked = sa.select(
        table.c.account_id, table.c.names_hidden, table.c.sees_as, stale, t.account.c.role,
        (t.account.c.code_secret.is_(None) & table.c.provider_token.is_(None)).label("plain"),
    ).join(t.account, t.account.c.id == table.c.account_id)  # fmt: skip
    with engine.connect() as connection:
        row = connection.execute(asked.where(*good)).first()
    if row is None:
        raise NotSignedIn("This session has ended.", next_step="Sign in again.")
    if row.stale:
        with engine.begin() as connection:
            connection.execute(sa.update(table).where(mine).values(seen=sa.func.now()))
    who = actor_of(engine, row.account_id)
    if row.plain and row.role in settings.codes_roles:
        # Who has to use codes and does not yet may begin to, and nothing else.
        return replace(who, only=FIRST_CODES)
    if row.names_hidden:
        who = replace(who, names_hidden=True, stand_ins=digest_of(secret))
    return seeing_as(engine, who, row.sees_as)


def hide_names(engine: sa.Engine, secret: str, *, hidden: bool) -> None:
    """Hide students' names in a session, or show them again. The record says it and not the cookie,
    which an answer under way might write back."""
    mine = u.session.c.digest == digest_of(secret)
    with engine.begin() as connection:
        connection.execute(sa.update(u.session).where(mine).values(names_hidden=hidden))


def see_as(engine: sa.Engine, settings: Settings, secret: str, account: int | None) -> Actor:
    """In a session, look as an account sees, changing nothing; None: as oneself again. NotAllowed
    for whoever is no data lead, NotFound for an account that is not there or closed."""
    mine = sa.update(u.session).where(u.session.c.digest == digest_of(secret))
    with engine.begin() as connection:
        connection.execute(mine.values(sees_as=None))
    me = actor_in(engine, settings, secret)
    if account is None:
        return me
    require(me, "see_as")
    other = seeing_as(engine, me, account)
    if not other.seeing_as:
        raise NotFound("There is no such account, or it is closed.")
    with engine.begin() as connection:
        connection.execute(mine.values(sees_as=account))
        noted(connection, me, "see_as", {"account": account, "name": other.seeing_as})
    return other


def provider_token(engine: sa.Engine, secret: str) -> str | None:
    """By which the provider can be told that a session is over; None: no provider vouched."""
    mine = u.session.c.digest == digest_of(secret)
    with engine.connect() as connection:
        return connection.scalar(sa.select(u.session.c.provider_token).where(mine))


def sign_out(engine: sa.Engine, who: Actor, secret: str) -> None:
    """End a session for good: an answer that is under way may write the cookie once more."""
    with engine.begin() as connection:
        mine = u.session.c.digest == digest_of(secret)
        connection.execute(sa.update(u.session).where(mine).values(ended=True))
        noted(connection, who, "sign_out", {})


def end_sessions(connection: sa.Connection, account_id: int, but: str = "") -> int:
    """End every session of an account, except the one of a secret; how many there were."""
    table = u.session
    of_them = (table.c.account_id == account_id, ~table.c.ended, table.c.digest != digest_of(but))
    done = connection.execute(sa.update(table).where(*of_them).values(ended=True))
    return int(done.rowcount)


def sign_out_everywhere(engine: sa.Engine, who: Actor) -> None:
    """End all of one's own sessions."""
    assert who.account_id is not None
    with engine.begin() as connection:
        ended = end_sessions(connection, who.account_id)
        noted(connection, who, "sign_out_everywhere", {"sessions": ended})
