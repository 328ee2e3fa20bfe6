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
    spec = StudentColumn(**{"key": key, "label": label, "kind": "number", "values": [], **more})
    return Made(spec, np.asarray(values, float))
