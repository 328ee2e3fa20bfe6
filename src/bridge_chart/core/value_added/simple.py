"""The simple model: a group's mean distance from what its students' starts would give."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers
from bridge_chart.core.describing.describe import Moments, moments
from bridge_chart.core.distributions import normal_quantile, t_two_sided
from bridge_chart.core.estimate import NAN


@dataclass(frozen=True)
class SimpleEffects(Moments):
    """Moments of the residuals with p against zero, and what to beware of.

    with_intake: correlation over groups of value-added with the mean prior: far from 0, beware.
    """

    p: Floats
    with_intake: float


def simple_effects(
    residual: Floats, codes: Codes, groups: int, prior: Floats | None = None,
    confidence: float = 0.95,
) -> SimpleEffects:  # fmt: skip
    """Mean residual of each group with its t interval.

    residual: (students,) outcome − expected, NaN = no expectation (counted missing). prior:
    (students,), for the correlation of value-added with intake, groups weighing by n.

    >>> s = simple_effects(np.array([1., 3, -2, -2.5]), np.array([0, 0, 1, 1]), 2)
    >>> s.mean.tolist(), s.n.tolist()
    ([2.0, -2.25], [2, 2])
    """
    figures = moments(residual, codes, groups, confidence=confidence)
    with np.errstate(invalid="ignore", divide="ignore"):
        p = t_two_sided(figures.mean / figures.se, figures.df)
    p = np.where(figures.se > 0, p, np.nan)
    link = NAN
    if prior is not None:
        both = np.where(np.isnan(residual), np.nan, np.asarray(prior, np.float64))
        intake = moments(both, codes, groups).mean
        link = weighted_correlation(figures.mean, intake, figures.n.astype(np.float64))
    return SimpleEffects(**vars(figures), p=p, with_intake=link)


def weighted_correlation(a: Floats, b: Floats, weight: Floats) -> float:
    """Pearson's correlation with weights; NaN where fewer than three pairs or no spread.

    >>> round(weighted_correlation(np.array([1., 2, 3]), np.array([2., 4, 6]), np.ones(3)), 6)
    1.0
    """
    held = np.isfinite(a) & np.isfinite(b) & (weight > 0)
    if int(held.sum()) < 3:
        return NAN
    x, y, w = a[held], b[held], weight[held] / weight[held].sum()
    x, y = x - w @ x, y - w @ y
    scale = float(np.sqrt((w @ x**2) * (w @ y**2)))
    return float(w @ (x * y)) / scale if scale > 0 else NAN


@dataclass(frozen=True)
class Funnel:
    """Limits around the expectation for each group's size; outside: beyond the outer ones."""

    inner_low: Floats
    inner_high: Floats
    outer_low: Floats
    outer_high: Floats
    outside: list[str]


def funnel(mean: Floats, n: Integers, sd: float, centre: float = 0.0) -> Funnel:
    """Where 95% and 99.8% of equal groups of this size would lie: centre ± z·sd/√n
    (Spiegelhalter 2005). A plot for small groups, of which no ranking is fair.

    mean, n: (groups,); sd: of students. outside: "", "above" or "below" the 99.8% limits.

    >>> f = funnel(np.array([0.5, 4.0]), np.array([25, 25]), 5.0)
    >>> f.inner_high.round(3).tolist(), f.outside
    ([1.96, 1.96], ['', 'above'])
    """
    if not sd > 0:
        raise ValueError(f"sd must be positive; it is {sd} instead")
    error = sd / np.sqrt(np.where(n > 0, n, np.nan))
    inner, outer = normal_quantile(0.975) * error, normal_quantile(0.999) * error
    above, below = mean > centre + outer, mean < centre - outer
    said = ["above" if a else "below" if b else "" for a, b in zip(above, below, strict=True)]
    return Funnel(centre - inner, centre + inner, centre - outer, centre + outer, said)
