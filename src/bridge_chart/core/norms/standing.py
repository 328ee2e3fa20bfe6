"""Standing of students and groups in the nation."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import special

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes
from bridge_chart.core.describing.shares import wilson
from bridge_chart.core.distributions import chi_square_tail
from bridge_chart.core.estimate import NAN, Estimate, interval_of, present, undefined
from bridge_chart.core.gaps.shares import newcombe
from bridge_chart.core.norms.tables import ReferenceTable, percentile_rank, z_scores

NCE_SD = float(49 / special.ndtri(0.99))
"""21.063…: so that ranks 1 and 99 are 1 and 99 on the even scale too."""


def normal_curve_equivalent(rank: Floats) -> Floats:
    """NCE = 50 + 21.063·Φ⁻¹(PR/100), the factor exactly 49/Φ⁻¹(.99): ranks on an even scale, which
    may be averaged.

    rank: 1 … 99, NaN stays NaN. Errors: ValueError outside 0 … 100 (exclusive).

    >>> normal_curve_equivalent(np.array([1., 10, 25, 75, 90, 99])).round(4).tolist()
    [1.0, 23.0066, 35.7932, 64.2068, 76.9934, 99.0]
    """
    rank = np.asarray(rank, np.float64)
    if np.any(rank <= 0) or np.any(rank >= 100):
        raise ValueError("percentile ranks must lie between 0 and 100")
    return np.asarray(50 + NCE_SD * special.ndtri(rank / 100), np.float64)


@dataclass(frozen=True)
class AgainstNation:
    """Group − nation in the score's unit, and the same over the nation's sd."""

    difference: Estimate
    effect: float
    effect_low: float
    effect_high: float


def group_against_nation(
    values: Floats, table: ReferenceTable, confidence: float = 0.95
) -> AgainstNation:
    """Mean of the group − the nation's mean, SE² = s²/n + σ²/N, t(n − 1); effect over σ.

    N unknown (NaN) counts as the whole nation: no error of its own. values: NaN left out and
    counted. Fewer than two values: NaN. Errors: ValueError where the table has no mean and sd.

    >>> from datetime import date
    >>> t = ReferenceTable("t", "s", "A", 8, date(2026, 1, 1), False, mean=100, sd=15, n=9000)
    >>> a = group_against_nation(np.array([110., 104, 98, 112]), t)
    >>> round(a.difference.value, 3), round(a.difference.se, 4), round(a.effect, 4)
    (6.0, 3.1662, 0.4)
    """
    if np.isnan(table.mean) or np.isnan(table.sd):
        raise ValueError(f"table {table.name} has no mean and sd")
    held = present(values)
    missing = len(values) - len(held)
    if len(held) < 2:
        gap = undefined("fewer than two values", n=len(held), missing=missing)
        return AgainstNation(gap, NAN, NAN, NAN)
    nation = table.sd**2 / table.n if table.n > 0 else 0.0
    se = math.sqrt(float(held.var(ddof=1)) / len(held) + nation)
    value = float(held.mean()) - table.mean
    gap = interval_of(value, se, len(held) - 1.0, confidence).counted(len(held), missing)
    return AgainstNation(gap, value / table.sd, gap.low / table.sd, gap.high / table.sd)


@dataclass(frozen=True)
class ThreeRanks:
    """Three things with three names; none of them may be subtracted from another."""

    rank_of_mean_among_students: float
    mean_of_students_ranks: float
    rank_among_group_means: float
    n: int


def three_ranks(
    values: Floats, table: ReferenceTable, group_means: ReferenceTable | None = None
) -> ThreeRanks:
    """The percentile rank of the group's mean score among students; the mean of its students'
    percentile ranks; and the rank of its mean among group means (needs a table of group means,
    which spread less than students, so the rank is further from 50).

    >>> from datetime import date
    >>> t = ReferenceTable("t", "s", "A", 8, date(2026, 1, 1), False, scores=(0., 50., 100.),
    ...                    percentile_ranks=(1., 80., 99.))
    >>> r = three_ranks(np.array([0., 100]), t)
    >>> r.rank_of_mean_among_students, r.mean_of_students_ranks
    (80.0, 50.0)
    """
    held = present(values)
    if not len(held):
        return ThreeRanks(NAN, NAN, NAN, 0)
    middle = np.array([held.mean()])
    among = float(percentile_rank(middle, group_means)[0]) if group_means else NAN
    return ThreeRanks(
        float(percentile_rank(middle, table)[0]),
        float(percentile_rank(held, table).mean()), among, len(held),
    )  # fmt: skip


@dataclass(frozen=True)
class LevelsAgainstNation:
    """(levels,): the group's share − the nation's with its interval; one test over all levels."""

    share: Floats
    nation: Floats
    difference: Floats
    low: Floats
    high: Floats
    chi_square: float
    df: int
    p: float
    n: int
    reason: str = ""


def levels_against_nation(
    counts: Integers, table: ReferenceTable, confidence: float = 0.95
) -> LevelsAgainstNation:
    """Share of the group in each level − the nation's share.

    With N known: Newcombe's (1998) interval of two shares; else Wilson's limits less the nation's
    share, which counts as exact. χ² goodness of fit over all levels (Pearson 1900); p only where
    every expected count is 5 or more. counts: (levels,). Errors: ValueError on another number of
    levels than the table's.

    >>> from datetime import date
    >>> t = ReferenceTable("t", "s", "A", 8, date(2026, 1, 1), False, level_shares=(.25, .5, .25))
    >>> d = levels_against_nation(np.array([10, 20, 30]), t)
    >>> d.difference.round(4).tolist(), round(d.chi_square, 4), d.df
    ([-0.0833, -0.1667, 0.25], 20.0, 2)
    """
    counts = np.asarray(counts, np.int64)
    nation = np.array(table.level_shares, np.float64)
    if counts.shape != nation.shape:
        raise ValueError(f"there must be {len(nation)} levels; there are {len(counts)} instead")
    n = int(counts.sum())
    share, low, high = wilson(counts, np.full(len(counts), n), confidence)
    low, high = low - nation, high - nation
    if table.n > 0 and n:
        size = int(table.n)
        pairs = [
            newcombe(int(c), n, round(float(s) * size), size, confidence)
            for c, s in zip(counts, nation, strict=True)
        ]
        low, high = np.array([d.low for d in pairs]), np.array([d.high for d in pairs])
    expected = n * nation
    if n == 0 or expected.min() < 5:
        return LevelsAgainstNation(
            share, nation, share - nation, low, high, NAN, len(counts) - 1, NAN, n,
            "no test: a level expects fewer than 5 students",
        )  # fmt: skip
    chi, df = float(np.sum((counts - expected) ** 2 / expected)), len(counts) - 1
    return LevelsAgainstNation(
        share, nation, share - nation, low, high, chi, df, chi_square_tail(chi, df), n
    )


def combined_forms(
    scores: Floats, form: Codes, tables: Sequence[ReferenceTable | None], by: str = "z"
) -> Floats:
    """Results of several forms on one footing: each form's own z, or NCE. Raw marks of two forms
    are never put together: a mark on a hard form is worth more.

    scores: (students,), form: (students,) codes into `tables`, −1 = unknown; a form without a
    table gives NaN. Errors: ValueError where `by` is neither "z" nor "nce".

    >>> from datetime import date
    >>> make = lambda f, m: ReferenceTable(f, "s", f, 8, date(2026, 1, 1), False, mean=m, sd=10)
    >>> combined_forms(np.array([30., 30]), np.array([0, 1]), [make("A", 20), make("B", 30)])
    array([1., 0.])
    """
    if by not in ("z", "nce"):
        raise ValueError(f'by must be "z" or "nce"; it is "{by}" instead')
    scores = np.asarray(scores, np.float64)
    check_codes(form, len(scores), len(tables))
    out = np.full(len(scores), np.nan)
    for k, table in enumerate(tables):
        rows = form == k
        if table is None or not rows.any():
            continue
        if by == "z":
            out[rows] = z_scores(scores[rows], table)
        else:
            out[rows] = normal_curve_equivalent(percentile_rank(scores[rows], table))
    return out
