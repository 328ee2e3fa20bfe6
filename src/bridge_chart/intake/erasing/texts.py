"""What people and the program wrote, without some students: their numbers and full names are
“(erased)”, their ids taken out of questions and lists.

A mention by first name alone is not found; the receipt says so.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import sqlalchemy as sa
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

from bridge_chart.intake.erasing.persons import Persons
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u

LOOKED_THROUGH: tuple[sa.Column[Any], ...] = (
    t.version.c.summary,
    t.source.c.name,
    t.batch.c.title, t.batch.c.settings, t.batch.c.counts, t.batch.c.columns,
    t.draft.c.settings, t.draft.c.understood,
    t.work.c.said, t.work.c.took, t.work.c.kept, t.work.c.error,
    t.set_aside.c.cells, t.table_row.c.cells, t.written.c.text,
    u.student_set.c.name, u.student_set.c.rule,
    u.saved_question.c.name, u.saved_question.c.question, u.saved_question.c.plan,
    u.student_note.c.text, u.note.c.text, u.attachment.c.name, u.release.c.title,
    u.backup.c.file, u.backup.c.trouble,
    u.erasure.c.reference, u.erasure.c.receipt, u.erasure.c.trouble,
)  # fmt: skip
"""Columns in which somebody, or a file, may have named a student."""
NAMES_OF_OTHERS = frozenset({
    "account", "staff", "school", "school_class", "characteristic", "characteristic_option",
    "subject", "assessment", "sitting", "scale", "step", "form", "paper", "option_list",
    "claim_kind", "credit", "district_words", "sight", "api_token",
})  # fmt: skip
"""Tables whose texts name what is no student: colleagues, places, tests, the district's words."""
NO_WORDS = frozenset({
    "account.code_secret", "draft.id", "draft.kind", "work.draft_id", "work.doing", "work.kind",
    "work.token", "work.state", "work.phase", "batch.kind", "batch.academic_year",
    "batch_event.event", "set_aside.reason", "source.sha256", "audit.login", "audit.action",
    "student.number", "alias.text", "student_detail.given_name", "student_detail.family_name",
    "table_row.kind", "written.question", "attachment.kind", "attachment.media",
    "note.question_key", "saved_question.shared_with", "session.digest", "session.provider_token",
    "one_time_link.digest", "sign_in_try.who", "recovery_code.digest", "erasure.state",
    "audit.detail",
})  # fmt: skip
"""Texts of the program's own, or that go with their student; the audit has a way of its own."""


def take_out_of_texts(connection: sa.Connection, them: Persons) -> dict[str, int]:
    """How many texts of each table were changed."""
    changed: dict[str, int] = {}
    for column in LOOKED_THROUGH:
        n = sum(1 for _ in _rewritten(connection, column, them))
        if n:
            table = str(column.table.name)
            changed[table] = changed.get(table, 0) + n
    retired = _retire_emptied(connection)
    return changed | ({"retired": retired} if retired else {})


def take_out_of_audit(connection: sa.Connection, them: Persons) -> int:
    """The same for the audit, which nobody else may change; how many lines were."""
    connection.execute(sa.text("ALTER TABLE audit DISABLE TRIGGER audit_only_grows"))
    n = sum(1 for _ in _rewritten(connection, t.audit.c.detail, them))
    connection.execute(sa.text("ALTER TABLE audit ENABLE TRIGGER audit_only_grows"))
    return n


def _rewritten(connection: sa.Connection, column: sa.Column[Any], them: Persons) -> Iterator[None]:
    """Each row of a column that named them, changed."""
    table = column.table
    key = list(table.primary_key.columns) or [table.c.batch_id, table.c.row]
    for row in connection.execute(sa.select(*key, column.label("held")).where(_may(column, them))):
        made = them.without(row.held)
        if made != row.held:
            here = [one == value for one, value in zip(key, row, strict=False)]
            connection.execute(
                sa.update(table).where(*here, column == row.held).values({column.name: made})
            )
            yield


def _may(column: sa.Column[Any], them: Persons) -> sa.ColumnElement[bool]:
    """Which rows are worth a look: those that hold one of the needles, or an id in a list."""
    text = sa.cast(column, sa.Text)
    needles = [f"%{_escaped(one)}%" for one in them.needles]
    told: sa.ColumnElement[bool] = text.ilike(sa.any_(sa.cast(needles, ARRAY(sa.Text))))
    if isinstance(column.type, JSONB):
        told |= text.like("%student%")
        short = [f'%"{_escaped(one)}"%' for one in them.numbers]
        told |= text.like(sa.any_(sa.cast(short, ARRAY(sa.Text))))
    return told


def _escaped(text: str) -> str:
    return text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")


def _retire_emptied(connection: sa.Connection) -> int:
    """Questions and rules that were about nobody else are asked no more."""
    n = 0
    for table, column in (
        (u.saved_question, u.saved_question.c.question), (u.student_set, u.student_set.c.rule)
    ):  # fmt: skip
        empty = sa.func.jsonb_path_exists(
            column, sa.text("'$.** ? (@.field == \"student\" && @.in.size() == 0)'::jsonpath")
        )
        about_nobody = sa.update(table).where(column.is_not(None), empty, ~table.c.retired)
        done = connection.execute(about_nobody.values(retired=True))
        n += done.rowcount
    return n
