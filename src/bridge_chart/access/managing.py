"""Who uses it: invited, changed, closed and listed by a data lead.

An account's own role and grants are read at each request, so a change counts at once; sessions end
with it all the same, so that nobody looks at a page of what was theirs.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterable, Sequence
from typing import Literal, Protocol

import sqlalchemy as sa
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.access.audit import noted
from bridge_chart.access.links import Link, make_link, void_links
from bridge_chart.access.passwords import fits, hashed, require_strong
from bridge_chart.access.rules import require
from bridge_chart.access.sessions import end_sessions
from bridge_chart.access.tries import begin_try, came_through
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.terms.errors import ChangedMeanwhile, InvalidQuestion, NotAllowed, NotFound
from bridge_chart.terms.people import ROLES, Actor

UNCHANGED = "Nothing was changed."
ASK_LEAD = "Ask the district's data lead."
BY_PROVIDER = Actor(None, "the district's sign-on", "", "nobody")


class SaidElsewhere(Protocol):
    """What the district's sign-on says of somebody."""

    def beside(self, held: AccountSaid | None) -> AccountSaid:
        """The account that this makes of the one that is there."""


class TeacherIs(BaseModel):
    """A teacher of the rosters: a school's id, and the name as they have it."""

    model_config = ConfigDict(extra="forbid")
    school: int
    name: str = Field(max_length=400)


class AccountSaid(BaseModel):
    """What a data lead says of an account. schools: ids; teachers: who of the rosters it is."""

    model_config = ConfigDict(extra="forbid")
    name: str = Field(max_length=200)
    role: str = Field(max_length=40)
    schools: list[int] = Field(default_factory=list, max_length=5_000)
    teachers: list[TeacherIs] = Field(default_factory=list, max_length=200)


class NewAccount(AccountSaid):
    login: str = Field(max_length=200)


class Account(AccountSaid):
    """`state`: invited (no password yet), open, closed; `codes`: sign-in asks for one-time codes;
    `provider`: the district's sign-on vouches for them; `seen`: when they were last here."""

    id: int
    login: str
    state: Literal["invited", "open", "closed"]
    codes: bool = False
    provider: bool = False
    seen: dt.datetime | None
    revision: int


class Invited(BaseModel):
    """An account, and the link by which its person comes in, shown this once."""

    account: Account
    link: Link


def list_accounts(engine: sa.Engine, actor: Actor) -> list[Account]:
    """Every account, by name; closed ones last."""
    require(actor, "accounts")
    with engine.connect() as connection:
        return _accounts(connection)


def invite(engine: sa.Engine, actor: Actor, said: NewAccount) -> Invited:
    """Make an account without a password, and the link for it."""
    require(actor, "accounts")
    login = said.login.strip()
    if not login or any(sign.isspace() for sign in login):
        raise InvalidQuestion("A login has no blanks, and at least a letter.", kept=UNCHANGED)
    with engine.begin() as connection:
        connection.execute(sa.text("LOCK TABLE account IN SHARE ROW EXCLUSIVE MODE"))
        same = sa.func.lower(t.account.c.login) == login.lower()
        if connection.scalar(sa.select(t.account.c.id).where(same)) is not None:
            raise InvalidQuestion(f"There is a login “{login}” already.", kept=UNCHANGED)
        row = {"login": login, **_checked(connection, said)}
        made = connection.scalar(sa.insert(t.account).values(**row).returning(t.account.c.id))
        account = int(made or 0)
        _grant(connection, account, said)
        noted(connection, actor, "invite", {"account": account, **said.model_dump()})
        return Invited(account=_one(connection, account), link=make_link(connection, account))


def change(
    engine: sa.Engine, actor: Actor, account: int, said: AccountSaid, revision: int
) -> Account:
    """Say an account's name, role and grants anew; ChangedMeanwhile where somebody else did since
    that revision. Its sessions end where it may see something else by now."""
    require(actor, "accounts")
    with engine.begin() as connection:
        before = _locked(connection, account)
        if before.revision != revision:
            raise ChangedMeanwhile(
                "Somebody else changed this account meanwhile.", kept="Your change was not made.",
                next_step="Look at it as it is now, then change it.",
            )  # fmt: skip
        values = {**_checked(connection, said), "revision": revision + 1}
        connection.execute(sa.update(t.account).where(t.account.c.id == account).values(**values))
        _grant(connection, account, said)
        _still_led(connection, before)
        if _reach(before) != _reach(said):
            end_sessions(connection, account)
        told = {"account": account, "login": before.login, **said.model_dump()}
        noted(connection, actor, "change_account", told)
        return _one(connection, account)


def set_closed(engine: sa.Engine, actor: Actor, account: int, *, closed: bool) -> Account:
    """Close an account, its sessions and links with it, or open it again."""
    require(actor, "accounts")
    with engine.begin() as connection:
        before = _locked(connection, account)
        if closed and account == actor.account_id:
            raise InvalidQuestion("Nobody closes their own account.", kept=UNCHANGED,
                                  next_step="Ask another data lead.")  # fmt: skip
        row = sa.update(t.account).where(t.account.c.id == account)
        connection.execute(row.values(closed=closed, revision=before.revision + 1))
        if closed:
            _still_led(connection, before)
            end_sessions(connection, account)
            void_links(connection, account)
        action = "close_account" if closed else "open_account"
        noted(connection, actor, action, {"account": account, "login": before.login})
        return _one(connection, account)


def send_link(engine: sa.Engine, actor: Actor, account: int) -> Link:
    """A new link for an account, by which its person says a new password. Until then the old one
    counts."""
    require(actor, "accounts")
    with engine.begin() as connection:
        held = _locked(connection, account)
        if held.state == "closed":
            raise InvalidQuestion("This account is closed.", kept=UNCHANGED,
                                  next_step="Open it again first.")  # fmt: skip
        noted(connection, actor, "send_link", {"account": account, "login": held.login})
        return make_link(connection, account)


def end_all_sessions(engine: sa.Engine, actor: Actor, account: int) -> Account:
    """Sign somebody out everywhere."""
    require(actor, "accounts")
    with engine.begin() as connection:
        held = _locked(connection, account)
        told = {"account": account, "login": held.login}
        ended = end_sessions(connection, account)
        noted(connection, actor, "end_sessions", {**told, "sessions": ended})
        return _one(connection, account)


def new_password(
    engine: sa.Engine, actor: Actor, old: str, new: str, session: str, address: str
) -> None:
    """Change one's own password; every session ends but this one. A wrong old one is a try at
    signing in like any other."""
    assert actor.account_id is not None
    one = begin_try(engine, actor.login, address)
    mine = t.account.c.id == actor.account_id
    with engine.begin() as connection:
        kept = connection.scalar(sa.select(t.account.c.password_hash).where(mine).with_for_update())
        if not fits(kept, old):
            raise InvalidQuestion("The old password does not fit.", kept=UNCHANGED,
                                  next_step="Check it, and say it again.")  # fmt: skip
        came_through(connection, one, actor.login)
        require_strong(new, actor.login, actor.name)
        connection.execute(sa.update(t.account).where(mine).values(password_hash=hashed(new)))
        void_links(connection, actor.account_id)
        ended = end_sessions(connection, actor.account_id, but=session)
        noted(connection, actor, "new_password", {"sessions": ended})


def add_account(
    engine: sa.Engine, login: str, name: str, password: str, role: str,
    schools: Sequence[str] = (), teachers: Sequence[tuple[str, str]] = (),
) -> None:  # fmt: skip
    """The operator's: make an account with a password, or give an existing one this name, password,
    role, schools and teachers of the rosters (a school and a name each)."""
    require_strong(password, login, name)
    with engine.begin() as connection:
        at = school_ids(connection, [*schools, *(school for school, _ in teachers)])
        said = AccountSaid(
            name=name, role=role, schools=[at[one] for one in schools],
            teachers=[TeacherIs(school=at[school], name=who) for school, who in teachers],
        )  # fmt: skip
        values = {**_checked(connection, said), "password_hash": hashed(password)}
        account = connection.scalar(sa.select(t.account.c.id).where(t.account.c.login == login))
        if account is None:
            row = sa.insert(t.account).values(login=login, **values)
            account = connection.scalar(row.returning(t.account.c.id))
        else:
            row_ = sa.update(t.account).where(t.account.c.id == account)
            connection.execute(row_.values(**values, revision=t.account.c.revision + 1))
            end_sessions(connection, account)
        _grant(connection, int(account or 0), said)
        told = {"account": account, "login": login, **said.model_dump()}
        noted(connection, OPERATOR, "add_account", told)


def said_by_provider(
    connection: sa.Connection, subject: str, login: str, told: SaidElsewhere
) -> int:
    """The account of whom the district's sign-on vouches for, made where there is none, and changed
    where it says something else than before; sessions end with that. An account that has the login
    and no subject yet is theirs: the sign-on is whom the settings name for it."""
    connection.execute(sa.text("LOCK TABLE account IN SHARE ROW EXCLUSIVE MODE"))
    a = t.account.c
    same = sa.func.lower(a.login) == login.lower()
    found = connection.scalar(sa.select(a.id).where(a.subject == subject))
    if found is None:
        found = connection.scalar(sa.select(a.id).where(same, a.subject.is_(None)))
    if found is None:
        if connection.scalar(sa.select(a.id).where(same)) is not None:
            raise InvalidQuestion(f"There is a login “{login}” already, of somebody else.",
                                  kept=UNCHANGED, next_step=ASK_LEAD)  # fmt: skip
        said = told.beside(None)
        row = {"login": login, "subject": subject, **_checked(connection, said)}
        account = int(connection.scalar(sa.insert(t.account).values(**row).returning(a.id)) or 0)
        _grant(connection, account, said)
        noted(connection, BY_PROVIDER, "add_account", {"account": account, "login": login})
        return account
    before = _one(connection, found)
    if before.state == "closed":
        raise NotAllowed("This account is closed.", kept=UNCHANGED, next_step=ASK_LEAD)
    said = told.beside(before)
    changed = _reach(before) != _reach(said) or before.name != said.name
    values: dict[str, object] = {"subject": subject}
    if changed:
        values |= {**_checked(connection, said), "revision": before.revision + 1}
    connection.execute(sa.update(t.account).where(a.id == found).values(**values))
    if changed:
        _grant(connection, found, said)
        _still_led(connection, before)
        end_sessions(connection, found)
        detail = {"account": found, "login": before.login, **said.model_dump()}
        noted(connection, BY_PROVIDER, "change_account", detail)
    return int(found)


def account_called(engine: sa.Engine, login: str) -> Account:
    """The account of a login, for the command line."""
    found = [one for one in list_accounts(engine, OPERATOR) if one.login == login]
    if not found:
        raise NotFound(f"There is no login “{login}”.", next_step="./bridge account list")
    return found[0]


def _checked(connection: sa.Connection, said: AccountSaid) -> dict[str, object]:
    """Name and role of an account; InvalidQuestion for what cannot be, NotFound for a school or
    teacher that is not there."""
    if said.role not in ROLES:
        raise InvalidQuestion(
            f"There is no role “{said.role}”.", next_step=f"Roles: {', '.join(ROLES)}"
        )
    if not said.name.strip():
        raise InvalidQuestion("An account has a name.", kept=UNCHANGED)
    schools = {*said.schools, *(one.school for one in said.teachers)}
    known = set(connection.scalars(sa.select(t.school.c.id).where(t.school.c.id.in_(schools))))
    if schools - known:
        raise NotFound("There is no such school.", kept=UNCHANGED)
    for one in said.teachers:
        if connection.scalar(_staff(one.name)) is None:
            raise NotFound(
                f"There is no teacher “{one.name}”.", kept=UNCHANGED,
                next_step="Take the name as the rosters have it.",
            )  # fmt: skip
    return {"name": said.name.strip(), "role": said.role}


def _staff(name: str) -> sa.Select[tuple[int]]:
    return sa.select(t.staff.c.id).where(t.staff.c.name == name)


def school_ids(connection: sa.Connection, names: Iterable[str]) -> dict[str, int]:
    wanted = set(names)
    query = sa.select(t.school.c.name, t.school.c.id).where(t.school.c.name.in_(wanted))
    known = {row.name: row.id for row in connection.execute(query)}
    for name in wanted - set(known):
        raise NotFound(f"There is no school “{name}”.", kept="No account was made.")
    return known


def _grant(connection: sa.Connection, account: int, said: AccountSaid) -> None:
    """Give an account these schools and teachers, and no others."""
    for table in (t.account_grant, t.account_teacher):
        connection.execute(sa.delete(table).where(table.c.account_id == account))
    for school in sorted(set(said.schools)):
        connection.execute(sa.insert(t.account_grant).values(account_id=account, school_id=school))
    for school, name in sorted({(one.school, one.name) for one in said.teachers}):
        row = {
            "account_id": account,
            "school_id": school,
            "staff_id": _staff(name).scalar_subquery(),
        }
        connection.execute(sa.insert(t.account_teacher).values(**row))


def _reach(said: AccountSaid) -> tuple[object, ...]:
    """What an account may see, by its role and grants."""
    teachers = {(one.school, one.name) for one in said.teachers}
    return said.role, frozenset(said.schools), frozenset(teachers)


def _still_led(connection: sa.Connection, before: Account) -> None:
    """InvalidQuestion where the last data lead who can sign in would be none any more."""
    a = t.account.c
    comes = a.password_hash.is_not(None) | a.subject.is_not(None)
    query = sa.select(a.id).where(a.role == "data_lead", ~a.closed, comes)
    if before.role == "data_lead" and connection.scalar(query.limit(1)) is None:
        raise InvalidQuestion(
            "This is the last data lead: nobody could look after the instance.", kept=UNCHANGED,
            next_step="Invite another one first, who has come in.",
        )  # fmt: skip


def _locked(connection: sa.Connection, account: int) -> Account:
    """The account; others who change accounts wait until this is done."""
    connection.execute(sa.text("LOCK TABLE account IN SHARE ROW EXCLUSIVE MODE"))
    return _one(connection, account)


def _one(connection: sa.Connection, account: int) -> Account:
    found = _accounts(connection, t.account.c.id == account)
    if not found:
        raise NotFound("There is no such account.", kept=UNCHANGED)
    return found[0]


def _accounts(connection: sa.Connection, *which: sa.ColumnElement[bool]) -> list[Account]:
    a, s = t.account.c, u.session.c
    newest = sa.select(sa.func.max(s.seen)).where(s.account_id == a.id).scalar_subquery()
    query = sa.select(t.account, newest.label("seen"))
    rows = connection.execute(query.where(*which).order_by(a.closed, a.name, a.id)).all()
    schools: dict[int, list[int]] = {}
    for one in connection.execute(sa.select(t.account_grant).order_by(t.account_grant.c.id)):
        schools.setdefault(one.account_id, []).append(one.school_id)
    teachers: dict[int, list[TeacherIs]] = {}
    taught = (
        sa.select(t.account_teacher.c.account_id, t.account_teacher.c.school_id, t.staff.c.name)
        .join(t.staff, t.staff.c.id == t.account_teacher.c.staff_id)
        .order_by(t.account_teacher.c.id)
    )
    for one in connection.execute(taught):
        told = TeacherIs(school=one.school_id, name=one.name)
        teachers.setdefault(one.account_id, []).append(told)
    return [
        Account(
            id=row.id, login=row.login, name=row.name, role=row.role,
            schools=schools.get(row.id, []), teachers=teachers.get(row.id, []),
            state="closed" if row.closed
            else "open" if row.password_hash or row.subject else "invited",
            codes=row.code_secret is not None, provider=row.subject is not None,
            seen=row.seen, revision=row.revision,
        )
        for row in rows
    ]  # fmt: skip
