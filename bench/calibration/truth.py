"""Made-up districts with a known truth, as snapshots in memory.

A score is where a student started, times a slope, plus what the school, the class and chance
added. In a null district school and class add nothing that is not said in `Truth`.
"""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from bridge_chart.store.codes import STATUSES
from bridge_chart.store.reference_tables import ReferenceTables
from bridge_chart.store.snapshot import (
    Array,
    Characteristic,
    MarkedForm,
    MeasureKey,
    Named,
    Roll,
    SchoolClass,
    Snapshot,
)

SITTINGS = (
    (1, "spring 2024", "2024-05-14", "2023-24"),
    (2, "spring 2025", "2025-05-13", "2024-25"),
    (3, "spring 2026", "2026-05-12", "2025-26"),
)
SUBJECTS = ("Mathematics", "Reading", "Writing")
STEPS = ("Emerging", "Building", "Secure", "Strong", "Exceptional")
CUTS = (-1.0, -0.35, 0.45, 1.25)
LANGUAGES = ("English", "Merrish", "Tarnic", "Other")
LANGUAGE_SHARES = (0.8, 0.12, 0.06, 0.02)
CORRELATION = 0.8
GRADE_CUTS = (-1.6, -0.8, 0.0, 0.8, 1.6)
POINTS = 30.0
"""Points that a sd is worth."""


@dataclass(frozen=True)
class Truth:
    """What is true of a district; sds are of the outcome's sd within a year level.

    schools, classes, size: classes of a year level in each school (at least, at most) and students
    of a class. effects: what some schools add in the last year, one after another, the others
    nothing; group_effect: what students with meal support lose then; class_sd: what classes add.
    intake_sd: how far schools differ where students start. reliability: of the start as measured.
    ceiling: the highest score there is, in sds above the mean. grades: scores are grades 1 to 6.
    """

    name: str
    schools: int = 11
    year_levels: tuple[int, ...] = (8,)
    classes: tuple[int, int] = (2, 4)
    size: int = 22
    effects: tuple[float, ...] = ()
    group_effect: float = 0.0
    class_sd: float = 0.0
    intake_sd: float = 0.0
    reliability: float = 1.0
    ceiling: float | None = None
    grades: bool = False


class MadeRoll(Roll):
    """A roll of arrays in memory."""

    def __init__(self, year: str, since: str, columns: dict[str, Array],
                 characteristics: dict[int, Array]) -> None:  # fmt: skip
        self.academic_year, self.since = year, dt.date.fromisoformat(since)
        self.key = f"{year}@{since}"
        self.school, self.year_level = columns["school"], columns["year_level"]
        self.members = columns["members"]
        self._characteristics = characteristics

    def characteristic(self, characteristic_id: int, students: int) -> Array:
        return self._characteristics[characteristic_id]


class MadeSnapshot(Snapshot):
    """A snapshot of arrays in memory; nothing of it is kept."""

    _number = 0

    def __init__(self, students: int) -> None:
        MadeSnapshot._number += 1
        self.folder, self.version = Path("/made"), 1
        self.identity = self.key = f"made {MadeSnapshot._number}"
        self.students, self.today = students, dt.date(2026, 4, 20)
        self.staff: list[str] = []
        self.tables, self.files, self.credit_years = ReferenceTables({}), {}, []
        self.erased = []
        self._values: dict[str, Array] = {}
        self.ability: dict[str, Array] = {}
        """Per measure what is expected of each student by the school alone, in sds."""
        self.added: dict[str, Array] = {}
        """What the class adds to that."""
        self.student_ids = np.arange(1, students + 1, dtype=np.int32)

    def values(self, measure: MeasureKey) -> Array:
        return self._values[measure.key]

    def order(self, measure: MeasureKey) -> Array:
        values = self._values[measure.key]
        order = np.argsort(values, kind="stable").astype(np.int32)
        return order[: int(np.count_nonzero(~np.isnan(values)))]

    def status(self, measure: MeasureKey) -> Array:
        there = ~np.isnan(self._values[measure.key])
        return np.where(there, STATUSES.index("sat"), STATUSES.index("no_row")).astype(np.int8)

    def tested_year_level(self, measure: MeasureKey) -> Array:
        return np.full(self.students, -1, np.int8)

    def form(self, measure: MeasureKey) -> Array:
        return np.zeros(self.students, np.int32)

    def marked_forms(self, sitting_id: int) -> list[MarkedForm]:
        return []


def make(truth: Truth, seed: int) -> MadeSnapshot:
    """A district drawn from a truth."""
    rng = np.random.default_rng(seed)
    school, level, place, classes = _places(truth, rng)
    students = len(school)
    made = MadeSnapshot(students)
    made.schools = [Named(n + 1, f"School {n + 1}") for n in range(truth.schools)]
    made.classes = classes
    options = (("Sex", ("F", "M"), (0.5, 0.5)), ("Home language", LANGUAGES, LANGUAGE_SHARES),
               ("Meal support", ("no", "yes"), (0.75, 0.25)))  # fmt: skip
    held: dict[int, Array] = {}
    made.characteristics = []
    for n, (name, values, shares) in enumerate(options):
        made.characteristics.append(
            Characteristic(n + 1, name, tuple(Named(10 * n + k, v) for k, v in enumerate(values)))
        )
        held[n + 1] = rng.choice(len(values), students, p=shares).astype(np.int16)
    made.rolls = []
    for back, (_, _, date, year) in enumerate(reversed(SITTINGS)):
        columns: dict[str, Any] = {"school": school, "year_level": level - back}
        mine = np.array([c.academic_year == year for c in classes])[place]
        columns["members"] = np.stack([np.flatnonzero(mine), place[mine]], 1)
        made.rolls.insert(0, MadeRoll(year, f"{int(date[:4]) - 1}-09-04", columns, held))
    made.measures = []
    _score(made, truth, rng, school, place)
    return made


def _places(
    truth: Truth, rng: np.random.Generator
) -> tuple[Array, Array, Array, list[SchoolClass]]:
    """School, year level in 2025-26 and class of each student."""
    classes: list[SchoolClass] = []
    school, level, place = [], [], []
    for one in range(truth.schools):
        for year in truth.year_levels:
            for letter in range(rng.integers(truth.classes[0], truth.classes[1] + 1)):
                size = max(4, int(rng.poisson(truth.size)))
                place += [len(classes)] * size
                school += [one] * size
                level += [year] * size
                name = f"{year}{'ABCDEFGH'[letter]}"
                classes.append(SchoolClass(len(classes) + 1, name, one + 1, "2025-26", ()))
    return np.array(school, np.int16), np.array(level, np.int8), np.array(place), classes


def _score(
    made: MadeSnapshot, truth: Truth, rng: np.random.Generator, school: Array, place: Array
) -> None:
    """Three subjects at three sittings, in points and in levels."""
    effects = np.zeros(truth.schools)
    effects[: len(truth.effects)] = truth.effects
    meals = made.rolls[-1].characteristic(3, made.students) == 1
    effect = effects[school] - truth.group_effect * meals
    for s, subject in enumerate(SUBJECTS):
        mean = truth.intake_sd * rng.standard_normal(truth.schools)[school]
        ability = mean + rng.standard_normal(made.students)
        by_class = truth.class_sd * rng.standard_normal(len(made.classes))[place]
        for n, sitting in enumerate(SITTINGS):
            last = n == len(SITTINGS) - 1
            noise = rng.standard_normal(made.students)
            ability = CORRELATION * ability + np.sqrt(1 - CORRELATION**2) * noise
            mean = CORRELATION * mean + last * effect
            ability = ability + last * (effect + by_class)
            error = np.sqrt(max(1 / truth.reliability - 1, 0.0)) * rng.standard_normal(
                made.students
            )
            score = ability + (0.0 if last else error)
            identity = 10 * sitting[0] + s
            for kind, values in _as_scores(truth, score).items():
                key = _add(made, subject, s, sitting, identity, kind, values)
                made.ability[key], made.added[key] = mean, last * by_class


def _as_scores(truth: Truth, score: Array) -> dict[str, Array]:
    """A score in points, up to a ceiling or in six grades, and in levels."""
    held = score if truth.ceiling is None else np.minimum(score, truth.ceiling)
    points = np.round(300 + 30 * held)
    if truth.grades:
        points = np.searchsorted(GRADE_CUTS, score) + 1.0
    return {"scaled": points, "level": np.searchsorted(CUTS, score) + 1.0}


def _add(
    made: MadeSnapshot, subject: str, s: int, sitting: tuple[int, str, str, str], identity: int,
    score: str, values: Array,
) -> str:  # fmt: skip
    stepped = score == "level"
    key = f"{identity}.{score}"
    made.measures.append(
        MeasureKey(
            key=key, assessment=Named(1, "Spring survey"), subject=Named(s + 1, subject),
            sitting=Named(identity, sitting[1]), date=dt.date.fromisoformat(sitting[2]),
            academic_year=sitting[3], score=score, steps=STEPS if stepped else (), decimals=0,
            set_aside=0, points=(None,) * len(STEPS) if stepped else (),
            pass_at=2 if stepped else None,
        )
    )  # fmt: skip
    made._values[key] = values
    return key
