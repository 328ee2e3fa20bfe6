"""Who some students are in the record: by what their own lines in files are told, and what else
names them."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import sqlalchemy as sa

from bridge_chart.intake.reading.whose import SURE_LENGTH
from bridge_chart.store import tables as t

INSTEAD = "(erased)"
STUDENT_TABLES = tuple(
    table for table in t.metadata.sorted_tables if "student_id" in table.c
)  # fmt: skip
"""Every table with rows of a student."""
FACT_TABLES = tuple(table for table in STUDENT_TABLES if {"batch_id", "row"} <= set(table.c.keys()))


@dataclass(frozen=True)
class Persons:
    """Students: ids and marks; numbers: theirs, and what files wrote instead; names: given and
    family, each as it ever was."""

    ids: tuple[int, ...]
    marks: tuple[str, ...]
    numbers: tuple[str, ...]
    names: tuple[tuple[str, str], ...]

    @property
    def sure_numbers(self) -> list[str]:
        return [one for one in self.numbers if len(one) >= SURE_LENGTH]

    @cached_property
    def needles(self) -> list[str]:
        """What a text holds, in any case, that may name one of them."""
        held = {max(name, key=len) for name in self.names if all(name)}
        return sorted({*self.sure_numbers, *held})

    @cached_property
    def _named(self) -> re.Pattern[str] | None:
        told = [re.escape(one) for one in self.sure_numbers]
        for given, family in self.names:
            if given and family:
                first, last = (r"\s+".join(map(re.escape, one.split())) for one in (given, family))
                told += [rf"{first}\s+{last}", rf"{last}\s*,?\s+{first}"]
        ways = "|".join(sorted(told, key=len, reverse=True))
        return re.compile(rf"(?<!\w)(?:{ways})(?!\w)", re.IGNORECASE) if told else None

    def without(self, value: Any) -> Any:
        """A value of JSON, or a text, that names them no more: their numbers and full names are
        “(erased)”, their ids taken out of lists of students."""
        if isinstance(value, str):
            if value in self.numbers:
                return INSTEAD
            return self._named.sub(INSTEAD, value) if self._named else value
        if isinstance(value, list):
            return [self.without(one) for one in value if not self._is_of_them(one)]
        if isinstance(value, dict):
            made = {self.without(key): self.without(one) for key, one in value.items()}
            return made | self._lists(value)
        return value

    def _is_of_them(self, value: Any) -> bool:
        return isinstance(value, dict) and value.get("student") in self.ids

    def _lists(self, value: dict[str, Any]) -> dict[str, Any]:
        """A condition on students without them."""
        if value.get("field") != "student" or not isinstance(value.get("in"), list):
            return {}
        theirs = {*self.ids, *map(str, self.ids), *self.numbers}
        return {"in": [one for one in value["in"] if one not in theirs]}


def persons(connection: sa.Connection, marks: Sequence[str]) -> Persons:
    """The students of these marks who are in the record still."""
    s = t.student.c
    rows = connection.execute(
        sa.select(s.id, s.mark, s.number).where(s.mark.in_(list(marks))).order_by(s.id)
    ).all()
    ids = [row.id for row in rows]
    alias, detail = t.alias.c, t.student_detail.c
    written = connection.scalars(sa.select(alias.text).where(alias.student_id.in_(ids)))
    named = connection.execute(
        sa.select(detail.given_name, detail.family_name).where(detail.student_id.in_(ids))
    )
    return Persons(
        tuple(ids), tuple(str(row.mark) for row in rows),
        tuple(sorted({*(row.number for row in rows), *written})),
        tuple(sorted({(row[0] or "", row[1] or "") for row in named})),
    )  # fmt: skip
