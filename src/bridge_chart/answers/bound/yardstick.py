"""What a yardstick is: its words, what it lacks, how it is looked up. One class for each kind
(room `against`); what it gives for every student is a `Held`."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Hashable, Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Literal

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method
from bridge_chart.terms.wording import listed

Form = Literal["linear", "cubic", "spline", "equal_scores"]


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
    lean: (students,) expected, from its mean over those of the year level on whom the fit stands;
    reliability: (students,) of the start as it is declared, NaN where it is not; alpha: (students,)
    the most that it can be by its questions, NaN where none are kept.
    strata: year level + 1; starts: (students, priors), both of the whole district
    only. basis: how many students are behind it. routes: the patterns of priors present.
    version: of which it is, where that is not the one asked. covariates: characteristics that are
    allowed for; marks: (students, covariates) their values.
    """

    priors: tuple[Quantity, ...]
    form: Form
    prior: Floats
    expected: Floats
    residual: Floats
    error: Floats
    strata: Codes
    starts: Floats
    lean: Floats
    reliability: Floats
    alpha: Floats
    basis: int
    years: tuple[YearFit, ...]
    routes: tuple[Route, ...] = ()
    version: int | None = None
    covariates: tuple[int, ...] = ()
    marks: Codes | None = None

    @property
    def prior_label(self) -> str:
        """The starts in words."""
        return listed([prior.label for prior in self.priors], 5)


@dataclass(frozen=True)
class Held:
    """What a quantity is held against, per student.

    expected: (students,), NaN where a student has no yardstick. start: the earlier score of those
    yardsticks that have one. tables: which reference tables were used, table_n: the smallest n.
    """

    expected: Floats
    start: Floats | None = None
    start_label: str = ""
    fit: Expectation | None = None
    tables: tuple[str, ...] = ()
    table_n: float = float("nan")


@dataclass(frozen=True)
class Elsewhere:
    """Members of a group whom the asker does not see, as they were released: n, mean, sd, when."""

    n: int
    mean: float
    sd: float
    day: str


@dataclass(frozen=True)
class Told:
    """What a method is said of: the interval's words, the facts so far, whether rows are shrunken
    (and if not though asked, why), and whether rows are judged at all."""

    interval: str
    facts: Mapping[str, Any]
    shrunken: bool = False
    not_shrunken: str | None = None
    judged: bool = True


class Yardstick(ABC):
    """One quantity's yardstick, with everything found. Neither who asks nor whom about has a part
    in what it gives (the fit is not the view), so that is worked out once for a version.

    kind: its key in a question. lacks: the reason of a student without it; lacking: how reasons
    are called under it. column: the head of its column in a list of students. moves: a span is a
    change in time, not a distance from others. marks: what ▲ and ▼ say: different from the rest of
    those asked about, or from the yardstick itself, where that stands outside the district.
    """

    kind: ClassVar[str]
    lacks: ClassVar[str] = "no_yardstick"
    lacking: ClassVar[Mapping[str, str]] = {}
    column: ClassVar[str] = "Expected"
    moves: ClassVar[bool] = False
    is_group: ClassVar[bool] = False
    marks: ClassVar[Literal["rest", "itself"]] = "itself"
    own: Quantity
    asked: q.Yardstick

    @property
    @abstractmethod
    def words(self) -> str:
        """The fourth slot of the sentence."""

    @property
    @abstractmethod
    def whom(self) -> str:
        """Whom a row is ahead of, in a sentence."""

    @abstractmethod
    def look_up(self, snapshot: Snapshot) -> Held | None:
        """What every student of the district is held against; None where there is no figure for
        each student."""

    @abstractmethod
    def method(self, snapshot: Snapshot, told: Told) -> Method:
        """How a comparison with it is worked out."""

    @property
    def priors(self) -> tuple[Quantity, ...]:
        """The starts, where it has some."""
        return ()

    @property
    def in_figures(self) -> Quantity:
        """The quantity in the figures that it is held in: of levels the same sitting's score."""
        return self.own

    @property
    def pools(self) -> bool:
        """Whether rows are to be shrunken."""
        return False

    @property
    def key(self) -> Hashable:
        """What tells it from any other of the same quantity."""
        return self.asked

    @property
    def since(self) -> Quantity | None:
        """The same students' earlier measure, where it is that."""
        return None

    @property
    def corrects(self) -> bool:
        """Whether what is expected is corrected for error in the start."""
        return False

    def group(self, students: int) -> Mask | None:
        """Whom everything is held against, where the yardstick is a group."""
        del students
        return None

    @property
    def beyond(self) -> Elsewhere | None:
        """Those of such a group whom the asker does not see."""
        return None

    def held(self, snapshot: Snapshot) -> Held | None:
        """What it gives, worked out once for everybody who asks at this version."""
        return kept_for(
            snapshot, ("held", self.own.id, self.key), lambda: self.look_up(snapshot)
        )  # fmt: skip

    @property
    def states(self) -> tuple[str, ...]:
        """How a student may stand to it, from the lowest."""
        return f"below {self.words}", f"at or above {self.words}"

    @property
    def met_at(self) -> int:
        """The first of the states in which it is met, from 0."""
        return 1

    def beside(self, label: str) -> str:
        """What a standing to it is called, of a quantity's label."""
        return f"{label}, beside {self.words}"

    def standing(self, snapshot: Snapshot, values: Floats) -> Floats:
        """(students,) in which state each is, from 1, by their figures; NaN without a figure of
        either."""
        held = self.held(snapshot)
        assert held is not None
        away = values - held.expected
        return np.where(np.isnan(away), np.nan, 1.0 + (away >= 0))

    def said_of(self, label: str, span: float, size: str, between: str) -> str:
        """A row that is ahead or behind, as a sentence."""
        way = "ahead of" if span > 0 else "behind"
        return f"{label} is {size} {way} {self.whom} ({between})."
