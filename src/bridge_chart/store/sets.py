"""Saved groups of students: by a rule (stays live) or as a fixed list; never changed, only
retired, so that a question that names one always means the same."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
import sqlalchemy as sa
from numpy.typing import NDArray

from bridge_chart.store import tables as t
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
    table = t.student_set
    mine = table.c.account_id.is_not_distinct_from(account_id)
    query = (
        sa.select(table, mine.label("own")).where(mine | table.c.shared).order_by(table.c.id.desc())
    )
    return [_set(row) for row in connection.execute(query).mappings()]


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
