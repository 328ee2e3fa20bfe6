"""Saved groups of students: by a rule (stays live) or as a fixed list; never changed, only
retired, so that a question that names one always means the same."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.store import use_tables as u
from bridge_chart.terms.question import Who


@dataclass(frozen=True)
class StudentSet:
    """`rule`: the population that it stays; `students`: ids of a fixed list; one of the two."""

    id: int
    name: str
    shared: bool
    own: bool
    retired: bool
    rule: Who | None
    students: NDArray[np.int32] | None


def sets_for(connection: sa.Connection, account_id: int | None) -> list[StudentSet]:
    """The groups that a person may use: their own, and those that others share; newest first.
    Retired ones are among them, for questions that name them still hold."""
    table = u.student_set
    mine = table.c.account_id.is_not_distinct_from(account_id)
    query = (
        sa.select(table, mine.label("own")).where(mine | table.c.shared).order_by(table.c.id.desc())
    )
    return [_set(row) for row in connection.execute(query).mappings()]


def reached_by(connection: sa.Connection, named: Mapping[int, StudentSet]) -> dict[int, StudentSet]:
    """Groups, and every group that a rule of theirs names, at any depth: a shared group means the
    same to everybody, whatever its maker made it of."""
    out = dict(named)
    while True:
        wanted = {i for one in out.values() if one.rule for i in _named_in(one.rule)} - set(out)
        if not wanted:
            return out
        query = sa.select(u.student_set, sa.false().label("own")).where(
            u.student_set.c.id.in_(wanted)
        )
        found = {one.id: one for one in map(_set, connection.execute(query).mappings())}
        if not found:
            return out
        out |= found


def _named_in(rule: Who) -> set[int]:
    """The ids of groups that a rule names."""

    def look(value: Any) -> Iterator[int]:
        if isinstance(value, dict):
            if isinstance(value.get("set"), int):
                yield value["set"]
            for item in value.values():
                yield from look(item)
        elif isinstance(value, list):
            for item in value:
                yield from look(item)

    return set(look(rule.model_dump(mode="json", by_alias=True)))


def private_in(connection: sa.Connection, rule: Who) -> list[str]:
    """The names of groups in a rule that are not shared."""
    ids = _named_in(rule)
    query = sa.select(u.student_set.c.name).where(
        u.student_set.c.id.in_(ids), ~u.student_set.c.shared
    )
    return [str(name) for name in connection.scalars(query)] if ids else []


def _set(row: Any) -> StudentSet:
    rule, students = row["rule"], row["students"]
    return StudentSet(
        id=row["id"],
        name=row["name"],
        shared=row["shared"],
        own=row["own"],
        retired=row["retired"],
        rule=None if rule is None else Who.model_validate(rule),
        students=None if students is None else np.array(students, np.int32),
    )
