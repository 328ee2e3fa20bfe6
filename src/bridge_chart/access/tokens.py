"""Tokens: by which a program asks as an account, may less than it, and only for a time.

A token sees what its account sees at that moment, so a changed role, scope or closed account counts
for it at once. It never looks after accounts, nor makes another token.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import replace

import sqlalchemy as sa
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access.accounts import actor_of
from bridge_chart.access.audit import noted
from bridge_chart.access.rules import RULES, may, require
from bridge_chart.access.secrets import digest_of, new_secret
from bridge_chart.store import use_tables as u
from bridge_chart.terms.errors import InvalidQuestion, NotFound, NotSignedIn
from bridge_chart.terms.people import Actor

BEGINS = "bridge_"
"""What every token begins with, so that one in a file or a log is known for what it is."""
NEVER = ("own_account", "look", "accounts", "see_as", "audit", "erase")
LONGEST = 366
SEEN_EVERY = dt.timedelta(minutes=1)


class NewToken(BaseModel):
    """name: of the program; may: actions, of those of one's own role; days: how long it is good."""

    model_config = ConfigDict(extra="forbid")
    name: str = Field(max_length=200)
    may: list[str] = Field(max_length=40)
    days: int = Field(ge=1, le=LONGEST)


class Token(BaseModel):
    """seen: when it was last used."""

    id: int
    name: str
    may: list[str]
    at: dt.datetime
    good_until: dt.datetime
    seen: dt.datetime | None


class MadeToken(BaseModel):
    """The token and its secret, shown this once."""

    token: Token
    secret: str


def grantable(actor: Actor) -> list[str]:
    """What the actor may let a token do."""
    return [action for action in RULES if may(actor, action) and action not in NEVER]


def make_token(engine: sa.Engine, actor: Actor, said: NewToken) -> MadeToken:
    """A token of the actor's own account."""
    require(actor, "own_account")
    name = said.name.strip()
    if not name:
        raise InvalidQuestion("Say which program it is for.", kept="No token was made.")
    unknown = sorted(set(said.may) - set(grantable(actor)))
    if unknown or not said.may:
        raise InvalidQuestion(
            f"A token of yours cannot have “{unknown[0]}”." if unknown else "It could do nothing.",
            kept="No token was made.", next_step=f"Choose of: {', '.join(grantable(actor))}.",
        )  # fmt: skip
    secret = BEGINS + new_secret()
    values = {
        "account_id": actor.account_id, "name": name, "digest": digest_of(secret),
        "may": sorted(set(said.may)),
        "good_until": dt.datetime.now(dt.UTC) + dt.timedelta(days=said.days),
    }  # fmt: skip
    with engine.begin() as connection:
        row = connection.execute(sa.insert(u.api_token).values(**values).returning(u.api_token))
        token = _token(row.one())
        noted(connection, actor, "make_token", {"token": token.id, "name": name, "may": token.may})
    return MadeToken(token=token, secret=secret)


def list_tokens(engine: sa.Engine, actor: Actor) -> list[Token]:
    """The actor's own tokens that are good, newest first."""
    require(actor, "own_account")
    table = u.api_token
    query = (
        sa.select(table)
        .where(table.c.account_id == actor.account_id, *_good())
        .order_by(table.c.id.desc())
    )
    with engine.connect() as connection:
        return [_token(row) for row in connection.execute(query)]


def revoke_token(engine: sa.Engine, actor: Actor, token: int) -> None:
    """Take an own token back: it opens nothing from now on."""
    require(actor, "own_account")
    table = u.api_token
    mine = (table.c.id == token, table.c.account_id == actor.account_id, ~table.c.revoked)
    with engine.begin() as connection:
        done = connection.execute(sa.update(table).where(*mine).values(revoked=True))
        if not done.rowcount:
            raise NotFound("There is no such token of yours.", kept="Nothing was changed.")
        noted(connection, actor, "revoke_token", {"token": token})


def actor_with(engine: sa.Engine, secret: str) -> Actor:
    """Who asks by a token; NotSignedIn where it is unknown, revoked or too old."""
    table = u.api_token
    mine = table.c.digest == digest_of(secret)
    now = sa.func.now()
    stale = (sa.func.coalesce(table.c.seen < now - SEEN_EVERY, sa.true())).label("stale")
    query = sa.select(table.c.account_id, table.c.may, stale).where(mine, *_good())
    with engine.connect() as connection:
        row = connection.execute(query).first()
    if row is None:
        raise NotSignedIn(
            "This token is not good: revoked, too old, or none.", next_step="Make a new one."
        )
    if row.stale:
        with engine.begin() as connection:
            connection.execute(sa.update(table).where(mine).values(seen=now))
    return replace(actor_of(engine, row.account_id), only=frozenset(row.may))


def _good() -> tuple[sa.ColumnElement[bool], ...]:
    return ~u.api_token.c.revoked, u.api_token.c.good_until > sa.func.now()


def _token(row: sa.Row[tuple[object, ...]]) -> Token:
    return Token.model_validate({key: getattr(row, key) for key in Token.model_fields})
