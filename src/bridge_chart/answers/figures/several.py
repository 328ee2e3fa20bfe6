"""Rows of several quantities as one list: by group with the quantities inside, or each quantity
with its groups."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol, Self, TypeVar

from bridge_chart.answers.figures.slices import Slice, measure_dimension, measure_outside
from bridge_chart.terms.answer import RowStep


class Named(Protocol):
    """A row with a key, a label, a path and the place of its measure."""

    key: str
    label: str
    path: list[RowStep]
    measure: int

    def model_copy(self, *, update: dict[str, object]) -> Self: ...


R = TypeVar("R", bound=Named)


@dataclass(frozen=True)
class Several:
    """What several quantities differ in (`word`), what each is called for short, and whether they
    stand outside with their groups inside."""

    parts: Sequence[Slice]
    word: str
    names: dict[int, str]
    outside: bool

    @property
    def split(self) -> bool:
        """Whether there are groups besides the quantities."""
        return bool(self.parts[0].view.split)

    @property
    def dimensions(self) -> tuple[str, str | None]:
        """What the outer and the inner dimension are called."""
        if not self.split:
            return self.word, None
        groups = self.parts[0].grouping.label
        return (self.word, groups) if self.outside else (groups, self.word)

    def called(self, row: R) -> R:
        """A row with the short name of its measure in label and path."""
        step = RowStep(key=f"measure-{row.measure}", label=self.names[row.measure])
        if not self.split:
            return row.model_copy(update={"label": step.label, "path": [step]})
        path = [step, row.path[0]] if self.outside else [row.path[0], step]
        return row.model_copy(update={"label": f"{path[0].label}, {path[1].label}", "path": path})

    def called_pinned(self, row: R) -> R:
        """A pinned row with the name of its measure."""
        name = self.names[row.measure]
        inner = RowStep(key=f"measure-{row.measure}", label=name)
        return row.model_copy(
            update={
                "label": f"{row.label}, {name}",
                "key": f"{row.key}:{row.measure}",
                "path": [RowStep(key=row.key, label=row.label), inner],
            }
        )


def several_of(parts: Sequence[Slice]) -> Several:
    """How the quantities of a question stand beside each other."""
    views = [part.view for part in parts]
    word, names = measure_dimension(views)
    short = {view.at: name for view, name in zip(views, names, strict=True)}
    return Several(parts, word, short, measure_outside(views[0].question))


def by_outer(rows: Sequence[R], *, inner: bool = False) -> list[R]:
    """Rows with the same outer step together, in the order of the first of each; `inner`: inside
    it by the key of the inner step, so that every group has its rows in one order."""
    order: dict[str, int] = {}
    for row in rows:
        order.setdefault(row.path[0].key, len(order))
    return sorted(rows, key=lambda row: (order[row.path[0].key], row.path[1].key if inner else ""))
