"""The order of rows: by the columns that are asked for; undefined last."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import TypeVar

from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion

R = TypeVar("R")


def in_order(
    rows: Sequence[R],
    sort: Sequence[q.SortBy],
    sortable: Sequence[str],
    what: str,
    value: Callable[[R, str], object],
) -> list[R]:
    """Rows by the wanted columns, of those that they can be sorted by; InvalidQuestion names
    these. `what`: how the rows are called; `value`: a row's value in a column, None = undefined."""
    out = list(rows)
    for by in reversed(sort):
        if by.by not in sortable:
            raise InvalidQuestion(
                f"{what} cannot be sorted by “{by.by}”.",
                next_step=f"They can by: {', '.join(sortable)}.",
            )
        have = [row for row in out if value(row, by.by) is not None]
        lack = [row for row in out if value(row, by.by) is None]
        have.sort(key=lambda row: sort_key(value(row, by.by)), reverse=by.dir == "desc")
        out = have + lack
    return out


def sort_key(value: object) -> tuple[object, ...]:
    """“Year 10” after “Year 9”: runs of digits in a text compare as numbers."""
    if not isinstance(value, str):
        return (value,)
    parts = re.split(r"(\d+)", value.lower())
    return tuple((0, int(part), "") if part.isdigit() else (1, 0, part) for part in parts)
