"""Pace: how much a student gains a year, and where that pace ends."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity, Worked, in_halves, in_points, plain
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.what.values import figures_of_students, of_same_students
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.growth.gains import paces
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.wording import plural

YEAR = 365.25
AHEAD = 1.0
"""How many years after the last result the end of a pace lies."""
PAGE = "methods/pace.md"


@dataclass(frozen=True)
class Course:
    """Dated results of students. years: (sittings,) after the first; scores: (students, sittings);
    slope, span: (students,) a year, and from the first to the last result in years; sd: the pooled
    residual spread."""

    years: Floats
    scores: Floats
    slope: Floats
    span: Floats
    points: Integers
    sd: float


@dataclass(frozen=True)
class Pace(Worked):
    """The slope of a straight line through a student's results up to this one, a year."""

    of: Quantity
    sittings: tuple[Quantity, ...]
    called: ClassVar[str] = "pace"
    score_name: ClassVar[str] = "pace"

    @property
    def unit(self) -> str:
        return f"{_of(self.of)} a year"

    def figures(self, snapshot: Snapshot) -> Floats:
        course = course_of(snapshot, self.of, self.sittings)
        return np.where(np.isnan(course.scores[:, -1]), np.nan, course.slope)

    @property
    def lacks(self) -> str:
        return "no earlier result"

    @property
    def explained(self) -> tuple[str, str]:
        first = self.sittings[0].key.sitting.name
        return (
            "A student's pace is the slope of a straight line through own results from "
            f"{first} on, a year; two results at least.",
            PAGE,
        )


@dataclass(frozen=True)
class Projected(Pace):
    """Where a student's pace ends a year after the last result."""

    called: ClassVar[str] = "where the pace ends"
    score_name: ClassVar[str] = "where the pace ends"

    @property
    def unit(self) -> str:
        return _of(self.of)

    def figures(self, snapshot: Snapshot) -> Floats:
        course = course_of(snapshot, self.of, self.sittings)
        held = ~np.isnan(course.scores)
        with np.errstate(invalid="ignore", divide="ignore"):
            years = np.where(held, course.years[None, :], 0.0).sum(axis=1) / course.points
            mean = np.where(held, course.scores, 0.0).sum(axis=1) / course.points
        there = mean + course.slope * (course.years[-1] + AHEAD - years)
        told = held[:, -1] & (course.span >= AHEAD * (1 - SHORT))
        return np.where(told, there, np.nan)

    @property
    def lacks(self) -> str:
        return "results span less than a year"


def _of(quantity: Quantity) -> str:
    return plural(quantity.unit) if quantity.steps else quantity.unit


SHORT = 0.05
"""By what part of a year two sittings of two school years may lie nearer than a year."""


def course_of(snapshot: Snapshot, of: Quantity, sittings: tuple[Quantity, ...]) -> Course:
    """Every student's results over the sittings."""

    def make() -> Course:
        dates = [one.key.date.toordinal() for one in sittings]
        years = (np.array(dates, float) - dates[0]) / YEAR
        scores = np.stack([np.asarray(figures_of_students(snapshot, one)) for one in sittings], 1)
        slope, points, sd = paces(years, scores)
        held = ~np.isnan(scores)
        first = np.where(held.any(axis=1), years[held.argmax(axis=1)], np.nan)
        last = years[len(years) - 1 - held[:, ::-1].argmax(axis=1)]
        return Course(years, scores, slope, np.asarray(last - first), points, sd)

    name = ("course", of.id, tuple(one.id for one in sittings))
    return kept_for(snapshot, name, make)


def sittings_until(snapshot: Snapshot, of: Quantity) -> tuple[Quantity, ...]:
    """The sittings of the same test and subject up to this one, expressed as it is."""
    key = of.key
    if of.part is not None or of.form is not None or of.worked is not None or key.role != "result":
        raise InvalidQuestion("Pace is worked out of whole results, not of parts or forms.")
    before = {
        k.sitting.id: k for k in snapshot.measures
        if k.assessment == key.assessment and k.subject == key.subject and k.role == "result"
        and k.score == key.score and k.steps == key.steps and k.date < key.date
        and of_same_students(snapshot, k, key)
    }  # fmt: skip
    if not before:
        raise NotFound(
            f"{of.label} has no earlier sitting, so nobody has a pace.",
            next_step="Bring in the results of an earlier sitting.",
        )
    ordered = sorted(before.values(), key=lambda k: k.date)
    return (*(_as(of, plain(k)) for k in ordered), of)


def _as(of: Quantity, other: Quantity) -> Quantity:
    if of.id.grain == "half":
        return in_halves(other)
    if of.score == "points" and other.score != "points":
        return in_points(other)
    return replace(other, id=replace(other.id, line=of.id.line))
