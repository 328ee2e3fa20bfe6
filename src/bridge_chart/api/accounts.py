"""Who uses it, over HTTP: invited, changed, closed, listed by a data lead."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access import managing
from bridge_chart.access.codes import take_codes_away
from bridge_chart.access.links import Link
from bridge_chart.access.managing import Account, AccountSaid, Invited, NewAccount
from bridge_chart.access.teachers import TeacherFound, teachers_like
from bridge_chart.api.context import actor, as_json, instance, rule, seen_now
from bridge_chart.api.reading import Identity
from bridge_chart.terms.people import ROLES

api = APIBlueprint("accounts", __name__, url_prefix="/api")


class AccountPath(BaseModel):
    account: Identity


class Schools(BaseModel):
    id: int
    name: str


class AccountList(BaseModel):
    """Everybody, the roles that there are, and the schools that may be granted."""

    accounts: list[Account]
    roles: list[str]
    schools: list[Schools]


class ChangedAccount(AccountSaid):
    """All that is said of an account; `revision`: of what it replaces."""

    revision: int


class ClosedBody(BaseModel):
    model_config = ConfigDict(extra="forbid")
    closed: bool


class TeacherQuery(BaseModel):
    text: str = Field(max_length=200)


class TeacherList(BaseModel):
    teachers: list[TeacherFound]


@api.get("/accounts", responses={200: AccountList}, operation_id="listAccounts")
@rule("accounts")
def get_accounts() -> Response:
    """Who may sign in, by name."""
    schools = [Schools(id=one.id, name=one.name) for one in seen_now().schools]
    found = managing.list_accounts(instance().engine, actor())
    return as_json(AccountList(accounts=found, roles=list(ROLES), schools=schools))


@api.post("/accounts", responses={201: Invited}, operation_id="invite")
@rule("accounts")
def post_account(body: NewAccount) -> Response:
    """Invite somebody: the link, by which they say a password, is shown this once."""
    return as_json(managing.invite(instance().engine, actor(), body), 201)


@api.put("/accounts/<int:account>", responses={200: Account}, operation_id="changeAccount")
@rule("accounts")
def put_account(path: AccountPath, body: ChangedAccount) -> Response:
    """Say an account's name, role, schools and teachers anew."""
    said = AccountSaid(**body.model_dump(exclude={"revision"}))
    made = managing.change(instance().engine, actor(), path.account, said, body.revision)
    return as_json(made)


@api.put("/accounts/<int:account>/closed", responses={200: Account}, operation_id="closeAccount")
@rule("accounts")
def put_closed(path: AccountPath, body: ClosedBody) -> Response:
    """Close an account, or open it again."""
    made = managing.set_closed(instance().engine, actor(), path.account, closed=body.closed)
    return as_json(made)


@api.delete("/accounts/<int:account>/codes", responses={200: Account}, operation_id="takeCodesAway")
@rule("accounts")
def delete_codes(path: AccountPath) -> Response:
    """For somebody who lost what makes their codes: sign-in asks for none until they start anew."""
    here = instance()
    take_codes_away(here.engine, actor(), path.account)
    held = managing.list_accounts(here.engine, actor())
    return as_json(next(one for one in held if one.id == path.account))


@api.post("/accounts/<int:account>/link", responses={201: Link}, operation_id="sendLink")
@rule("accounts")
def post_link(path: AccountPath) -> Response:
    """A new one-time link, for a first password or a new one."""
    return as_json(managing.send_link(instance().engine, actor(), path.account), 201)


@api.delete("/accounts/<int:account>/sessions", responses={200: Account},
            operation_id="endSessions")  # fmt: skip
@rule("accounts")
def delete_sessions(path: AccountPath) -> Response:
    """Sign somebody out everywhere."""
    return as_json(managing.end_all_sessions(instance().engine, actor(), path.account))


@api.get("/teachers", responses={200: TeacherList}, operation_id="teachersLike")
@rule("accounts")
def get_teachers(query: TeacherQuery) -> Response:
    """Teachers of the rosters with a name near this one."""
    return as_json(TeacherList(teachers=teachers_like(seen_now(), query.text)))
