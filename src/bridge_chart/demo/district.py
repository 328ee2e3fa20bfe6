"""The made-up district: its students, their schools, characteristics and true scores.

Everything follows from a seed. Scores grow from last year's *measured* score, so a straight line
on it is the true expectation, and a gap in starting scores leaves nothing behind once these are
allowed for. What is planted beyond that stands in EFFECTS.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bridge_chart.demo.names import FAMILY, GIVEN, SCHOOLS, school_names

Array = NDArray[Any]
SEED = 20261695
YEARS = ("2023-24", "2024-25", "2025-26")
LEVELS = ("Emerging", "Building", "Secure", "Strong", "Exceptional")
CUTS_IN_SD = (-1.0, -0.35, 0.45, 1.25)
YOUNGEST, OLDEST = 3, 11
SD = 30.0
SLOPE = 0.85
SUBJECTS = ("Mathematics", "Reading")
SCHOOL_EFFECTS = {"Fernhollow": -8.0, "Brackwater": 8.0, "Wick & Orme": 7.0}
"""Points in Mathematics, spring 2026, beyond what similar starters reach."""
LEARNING_PLAN_EFFECT = -7.0
"""Points a year in both subjects: a gap that prior attainment does not explain."""
MEAL_SUPPORT_START = -0.75
"""Standard deviations at the first test and nothing later: prior attainment explains it."""


def expected_mean(level: Array) -> Array:
    """The mean scaled score of a year level."""
    return 260.0 + 14.0 * (level - YOUNGEST)


@dataclass
class District:
    """Arrays over all students who were ever there; `level` is the year level in 2025-26."""

    schools: list[str]
    number: Array
    given: Array
    family: Array
    birth: Array
    level: Array
    joined: Array
    left: Array
    school: Array
    characteristics: dict[str, Array]
    scores: dict[tuple[str, int], Array] = field(default_factory=dict)
    falls_behind: str = ""

    def enrolled(self, year: int) -> Array:
        """Who is on roll in the autumn of the school year (0, 1, 2)."""
        level = self.level - (2 - year)
        there = (self.joined <= year) & (self.left > year)
        mask: Array = there & (level >= YOUNGEST) & (level <= OLDEST)
        return mask


def make_district(students: int, seed: int) -> District:
    """A district with about `students` on roll in each year."""
    rng = np.random.default_rng(seed)
    schools = school_names(11 if students <= 20000 else max(11, students // 500))
    count = round(students * 11 / 9)
    level = rng.integers(YOUNGEST, OLDEST + 3, count)
    shares = np.array([SCHOOLS.get(name, 0.0) for name in schools])
    if len(schools) > len(SCHOOLS):
        shares = rng.uniform(0.4, 1.6, len(schools))
    school = np.empty((3, count), np.int64)
    school[0] = rng.choice(len(schools), count, p=shares / shares.sum())
    for year in (1, 2):
        moved = rng.random(count) < 0.015
        school[year] = np.where(moved, rng.integers(0, len(schools), count), school[year - 1])
    joined = np.where(rng.random(count) < 0.05, rng.integers(1, 3, count), 0)
    left = np.where(rng.random(count) < 0.03, rng.integers(1, 3, count), 3)
    left = np.where(left <= joined, 3, left)
    # Born in the twelve months that make their year level; ids as spreadsheets like to spoil them.
    birth = np.datetime64("2025-08-01") - (level + 5) * 365 + rng.integers(0, 365, count)
    number = rng.choice(np.arange(1000, max(250_000, 3 * count)), count, replace=False)
    width = len(str(max(250_000, 3 * count)))
    district = District(
        schools=schools,
        number=np.array([f"{n:0{width}d}" for n in number]),
        given=np.array(GIVEN)[rng.integers(0, len(GIVEN), count)],
        family=np.array(FAMILY)[rng.integers(0, len(FAMILY), count)],
        birth=birth,
        level=level,
        joined=joined,
        left=left,
        school=school,
        characteristics=_characteristics(rng, count, school[0], len(schools)),
    )
    _score(district, rng)
    _let_one_fall_behind(district)
    return district


def _characteristics(
    rng: np.random.Generator, count: int, school: Array, schools: int
) -> dict[str, Array]:
    def yes(share: Any) -> Array:
        return np.where(rng.random(count) < share, "yes", "no")

    language = rng.choice(
        ["English", "Merrish", "Tarnic", "Other"], count, p=[0.8, 0.11, 0.06, 0.03]
    )
    fluency = np.where(
        language == "English", "first language",
        rng.choice(["fluent", "developing", "new to English"], count, p=[0.5, 0.33, 0.17]),
    )  # fmt: skip
    poverty = np.clip(rng.normal(0.24, 0.09, schools), 0.06, 0.5)
    ferry = np.clip(rng.normal(0.12, 0.1, schools), 0.0, 0.6)
    return {
        "Sex": rng.choice(["F", "M"], count),
        "Home language": language,
        "English fluency": fluency,
        "Meal support": yes(poverty[school]),
        "Learning plan": yes(0.12),
        "Ferry traveller": yes(ferry[school]),
    }


def _score(district: District, rng: np.random.Generator) -> None:
    """Fill `scores`: (subject, year) → scaled scores for everybody of an age to sit."""
    count = len(district.level)
    intake = rng.normal(0.0, 0.28, len(district.schools))[district.school[0]]
    meals = district.characteristics["Meal support"] == "yes"
    plan = district.characteristics["Learning plan"] == "yes"
    common = rng.normal(0.0, 1.0, count)
    effect = np.array([SCHOOL_EFFECTS.get(name, 0.0) for name in district.schools])
    for subject in SUBJECTS:
        start = np.sqrt(0.6) * common + np.sqrt(0.4) * rng.normal(0.0, 1.0, count)
        start = start + intake + MEAL_SUPPORT_START * meals
        before = np.full(count, np.nan)
        for year in (0, 1, 2):
            level = district.level - (2 - year)
            first = np.isnan(before)
            error = rng.normal(0.0, SD * np.sqrt(1 - SLOPE**2), count)
            grown = expected_mean(level) + SLOPE * (before - expected_mean(level - 1)) + error
            grown = grown + LEARNING_PLAN_EFFECT * plan
            if subject == "Mathematics" and year == 2:
                grown = grown + effect[district.school[2]]
            now = np.where(first, expected_mean(level) + SD * start, grown)
            now = np.where(level >= YOUNGEST, np.clip(np.rint(now), 100, 600), np.nan)
            district.scores[subject, year] = now
            before = now


FALLS_BEHIND = ("Reading", 10, 2.0, 3.0)
"""Subject, year level of 2025-26, start in standard deviations, points gained in two years."""


def _let_one_fall_behind(district: District) -> None:
    """One student whose score rises a little in two years in which others rise far more."""
    subject, level, start, gained = FALLS_BEHIND
    there = (district.level == level) & (district.joined == 0) & (district.left == 3)
    one = int(np.flatnonzero(there)[0])
    first = np.rint(expected_mean(np.array(level - 2)) + SD * start)
    for year, score in enumerate((first, first + 1, first + gained)):
        district.scores[subject, year][one] = score
    district.falls_behind = str(district.number[one])


def level_of(score: Array, level: Array) -> Array:
    """The level's name for a scaled score at a year level; cut scores rise with the year level."""
    cuts = np.stack([expected_mean(level) + SD * cut for cut in CUTS_IN_SD])
    names: Array = np.array(LEVELS)[(score >= np.rint(cuts)).sum(axis=0)]
    return names
