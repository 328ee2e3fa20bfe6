"""What missing and piled-up scores do to a figure."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, check_codes, grouped
from bridge_chart.core.estimate import Estimate
from bridge_chart.core.gaps.means import welch

LEAST_COVERAGE = 0.90
DIFFERENT_PRIORS_SD = 0.1
MOST_AT_AN_END = 0.10


@dataclass(frozen=True)
class Coverage:
    """n, missing: (groups,); share: (groups,), NaN for an empty group; `low`: warn."""

    n: Integers
    missing: Integers
    share: Floats
    low: Mask


def coverage(values: Floats, codes: Codes, groups: int) -> Coverage:
    """Who has the value in each group; under 90% (of a group that is not empty) warns.

    Judged in integers, 10·n < 9·(n + missing), so that exactly 90% does not warn.

    >>> coverage(np.array([1., np.nan, 2, 3]), np.array([0, 0, 1, 1]), 2).low.tolist()
    [True, False]
    """
    values = np.asarray(values, np.float64)
    check_codes(codes, len(values), groups)
    everyone = grouped(codes, groups).counts()
    n = grouped(np.where(np.isnan(values), -1, codes), groups).counts()
    with np.errstate(invalid="ignore", divide="ignore"):
        share = n / np.where(everyone > 0, everyone, np.nan)
    least = round(LEAST_COVERAGE * 100)
    return Coverage(n, everyone - n, share, 100 * n < least * everyone)


@dataclass(frozen=True)
class MissingPriors:
    """Mean prior of the present − of the missing, and the same in sd of the priors."""

    difference: Estimate
    sd: float
    warns: bool


def missing_priors(prior: Floats, outcome: Floats) -> MissingPriors:
    """Whether those without an outcome started elsewhere than those with one (Welch 1947).

    More than .1 sd (of all priors) warns: then the group's figure is not of the whole group.
    prior, outcome: (students,) NaN = missing; no one missing gives an undefined difference.

    >>> m = missing_priors(np.array([1., 2, 3, 4, 0, 1]), np.array([1., 1, 1, 1, np.nan, np.nan]))
    >>> m.difference.value, round(m.sd, 3), m.warns
    (2.0, 1.359, True)
    """
    prior, outcome = np.asarray(prior, np.float64), np.asarray(outcome, np.float64)
    if prior.shape != outcome.shape:
        raise ValueError("prior and outcome must have one shape")
    absent = np.isnan(outcome)
    difference = welch(prior[~absent], prior[absent])
    known = prior[~np.isnan(prior)]
    spread = float(known.std(ddof=1)) if len(known) > 1 else float("nan")
    sd = difference.value / spread if spread > 0 else float("nan")
    return MissingPriors(difference, sd, bool(abs(sd) > DIFFERENT_PRIORS_SD))


def share_bounds(count: Integers, n: Integers, missing: Integers) -> tuple[Floats, Floats]:
    """The lowest and highest that a share could be, whatever the missing would have reached:
    x/N to (x + m)/N with N = n + m (Manski 1990). N = 0 gives NaN.

    >>> low, high = share_bounds(np.array(30), np.array(50), np.array(10))
    >>> float(low), round(float(high), 4)
    (0.5, 0.6667)
    """
    count, n, missing = np.asarray(count), np.asarray(n), np.asarray(missing)
    if np.any(count < 0) or np.any(count > n) or np.any(missing < 0):
        raise ValueError("count must lie in 0 to n, and missing must not be negative")
    whole = np.where(n + missing > 0, n + missing, np.nan).astype(np.float64)
    return count / whole, (count + missing) / whole


@dataclass(frozen=True)
class Ends:
    """Shares at the lowest and the highest possible score, (groups,); warnings beside them."""

    floor: Floats
    ceiling: Floats
    floor_warns: Mask
    ceiling_warns: Mask


def floor_and_ceiling(
    values: Floats, codes: Codes, groups: int, lowest: float, highest: float
) -> Ends:
    """Share of each group at the minimum and maximum of the scale; more than 10% warns:
    the test could not tell these students apart, and their growth cannot show.

    values: (students,), NaN = missing. Errors: ValueError where a value lies off the scale.

    >>> floor_and_ceiling(np.array([0., 5, 10, 10]), np.zeros(4, int), 1, 0, 10).ceiling.tolist()
    [0.5]
    """
    values = np.asarray(values, np.float64)
    check_codes(codes, len(values), groups)
    held = ~np.isnan(values) & (codes >= 0)
    if np.any(values[held] < lowest) or np.any(values[held] > highest):
        raise ValueError(f"values must lie in {lowest} to {highest}")
    by = grouped(np.where(held, codes, -1), groups)
    n = by.counts()
    at_floor = by.sums((values <= lowest).astype(np.float64))
    at_ceiling = by.sums((values >= highest).astype(np.float64))
    with np.errstate(invalid="ignore", divide="ignore"):
        shares = at_floor / np.where(n > 0, n, np.nan), at_ceiling / np.where(n > 0, n, np.nan)
    most = round(1 / MOST_AT_AN_END)
    return Ends(shares[0], shares[1], most * at_floor > n, most * at_ceiling > n)
