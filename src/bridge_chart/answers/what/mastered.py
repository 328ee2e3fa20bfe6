"""Standards mastered: the share of a test's standards of which a student won enough marks.

A standard is an objective of the table of questions, or a strand where it names none. How much is
enough the table says (*Mastered at*); four fifths of the marks where it does not.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from bridge_chart.answers.bound.identity import PartId
from bridge_chart.answers.bound.quantity import Quantity, Worked
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.what.parts import part_values, parts_of
from bridge_chart.answers.what.sheets import questions_of
from bridge_chart.core.arrays import Floats
from bridge_chart.core.items.mastery import mastered
from bridge_chart.store.reference_tables import same
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.errors import InvalidQuestion, NotFound

KINDS = ("objective", "strand")
ENOUGH = 0.8


@dataclass(frozen=True)
class Mastered(Worked):
    """The share of the standards that a student reached and mastered, in percent."""

    of: Quantity
    called: ClassVar[str] = "standards mastered"
    score_name: ClassVar[str] = "standards mastered"

    @property
    def unit(self) -> str:
        return "%"

    def __post_init__(self) -> None:
        if self.of.part is not None or self.of.key.role != "result":
            raise InvalidQuestion("Standards are mastered on a whole test.")

    def figures(self, snapshot: Snapshot) -> Floats:
        found = share_mastered(snapshot, self.of.key)
        if found is None:
            raise NotFound(
                f"No question of {self.of.key.label} says its objective or its strand.",
                next_step="Bring in the table of its questions.",
            )
        if self.of.form is not None:
            found = np.where(snapshot.form(self.of.key) == self.of.form, found, np.nan)
        return found

    @property
    def lacks(self) -> str:
        return "no standard reached"


def share_mastered(snapshot: Snapshot, key: MeasureKey) -> Floats | None:
    """(students,) percent of standards mastered; None where the test has none."""
    kind = next((kind for kind in KINDS if parts_of(snapshot, key, kind)), None)
    if kind is None:
        return None

    def make() -> Floats:
        names = parts_of(snapshot, key, kind)
        shares = [part_values(snapshot, key, PartId(kind, name), "percent") for name in names]
        enough = np.array([_enough(snapshot, key, kind, name) for name in names])
        return 100 * mastered(np.stack(shares, axis=1) / 100, enough)

    return kept_for(snapshot, ("mastered", key.sitting.id), make)


def _enough(snapshot: Snapshot, key: MeasureKey, kind: str, name: str) -> float:
    """The share of a standard's marks that masters it: the most that any of its questions says."""
    said = [
        info.mastered_at
        for form in snapshot.marked_forms(key.sitting.id)
        for info in questions_of(snapshot, key, form.form).values()
        if info.mastered_at is not None and same(info.tags.get(kind)) == same(name)
    ]
    return max(said, default=ENOUGH)
