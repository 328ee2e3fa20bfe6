"""A score on another scale, by the district's table: a reading score as a book band."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.names import one_of
from bridge_chart.answers.bound.quantity import Quantity, Worked
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Floats
from bridge_chart.store.reference_tables import figure_said, tidy
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import Ambiguous, InvalidQuestion, NotFound
from bridge_chart.terms.wording import plain


@dataclass(frozen=True)
class Conversion:
    """From each of `lowest` on (rising) a score becomes one of `becomes`: a figure, or a place in
    `steps` from 1. `steps`: words from the lowest score up; none where it becomes figures."""

    onto: str
    lowest: tuple[float, ...]
    becomes: tuple[float, ...]
    steps: tuple[str, ...] = ()


@dataclass(frozen=True)
class Converted(Worked):
    """What the table makes of each student's figure; nothing below its first value."""

    of: Quantity
    table: Conversion

    @property
    def score_name(self) -> str:  # type: ignore[override]
        return self.table.onto

    @property
    def unit(self) -> str:
        return self.table.onto

    def figures(self, snapshot: Snapshot) -> Floats:
        values = np.asarray(figures_of_students(snapshot, self.of))
        at = np.searchsorted(np.array(self.table.lowest), values, side="right") - 1
        found = np.array(self.table.becomes)[np.maximum(at, 0)]
        return np.where(np.isnan(values) | (at < 0), np.nan, found)

    @property
    def lacks(self) -> str:
        start = self.of.steps[int(self.table.lowest[0]) - 1] if self.of.steps else plain(
            self.table.lowest[0]
        )  # fmt: skip
        return f"below {start}, where the table starts"

    @property
    def explained(self) -> tuple[str, str]:
        return (
            f"It is read off the district's table from {self.of.label} onto {self.table.onto}; "
            f"a figure below {plain(self.table.lowest[0])} is not in the table.",
            "files/conversion.md",
        )


def conversions_for(snapshot: Snapshot, of: Quantity) -> list[Conversion]:
    """The scales that the district's tables turn a quantity into."""
    key = of.key
    told = snapshot.tables.conversions(
        key.assessment.name, key.subject.name if key.subject else None, of.score
    )
    made = (_conversion(onto, rows, of) for onto, rows in told.items())
    return [table for table in made if table is not None]


def conversion_named(snapshot: Snapshot, of: Quantity, wanted: q.Ref | None) -> Conversion:
    """The conversion that is asked for, or the only one."""
    if isinstance(wanted, int):
        raise InvalidQuestion("A scale to convert onto is asked for by its name.")
    found = conversions_for(snapshot, of) if of.part is None and of.worked is None else []
    if not found:
        raise NotFound(
            f"No table converts {of.label} ({of.score_name}) onto another scale.",
            next_step="Bring in the conversion table at Intake.",
        )
    named = [(n, table.onto) for n, table in enumerate(found)]
    if wanted is not None:
        return found[one_of("scale", wanted, named)]
    if len(found) > 1:
        raise Ambiguous(
            f"{of.label} is converted onto several scales; say one in “table”.",
            candidates=[{"id": n, "name": name} for n, name in named],
        )
    return found[0]


def _conversion(onto: str, rows: list[tuple[str, str]], of: Quantity) -> Conversion | None:
    """None where no value of the table is one of the quantity."""
    names = [tidy(step) for step in of.steps]

    def place(written: str) -> float | None:
        if not names:
            return figure_said(written)
        return names.index(tidy(written)) + 1.0 if tidy(written) in names else None

    read = sorted(
        (at, becomes) for at, becomes in ((place(v), b) for v, b in rows) if at is not None
    )
    if not read:
        return None
    lowest = tuple(at for at, _ in read)
    figures = [figure_said(becomes) for _, becomes in read]
    if all(figure is not None for figure in figures):
        return Conversion(onto, lowest, tuple(f for f in figures if f is not None))
    steps = tuple(dict.fromkeys(becomes for _, becomes in read))
    return Conversion(onto, lowest, tuple(steps.index(b) + 1.0 for _, b in read), steps)
