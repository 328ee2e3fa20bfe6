"""The order of a list: by its groups, then by any of its columns, one after the other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.shows.students.made import Made
from bridge_chart.store.snapshot import Array
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion


def ordered(columns: list[Made], sort: Sequence[q.SortBy], first: str, code: Array) -> Array:
    """Places of the rows in their order; empty values last either way. `first`: by what where
    nothing is asked for; code: (rows,) the group of each."""
    by = {column.key: column.sorts for column in columns}
    usual = [q.SortBy(by=key) for key in (first if first in by else "level", "name") if key in by]
    order = np.arange(len(code))
    for wanted in reversed([*sort] or usual):
        if wanted.by not in by:
            raise InvalidQuestion(
                f"Students cannot be sorted by “{wanted.by}”.",
                next_step=f"They can by: {', '.join(by)}.",
            )
        values = by[wanted.by][order]
        empty = np.isnan(values) if values.dtype == float else values == ""
        if values.dtype != float:
            values = np.array([str(v).casefold() for v in values])
        ranked = np.unique(values, return_inverse=True)[1]
        ranked = -ranked if wanted.dir == "desc" else ranked
        order = order[np.lexsort((np.arange(len(order)), ranked, empty))]
    return order[np.argsort(code[order], kind="stable")]
