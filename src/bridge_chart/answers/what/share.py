"""The share who reach a cut, or of whom every condition holds: a figure like any other.

A student's figure is 100 or 0, so that the mean of a row is a share in percent; nobody has one of
whom it cannot be said.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from bridge_chart.answers.bound.binding import Binding
from bridge_chart.answers.bound.filter import Filter, holds, known
from bridge_chart.answers.bound.identity import Working
from bridge_chart.answers.bound.names import one_of
from bridge_chart.answers.bound.quantity import Quantity, Worked, passing_at
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Floats
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.wording import listed, plain


@dataclass(frozen=True)
class ReachesCut(Worked):
    """At or above a step's place, or a score."""

    of: Quantity
    least: float
    score_name: ClassVar[str] = "share"

    @property
    def unit(self) -> str:
        return "%"

    def figures(self, snapshot: Snapshot) -> Floats:
        values = np.asarray(figures_of_students(snapshot, self.of), float)
        return np.where(np.isnan(values), np.nan, 100.0 * (values >= self.least))

    @property
    def lacks(self) -> str:
        return "not known"


@dataclass(frozen=True)
class Meets(Worked):
    """Every condition holds."""

    of: Quantity
    filters: tuple[Filter, ...]
    score_name: ClassVar[str] = "share"

    @property
    def unit(self) -> str:
        return "%"

    def figures(self, snapshot: Snapshot) -> Floats:
        students = snapshot.students
        told = known(self.filters, students) & ~np.isnan(figures_of_students(snapshot, self.of))
        return np.where(told, 100.0 * holds(self.filters, students), np.nan)

    @property
    def lacks(self) -> str:
        return "not known whether it holds"


def bind_share(what: q.Figure, of: Quantity, binding: Binding, *, steps: bool) -> Quantity:
    """The share that a figure asks for. Levels draw their line at the cut instead."""
    if what.meets and what.cut is not None:
        raise InvalidQuestion("A share has a “cut” or conditions in “meets”, not both.")
    if steps:
        if what.meets or isinstance(what.cut, float):
            raise InvalidQuestion(
                "Levels draw their line at a step; this share has none.",
                next_step="Look at it as Spans or as a table.",
            )
        return of if what.cut is None else passing_at(of, _step(of, what.cut))
    if what.meets:
        return _meets(what, of, binding)
    if isinstance(what.cut, float):
        called = f"{plain(what.cut)} {of.unit} or more"
        return _share(of, Working("share", of.id, cut=what.cut), ReachesCut(of, what.cut), called)
    step = what.cut if what.cut is not None else _pass_line(of)
    name = _step(of, step)
    least = of.steps.index(name) + 1
    return _share(
        of, Working("share", of.id, cut=name), ReachesCut(of, least), f"“{name}” or better"
    )


def share_passing(of: Quantity) -> Quantity:
    """The share who pass, of steps with a pass line."""
    name = _pass_line(of)
    worked = ReachesCut(of, of.steps.index(name) + 1)
    return _share(of, Working("share", of.id, cut=name), worked, f"“{name}” or better")


def share_from(of: Quantity, step: int) -> Quantity:
    """The share at or above a step, by its place from 0."""
    name = of.steps[step]
    working = Working("share", of.id, cut=name)
    return _share(of, working, ReachesCut(of, step + 1), f"“{name}” or better")


def share_reaching(of: Quantity, least: float) -> Quantity:
    """The share at or above a figure."""
    working = Working("share", of.id, cut=least)
    return _share(of, working, ReachesCut(of, least), f"{plain(least)} {of.unit} or more")


def _meets(what: q.Figure, of: Quantity, binding: Binding) -> Quantity:
    about = binding.about(of)
    filters = tuple(about.condition(c) for c in what.meets)
    if any(one.place for one in filters):
        raise InvalidQuestion(
            "A share is of students whose scores or characteristics meet something; places and "
            "groups belong in “who” or in the split."
        )
    working = Working("share", of.id, meets=tuple(one.asked for one in filters))
    return _share(of, working, Meets(of, filters), listed([one.text for one in filters]))


def _share(of: Quantity, working: Working, worked: Worked, called: str) -> Quantity:
    identity = replace(of.id, score="percent", working=working)
    return replace(
        of, id=identity, worked=worked, steps=(), pass_at=None, decimals=1,
        label=f"{of.label}: share with {called}",
    )  # fmt: skip


def _pass_line(of: Quantity) -> str:
    if of.pass_at is None:
        raise NotFound(
            f"No pass line is declared for {of.key.assessment.name}.",
            next_step="Say the step in “cut”, or bring in the scale.",
        )
    return of.steps[of.pass_at]


def _step(of: Quantity, cut: str | float) -> str:
    if not of.steps:
        raise NotFound(f"{of.label} has no levels or grades.")
    return of.steps[one_of("level", str(cut), list(enumerate(of.steps)))]
