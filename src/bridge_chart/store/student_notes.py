"""What people wrote about students: with author, day, and the list in which it was written."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

import sqlalchemy as sa

from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u


@dataclass(frozen=True)
class StudentNote:
    """`own`: of the account that asks; `question_id`: the list in which it was written."""

    id: int
    student_id: int
    text: str
    at: dt.datetime
    by: str
    own: bool
    shared: bool
    question_id: int | None


def notes_seen(
    connection: sa.Connection, account_id: int | None, *, others: bool,
    student_id: int | None = None,
) -> list[StudentNote]:  # fmt: skip
    """The notes that an account may read, newest first: its own, and with `others` those that are
    shared. Whether it may see the student, whoever shows them must know."""
    table = u.student_note
    mine = table.c.account_id.is_not_distinct_from(account_id)
    query = (
        sa.select(table, mine.label("own"), t.account.c.name.label("by"))
        .outerjoin(t.account, t.account.c.id == table.c.account_id)
        .where(~table.c.removed, mine | (table.c.shared if others else sa.false()))
        .order_by(table.c.id.desc())
    )
    if student_id is not None:
        query = query.where(table.c.student_id == student_id)
    return [
        StudentNote(
            id=row["id"], student_id=row["student_id"], text=row["text"], at=row["at"],
            by=row["by"] or "the operator", own=row["own"], shared=row["shared"],
            question_id=row["question_id"],
        )
        for row in connection.execute(query).mappings()
    ]  # fmt: skip


def add_student_note(
    connection: sa.Connection, account_id: int | None, student_id: int, text: str,
    *, shared: bool, question_id: int | None,
) -> int:  # fmt: skip
    """Keep a note; its id."""
    values = {"account_id": account_id, "student_id": student_id, "text": text, "shared": shared,
              "question_id": question_id}  # fmt: skip
    made = sa.insert(u.student_note).values(**values).returning(u.student_note.c.id)
    return int(connection.scalar(made) or 0)
