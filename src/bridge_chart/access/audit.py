"""Who signed in, looked at which students, took what out, and changed what.

Lines are only added; a trigger of the record refuses anything else.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from typing import Any

import sqlalchemy as sa
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access.rules import require
from bridge_chart.store import tables as t
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.people import Actor

ACTIONS = {
    "sign_in": "signed in",
    "sign_in_refused": "could not sign in",
    "sign_out": "signed out",
    "see_as": "looked as somebody else sees",
    "sign_out_everywhere": "signed out everywhere",
    "new_password": "changed their password",
    "start_codes": "began to sign in with one-time codes",
    "end_codes": "signs in without one-time codes again",
    "take_codes_away": "took somebody's one-time codes away",
    "make_token": "made a token for a program",
    "revoke_token": "revoked a token",
    "use_link": "came in by a one-time link",
    "refused": "was refused what their role does not allow",
    "open_student": "opened a student's page",
    "open_students": "listed students",
    "find_students": "found students by name",
    "open_lines": "opened lines of a file",
    "open_aside": "opened rows set aside",
    "open_grid": "opened a grid",
    "open_attachment": "opened an attachment",
    "try_award": "tried a rule on students",
    "list_effect": "looked at what a list came to",
    "export": "took numbers out",
    "keep": "kept a file",
    "undone": "undid a file",
    "kept": "put a file back",
    "forget": "took a remembered number back",
    "attach": "attached a paper",
    "remove_attachment": "removed an attachment",
    "keep_list": "kept a list",
    "change_list": "changed a list",
    "share_list": "shared a list",
    "note_student": "wrote a note about a student",
    "save_group": "saved a group",
    "retire_group": "retired a group",
    "pair": "paired two classes",
    "end_pairing": "ended a pairing",
    "release": "released the district's figures",
    "say_who_sees": "said who sees what",
    "say_words": "said the district's words",
    "first_link": "made the first data lead's link",
    "invite": "invited somebody",
    "add_account": "made an account",
    "change_account": "changed an account",
    "close_account": "closed an account",
    "open_account": "opened an account again",
    "send_link": "made a one-time link",
    "end_sessions": "signed somebody out",
    "backup": "backed the record up",
    "restore": "restored the record from a backup",
    "ask_erasure": "asked that students be erased",
    "erase": "erased students from the record",
    "say_retention": "said how long records are kept",
    "forget_audit": "removed old lines of the audit",
    "export_student": "took out everything held of a student",
    "mend_snapshot": "mended what is worked out of the record",
}
"""Everything that is noted, in words that finish “somebody …”."""
MOST = 500
MOST_WRITTEN = 200_000
TOLD = ("title", "name", "sentence", "page", "text", "path", "login", "address", "what", "show")
"""What a line is about, where it says it, in this order."""


class AuditAsked(BaseModel):
    """Which lines: of a login, an action, a student's number, of days; older than a line's id."""

    model_config = ConfigDict(extra="forbid")
    login: str = Field(default="", max_length=200)
    action: str = Field(default="", max_length=40)
    number: str = Field(default="", max_length=200)
    since: dt.date | None = None
    until: dt.date | None = None
    before: int | None = None
    size: int = Field(default=100, ge=1, le=MOST)


class AuditLine(BaseModel):
    """Who did what and when; `about`: in words; `students`: how many it names; `detail`: as it was
    noted."""

    id: int
    at: dt.datetime
    login: str
    action: str
    says: str
    about: str
    students: int
    detail: dict[str, Any]


class AuditPage(BaseModel):
    """The newest first; `more`: older ones are there."""

    lines: list[AuditLine]
    more: bool


def noted(connection: sa.Connection, actor: Actor, action: str, detail: dict[str, Any]) -> None:
    """Write one line of the audit in the transaction of what it speaks of: both stand, or
    neither. An action that has no words is a bug."""
    assert action in ACTIONS, action
    if actor.seeing_as:
        detail = {**detail, "as": actor.seeing_as}
    connection.execute(
        sa.insert(t.audit).values(
            account_id=actor.account_id, login=actor.login, action=action, detail=detail
        )
    )


def note(engine: sa.Engine, actor: Actor, action: str, detail: dict[str, Any]) -> None:
    """Write one line of the audit; it is committed before the answer leaves."""
    with engine.begin() as connection:
        noted(connection, actor, action, detail)


def audit_page(engine: sa.Engine, actor: Actor, asked: AuditAsked) -> AuditPage:
    """Lines that fit, a page of them."""
    require(actor, "audit")
    with engine.connect() as connection:
        query = _query(connection, asked).limit(asked.size + 1)
        lines = [_line(row) for row in connection.execute(query)]
    return AuditPage(lines=lines[: asked.size], more=len(lines) > asked.size)


def audit_rows(
    engine: sa.Engine, actor: Actor, asked: AuditAsked
) -> tuple[list[str], list[list[object]]]:
    """Heads and lines of all that fit, for a file; that they were taken out is noted."""
    require(actor, "audit")
    said = asked.model_dump(mode="json", exclude_defaults=True)
    note(engine, actor, "export", {"show": "audit", **said})
    with engine.connect() as connection:
        query = _query(connection, asked).limit(MOST_WRITTEN)
        rows: list[list[object]] = [
            [one.at.isoformat(), one.login, one.action, one.says, one.about, one.students]
            for one in map(_line, connection.execute(query))
        ]
    return ["at", "login", "action", "what", "about", "students"], rows


def _query(connection: sa.Connection, asked: AuditAsked) -> sa.Select[Any]:
    a = t.audit.c
    query = sa.select(t.audit).order_by(a.id.desc())
    if asked.action:
        if asked.action not in ACTIONS:
            raise InvalidQuestion(f"Nothing called “{asked.action}” is noted.",
                                  next_step=f"Known are: {', '.join(ACTIONS)}.")  # fmt: skip
        query = query.where(a.action == asked.action)
    if asked.login:
        query = query.where(a.login == asked.login)
    if asked.number:
        found = connection.scalar(
            sa.select(t.student.c.id).where(t.student.c.number == asked.number)
        )
        if found is None:
            raise NotFound(f"There is no student with the number “{asked.number}”.")
        one, several = {"student": found}, {"students": [found]}
        query = query.where(a.detail.contains(one) | a.detail.contains(several))
    if asked.since:
        query = query.where(a.at >= asked.since)
    if asked.until:
        query = query.where(a.at < asked.until + dt.timedelta(days=1))
    if asked.before is not None:
        query = query.where(a.id < asked.before)
    return query


def _line(row: sa.Row[Any]) -> AuditLine:
    detail = dict(row.detail)
    listed = detail.get("students")
    students = len(listed) if isinstance(listed, list) else int("student" in detail)
    return AuditLine(
        id=row.id, at=row.at, login=row.login, action=row.action,
        says=ACTIONS.get(row.action, row.action), about="; ".join(_about(detail)),
        students=students, detail=detail,
    )  # fmt: skip


def _about(detail: dict[str, Any]) -> Iterator[str]:
    for key in TOLD:
        value = detail.get(key)
        if isinstance(value, str) and value:
            yield value[:200]
