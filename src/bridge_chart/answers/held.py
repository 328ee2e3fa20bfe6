"""What students are held against, as values: an expectation fitted on all, or one looked up."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from bridge_chart.answers.quantities import Quantity
from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.terms.wording import listed

Form = Literal["linear", "cubic", "spline", "equal_scores"]
WORDS: dict[str, str] = {
    "linear": "a straight line",
    "cubic": "a cubic curve",
    "spline": "a smooth curve",
    "equal_scores": "the mean of equal starters",
}


@dataclass(frozen=True)
class YearFit:
    """What was fitted in one year level (None: not known); None where a figure has no meaning."""

    year_level: int | None
    n: int
    residual_sd: float
    r_squared: float
    intercept: float | None = None
    slope: float | None = None


@dataclass(frozen=True)
class Route:
    """Students held against the same priors: which, how many, and behind how many."""

    priors: tuple[int, ...]
    students: int


@dataclass(frozen=True)
class Expectation:
    """A fit on all students of the district, apart for each year level at the sitting.

    prior: the one start, or with several the first that a student has. expected, residual, error:
    (students,), NaN where there is none; error: the residual sd of the student's year level.
    fitted: the students behind it. routes: the patterns of priors present.
    """

    priors: tuple[Quantity, ...]
    form: Form
    prior: Floats
    expected: Floats
    residual: Floats
    error: Floats
    fitted: Mask
    years: tuple[YearFit, ...]
    routes: tuple[Route, ...] = ()

    @property
    def prior_label(self) -> str:
        """The starts in words."""
        return listed([prior.label for prior in self.priors], 5)


@dataclass(frozen=True)
class Held:
    """What a quantity is held against, per student; the rows of the fit that a view looks at.

    expected: (students,), NaN where a student has no yardstick. start: the earlier score of those
    yardsticks that have one. `lacks`: the reason code of a student without it. tables: which
    reference tables were used.
    """

    kind: str
    words: str
    expected: Floats
    lacks: str
    start: Floats | None = None
    start_label: str = ""
    fit: Expectation | None = None
    tables: tuple[str, ...] = ()
    table_n: float = float("nan")
