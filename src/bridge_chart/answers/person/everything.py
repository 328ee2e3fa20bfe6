"""Everything that is held of one student, as an archive of open tables: for the student or their
family, who may ask what is known of them."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

import polars as pl
import sqlalchemy as sa

from bridge_chart.access.audit import ACTIONS, note
from bridge_chart.access.rules import require
from bridge_chart.access.scoped import seen_by
from bridge_chart.intake.drafts.kept_files import MOST_LINES, file_lines
from bridge_chart.intake.erasing.persons import FACT_TABLES
from bridge_chart.output.archive import archive_of
from bridge_chart.output.csv import to_csv
from bridge_chart.output.tidy import TABLES, frame_of
from bridge_chart.store import tables as t
from bridge_chart.store import use_tables as u
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.people import Actor

Table = tuple[list[str], list[list[Any]]]
SAYS = {
    **{name: f"The merged record's {name}, as it counts now" for name in TABLES},
    "lines": "Every line of theirs in every file that was kept, undone ones too, cell by cell",
    "notes": "What colleagues wrote about them",
    "lists": "Lists and groups that name them",
    "looked_at": "Who opened or took out what of them, and when",
}


def batched(lines: list[int], size: int) -> Iterator[list[int]]:
    """Lines in parts of one size.

    >>> list(batched([1, 2, 3], 2))
    [[1, 2], [3]]
    """
    yield from (lines[at : at + size] for at in range(0, len(lines), size))


def everything_of(engine: sa.Engine, settings: Settings, actor: Actor, student: int) -> bytes:
    """A ZIP with one CSV a table, and `about.json`, which says what each is. Noted in the audit;
    NotFound where there is no such student."""
    require(actor, "erase")
    with engine.connect() as connection:
        number = connection.scalar(sa.select(t.student.c.number).where(t.student.c.id == student))
        if number is None:
            raise NotFound("There is no such student.")
        made: dict[str, Table] = {
            "notes": _notes(connection, student),
            "lists": _lists(connection, student),
            "looked_at": _looked_at(connection, student),
        }
        places = _places(connection, student)
    made |= {"lines": _lines(engine, places)}
    snapshot = seen_by(engine, settings.snapshots, actor)
    for name in TABLES:
        frame = frame_of(name, snapshot).filter(pl.col("number") == number)
        made[name] = (frame.columns, [list(row) for row in frame.rows()])
    note(engine, actor, "export_student", {"student": student})
    about = {"number": number, "version": snapshot.version, "tables": {
        name: {"says": SAYS[name], "rows": len(made[name][1])} for name in SAYS
    }}  # fmt: skip
    told = json.dumps(about, ensure_ascii=False, indent=1)
    return archive_of({"about.json": told,
                       **{f"{name}.csv": to_csv(*made[name]) for name in SAYS}})  # fmt: skip


def _places(connection: sa.Connection, student: int) -> dict[int, tuple[str, list[int]]]:
    """Batch → its file, and the lines that are theirs."""
    lines: dict[int, set[int]] = {}
    for table in FACT_TABLES:
        c = table.c
        mine = sa.select(c.batch_id, c.row).where(c.student_id == student).distinct()
        for batch, row in connection.execute(mine):
            lines.setdefault(batch, set()).add(row)
    named = sa.select(t.batch.c.id, t.source.c.name).join(t.source)
    files = {
        row.id: str(row.name) for row in connection.execute(named.where(t.batch.c.id.in_(lines)))
    }
    return {batch: (files[batch], sorted(lines[batch])) for batch in sorted(lines)}


def _lines(engine: sa.Engine, places: dict[int, tuple[str, list[int]]]) -> Table:
    def cells() -> Iterator[list[Any]]:
        for batch, (file, lines) in places.items():
            for part in batched(lines, MOST_LINES):
                heads, rows = file_lines(engine, batch, part)
                for line, held in rows:
                    named = zip(heads, held, strict=False)
                    yield from ([file, batch, line, head, cell] for head, cell in named if cell)

    return ["file", "batch", "line", "column", "cell"], list(cells())


def _notes(connection: sa.Connection, student: int) -> Table:
    n = u.student_note.c
    query = (
        sa.select(n.at, t.account.c.name, n.shared, n.text)
        .outerjoin(t.account, t.account.c.id == n.account_id)
        .where(n.student_id == student, ~n.removed)
        .order_by(n.id)
    )
    rows = connection.execute(query)
    return ["at", "by", "shared", "text"], [
        [at.isoformat(), by or "the operator", "yes" if shared else "no", text]
        for at, by, shared, text in rows
    ]


def _lists(connection: sa.Connection, student: int) -> Table:
    s, q = u.student_set.c, u.saved_question.c
    named = (
        sa.select(s.name)
        .where(sa.literal(student) == sa.any_(s.students), ~s.retired)
        .order_by(s.id)
    )
    path = sa.cast(
        f'$.** ? (@.field == "student" && @.in[*] == {int(student)})',
        sa.dialects.postgresql.JSONPATH,
    )
    asked = sa.select(q.name).where(sa.func.jsonb_path_exists(q.question, path), ~q.retired)
    rows = [["group", name] for name in connection.scalars(named)]
    rows += [["list or question", name] for name in connection.scalars(asked.order_by(q.id))]
    return ["kind", "name"], rows


def _looked_at(connection: sa.Connection, student: int) -> Table:
    a = t.audit.c
    mine = a.detail.contains({"student": student}) | a.detail.contains({"students": [student]})
    query = sa.select(a.at, a.login, a.action).where(mine).order_by(a.id)
    rows = [
        [at.isoformat(), login, ACTIONS.get(action, action)]
        for at, login, action in connection.execute(query)
    ]
    return ["at", "login", "what"], rows
