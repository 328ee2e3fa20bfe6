"""The last row of a list, and of each of its groups: what its columns come to."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.shows.students.body import CountOf, Total
from bridge_chart.answers.shows.students.made import Made
from bridge_chart.core.describing.describe import describe
from bridge_chart.store.snapshot import Array

MOST_VALUES = 6
"""A column of more values than these is not counted up."""


def totals(column: Made, code: Array, groups: int) -> list[Total]:
    """A total for each group of the rows; code −1 is in none.

    Figures: mean with its t interval, and median, of those who have one. Words: how many have
    which, where they are few; names and numbers are never counted up.
    """
    if column.sorts.dtype == float and column.spec.kind != "text":
        return _figures(column, code, groups)
    return [_words(column, code == group) for group in range(groups)]


def _figures(column: Made, code: Array, groups: int) -> list[Total]:
    found = describe(column.values, code, groups)
    away = column.beside.get("away")

    def told(values: Array, group: int) -> float | None:
        return None if np.isnan(values[group]) else float(values[group])

    return [
        Total(
            n=int(found.n[group]), missing=int(found.missing[group]),
            mean=told(found.mean, group), low=told(found.low, group), high=told(found.high, group),
            median=told(found.median, group),
            met=None if away is None else _met(away, code == group),
        )
        for group in range(groups)
    ]  # fmt: skip


def _met(away: Array, mine: Array) -> int:
    return int(np.count_nonzero(away[mine] >= 0))


def _words(column: Made, mine: Array) -> Total:
    values = column.values[mine]
    there = [str(value) for value in values.tolist() if value]
    total = Total(n=len(there), missing=len(values) - len(there))
    away = column.beside.get("away")
    if away is not None:
        total = total.model_copy(update={"met": _met(away, mine)})
    if column.spec.asked is None or column.spec.asked == "notes":
        return total
    names, n = np.unique(np.array(there, object).astype(str), return_counts=True)
    if len(names) > MOST_VALUES:
        return total
    ranks = np.argsort(-n, kind="stable")
    counts = [CountOf(label=str(names[at]), n=int(n[at])) for at in ranks]
    return total.model_copy(update={"counts": counts})
