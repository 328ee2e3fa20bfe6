"""Growth percentiles: where a student stands among those of the district who started alike."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity, Worked
from bridge_chart.answers.published.fits import Own, fitted
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.growth.percentiles import growth_percentiles
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.words import spoken


@dataclass(frozen=True)
class _Growth:
    """bands: what a percentile says of one student: a bare number would claim too much."""

    most_priors: int = 3
    bands: tuple[str, ...] = ("lower growth", "typical growth", "higher growth")
    low: float = 25.0
    high: float = 75.0


GROWTH = _Growth()


@dataclass(frozen=True)
class Grown:
    """Of the whole district. percentile: (students,) NaN = none; strata: year level + 1; ranks: who
    stands in ranks of few equal starters and not on curves; outcome, starts: of whom it was made;
    refused: for each year level without percentiles why."""

    percentile: Floats
    strata: Codes
    ranks: Mask
    outcome: Floats
    starts: Floats
    refused: dict[int, str]


@dataclass(frozen=True)
class GrowthPercentile(Worked):
    """1 to 99 among those of the same year level who started alike."""

    of: Quantity
    starts: tuple[Quantity, ...]
    called: ClassVar[str] = "growth percentile"
    score_name: ClassVar[str] = "growth percentile"

    @property
    def unit(self) -> str:
        return "percentile"

    def figures(self, snapshot: Snapshot) -> Floats:
        return grown(snapshot, self.of, self.starts)

    @property
    def lacks(self) -> str:
        return f"no starting score, or too few in the {spoken().year_level}"

    @property
    def explained(self) -> tuple[str, str]:
        told = " and ".join(start.label for start in self.starts)
        return (
            f"Each stands among all students of the district's {spoken().year_level} who started "
            f"alike in {told}; fitted on itself, the district's middle is 50.",
            "methods/growth-percentiles.md",
        )


@dataclass(frozen=True)
class GrowthBand(GrowthPercentile):
    """The same in words."""

    score_name: ClassVar[str] = "growth"

    def figures(self, snapshot: Snapshot) -> Floats:
        rank = grown(snapshot, self.of, self.starts)
        band = 2.0 + (rank > GROWTH.high) - (rank < GROWTH.low)
        return np.where(np.isnan(rank), np.nan, band)


def grown(snapshot: Snapshot, of: Quantity, starts: tuple[Quantity, ...]) -> Floats:
    """(students,) growth percentiles; fitted on the whole district, whoever asks."""
    name = ("growth", of.id, tuple(start.id for start in starts))

    def read_off(made: Grown, own: Own) -> Grown:
        return _own_part(snapshot, of, starts, made, own)

    keys = (of.key, *(start.key for start in starts))
    return fitted(
        snapshot, name, lambda whole: _grown(whole, of, starts), read_off, keys
    ).percentile


def _grown(snapshot: Snapshot, of: Quantity, starts: tuple[Quantity, ...]) -> Grown:
    outcome = np.asarray(figures_of_students(snapshot, of))
    priors = np.stack([np.asarray(figures_of_students(snapshot, one)) for one in starts], 1)
    strata = np.asarray(tested_year_level(snapshot, of.key)).astype(np.int16) + 1
    percentile = np.full(len(outcome), np.nan)
    ranks = np.zeros(len(outcome), bool)
    refused = {}
    known = ~np.isnan(outcome) & ~np.isnan(priors).any(axis=1)
    for stratum in np.unique(strata[known & (strata >= 0)]).tolist():
        rows = np.flatnonzero(known & (strata == stratum))
        found = growth_percentiles(outcome[rows], priors[rows])
        percentile[rows] = found.percentile
        ranks[rows] = found.method == "mid-ranks"
        if found.method == "refused":
            refused[stratum - 1] = found.reason
    return Grown(percentile, strata, ranks, outcome, priors, refused)


def _own_part(
    snapshot: Snapshot, of: Quantity, starts: tuple[Quantity, ...], made: Grown, own: Own
) -> Grown:
    """Of own students whose result and starts may be seen and are those of the fit, where enough
    others stand behind it. Ranks among few equal starters would tell theirs."""
    outcome = np.asarray(figures_of_students(snapshot, of))
    priors = np.stack([np.asarray(figures_of_students(snapshot, one)) for one in starts], 1)
    behind = ~np.isnan(made.percentile)
    same = (own.rows(made.outcome, np.nan) == outcome) & (
        own.rows(made.starts, np.nan) == priors
    ).all(axis=1)
    few = own.few(behind, made.strata, of.key)
    held_back = ~same | own.rows(made.ranks, 0).astype(bool) | own.in_strata(made.strata, few)
    percentile = np.where(held_back, np.nan, own.take(made.percentile, of.key, np.nan))
    nothing = made.percentile[:0]
    return Grown(percentile, made.strata[:0], made.ranks[:0], nothing, nothing, made.refused)
