"""A column of a list as it is made: values for every row, before any order or page."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from bridge_chart.answers.shows.students.body import StudentColumn
from bridge_chart.store.snapshot import Array


@dataclass(frozen=True, eq=False)
class Made:
    """values: (rows,) float64 with NaN, or texts with ""; rank: what it is sorted by, where that
    is not the values; beside: what stands beside the values, by its name in `StudentColumn`."""

    spec: StudentColumn
    values: Array
    rank: Array | None = None
    beside: Mapping[str, Array] = field(default_factory=dict)

    @property
    def key(self) -> str:
        return self.spec.key

    @property
    def sorts(self) -> Array:
        return self.values if self.rank is None else self.rank

    def shown(self, rows: Array, **more: Any) -> StudentColumn:
        """The column with the values of some rows."""
        cells = {name: cells_of(values[rows]) for name, values in self.beside.items()}
        return self.spec.model_copy(update={"values": cells_of(self.values[rows]), **cells, **more})


def cells_of(values: Array) -> list[Any]:
    """Values as an answer writes them: NaN is null."""
    if values.dtype.kind == "f":
        return [None if v != v else v for v in values.tolist()]
    return [value if isinstance(value, float | int) else str(value) for value in values.tolist()]


def text(key: str, label: str, values: Array, **more: Any) -> Made:
    """A column of words."""
    return Made(StudentColumn(key=key, label=label, kind="text", values=[], **more), values)


def figures(key: str, label: str, values: Array, **more: Any) -> Made:
    """A column of figures; `kind`: “signed” for distances."""
    values = np.asarray(values, float)
    told = {"kind": "number", "values": [], "decimals": decimals_of(values), **more}
    return Made(StudentColumn(key=key, label=label, **told), values)


def decimals_of(values: Array) -> int:
    """With how many decimals every figure of a column is written, so that they stand in line: as
    many as they have, or one where they have more than two.

    >>> [decimals_of(np.array(a)) for a in ([1.0, np.nan], [1.5, 2.0], [1.25, 2.0], [1 / 3])]
    [0, 1, 2, 1]
    """
    there = values[np.isfinite(values)]
    exact = (n for n in (0, 1, 2) if np.array_equal(np.round(there, n), there))
    return next(exact, 1)
