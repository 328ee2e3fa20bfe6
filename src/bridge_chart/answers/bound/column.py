"""A column of a list of students, with everything found."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.split import Split
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.terms import question as q


@dataclass(frozen=True, eq=False)
class ListColumn:
    """A measure (`quantity`, and what it is held against), a field or a characteristic (`split`),
    or what was noted (neither). `asked`: with ids."""

    asked: q.Column
    quantity: Quantity | None = None
    yardstick: Yardstick | None = None
    split: Split | None = None

    @property
    def key(self) -> str:
        """What it is sorted by: the same wherever it stands and whatever it is called."""
        if isinstance(self.asked, str):
            return self.asked
        if isinstance(self.asked, q.ByField) and self.asked.as_of is None and not self.asked.of:
            return self.asked.field
        if isinstance(self.asked, q.ByCharacteristic) and self.asked.as_of is None:
            return f"characteristic {self.asked.characteristic}"
        text = self.asked.model_dump_json(by_alias=True, exclude_defaults=True)
        kind = "measure" if isinstance(self.asked, q.Listed) else "column"
        return f"{kind} {hashlib.sha256(text.encode()).hexdigest()[:10]}"
