"""One-time codes: a second thing beside the password, from an app that holds a secret (RFC 6238),
and recovery codes on paper for the day on which that is lost.

A code is good once, for its half minute and the ones beside it. The record holds the secret, for it
has to; recovery codes are held by their digests.
"""

from __future__ import annotations

import base64
import secrets
import time

import pyotp
import segno
import sqlalchemy as sa
from pydantic import BaseModel

from bridge_chart.access.audit import noted
from bridge_chart.access.passwords import fits
from bridge_chart.access.rules import require
from bridge_chart.access.secrets import digest_of
from bridge_chart.access.tries import begin_try, came_through
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.terms.errors import CodeNeeded, InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor

STEP = 30
BESIDE = 1
RECOVERY_CODES = 10
NAME = "Bridge Chart"
UNCHANGED = "Nothing was changed."


class CodesOffered(BaseModel):
    """A secret for an app: as text, as an address that apps read, and as a picture of that (SVG, as
    a data address)."""

    secret: str
    address: str
    picture: str


class CodesState(BaseModel):
    """Whether one's own account asks for codes, and how many recovery codes are left."""

    on: bool
    recovery_left: int


class RecoveryCodes(BaseModel):
    """Shown this once; each is good once."""

    codes: list[str]


def offer_codes(actor: Actor) -> CodesOffered:
    """A new secret; it counts once a code made by it was said (`start_codes`)."""
    require(actor, "own_account")
    secret = pyotp.random_base32()
    address = pyotp.TOTP(secret).provisioning_uri(name=actor.login, issuer_name=NAME)
    picture = segno.make(address, error="m").svg_data_uri(scale=4, border=2)
    return CodesOffered(secret=secret, address=address, picture=picture)


def codes_state(engine: sa.Engine, actor: Actor) -> CodesState:
    """How it stands with one's own codes."""
    require(actor, "own_account")
    left = sa.select(sa.func.count()).where(
        u.recovery_code.c.account_id == actor.account_id, ~u.recovery_code.c.used
    )
    with engine.connect() as connection:
        secret = _held(connection, actor.account_id).code_secret
        return CodesState(on=secret is not None, recovery_left=connection.scalar(left) or 0)


def start_codes(
    engine: sa.Engine, actor: Actor, secret: str, code: str, password: str, address: str
) -> RecoveryCodes:
    """From now on sign-in asks for codes of this secret. A wrong password is a try at signing in
    like any other."""
    require(actor, "own_account")
    try:
        if len(base64.b32decode(secret)) < 16:
            raise ValueError("too short")
        step = _step_of(secret, code, 0)
    except ValueError as error:
        raise InvalidQuestion("This is no secret for codes.", kept=UNCHANGED) from error
    if step is None:
        raise InvalidQuestion(
            "This code does not fit.", kept=UNCHANGED,
            next_step="Say the one that the app shows now; its clock must be right.",
        )  # fmt: skip
    one = begin_try(engine, actor.login, address)
    with engine.begin() as connection:
        _require_password(connection, actor, password)
        came_through(connection, one, actor.login)
        row = sa.update(t.account).where(t.account.c.id == actor.account_id)
        connection.execute(row.values(code_secret=secret, code_used=step))
        made = _new_recovery_codes(connection, actor.account_id or 0)
        noted(connection, actor, "start_codes", {})
        return made


def end_codes(engine: sa.Engine, actor: Actor, password: str, address: str) -> CodesState:
    """Sign-in asks for codes no more."""
    require(actor, "own_account")
    one = begin_try(engine, actor.login, address)
    with engine.begin() as connection:
        _require_password(connection, actor, password)
        came_through(connection, one, actor.login)
        _forget(connection, actor.account_id or 0)
        noted(connection, actor, "end_codes", {})
    return codes_state(engine, actor)


def take_codes_away(engine: sa.Engine, actor: Actor, account: int) -> None:
    """For somebody who lost both app and paper, whom the data lead knows: sign-in asks them for
    codes no more until they start anew."""
    require(actor, "accounts")
    with engine.begin() as connection:
        held = _held(connection, account)
        _forget(connection, account)
        noted(connection, actor, "take_codes_away", {"account": account, "login": held.login})


def require_code(connection: sa.Connection, account: int, code: str) -> bool:
    """Whether a code fits an account, or it asks for none; CodeNeeded where it asks and none was
    said. One that fits is used up: the caller commits."""
    held = _held(connection, account)
    if held.code_secret is None:
        return True
    code = "".join(code.split())
    if not code:
        raise CodeNeeded(
            "This account asks for a one-time code as well.",
            next_step="Say the one that your app shows, or one of your recovery codes.",
        )
    mine = sa.update(t.account).where(t.account.c.id == account)
    step = _step_of(held.code_secret, code, held.code_used)
    if step is not None:
        connection.execute(mine.values(code_used=step))
        return True
    r = u.recovery_code.c
    used = sa.update(u.recovery_code).where(
        r.account_id == account, r.digest == digest_of(_plain(code)), ~r.used
    )
    return bool(connection.execute(used.values(used=True)).rowcount)


def _step_of(secret: str, code: str, used: int) -> int | None:
    """The half minute that a code is of, now or beside it and after the last one used; None: it
    fits none."""
    now, totp = int(time.time()) // STEP, pyotp.TOTP(secret)
    steps = range(now - BESIDE, now + BESIDE + 1)
    fitting = [
        step for step in steps
        if step > used and secrets.compare_digest(totp.at(step * STEP), "".join(code.split()))
    ]  # fmt: skip
    return fitting[0] if fitting else None


def _new_recovery_codes(connection: sa.Connection, account: int) -> RecoveryCodes:
    connection.execute(sa.delete(u.recovery_code).where(u.recovery_code.c.account_id == account))
    codes = [
        base64.b32encode(secrets.token_bytes(10)).decode().lower() for _ in range(RECOVERY_CODES)
    ]
    rows = [{"account_id": account, "digest": digest_of(code)} for code in codes]
    connection.execute(sa.insert(u.recovery_code), rows)
    return RecoveryCodes(codes=["-".join(code[at : at + 4] for at in range(0, 16, 4))
                                for code in codes])  # fmt: skip


def _plain(code: str) -> str:
    """A recovery code as it is kept, however it was typed.

    >>> _plain("ABCD-efgh")
    'abcdefgh'
    """
    return code.replace("-", "").casefold()


def _forget(connection: sa.Connection, account: int) -> None:
    row = sa.update(t.account).where(t.account.c.id == account)
    connection.execute(row.values(code_secret=None, code_used=0))
    connection.execute(sa.delete(u.recovery_code).where(u.recovery_code.c.account_id == account))


def _require_password(connection: sa.Connection, actor: Actor, password: str) -> None:
    if not fits(_held(connection, actor.account_id).password_hash, password):
        raise InvalidQuestion("The password does not fit.", kept=UNCHANGED,
                              next_step="Check it, and say it again.")  # fmt: skip


def _held(connection: sa.Connection, account: int | None) -> sa.Row[tuple[object, ...]]:
    query = sa.select(t.account).where(t.account.c.id == account).with_for_update()
    row = connection.execute(query).first()
    if row is None:
        raise NotFound("There is no such account.", kept=UNCHANGED)
    return row
