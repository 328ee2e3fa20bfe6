"""What would have been otherwise in another like cohort of the same schools."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import special

from bridge_chart.core.arrays import Codes, Floats, Integers
from bridge_chart.core.contrasts.components import class_components
from bridge_chart.core.describing.describe import moments

MOST_PRIOR = 30.0
"""The district's variance never counts for more students than this in a row's own."""
FEWEST_TO_TELL = 5


@dataclass(frozen=True)
class Noise:
    """An outcome's variances in a district, estimated once, whatever is asked.

    variance: of students about the mean of their year level; prior_df: how many students it is
    worth beside a row's own, as far as spreads are alike. between: what a class adds, with the
    standard error of that estimate; NaN where no school has two classes of a year level, or
    classes are not known. classes: how many it rests on.
    """

    variance: float
    prior_df: float
    between: float
    between_error: float
    classes: int

    @property
    def known(self) -> bool:
        """Whether what classes add could be estimated."""
        return self.classes > 0

    def of_rows(self, variance: Floats, df: Floats) -> tuple[Floats, Floats]:
        """The rows' variances taken together with the district's, and their degrees of freedom:
        (d₀s₀² + d·s²) / (d₀ + d) on d₀ + d (Smyth 2004).

        >>> noise = Noise(1.0, 30.0, 0.0, 0.1, 8)
        >>> [x.tolist() for x in noise.of_rows(np.array([4.0, np.nan]), np.array([10.0, 0.0]))]
        [[1.75, nan], [40.0, nan]]
        """
        d = np.where(np.isnan(variance), np.nan, df)
        if not self.variance > 0:
            return variance, d
        total = self.prior_df + d
        return (self.prior_df * self.variance + d * variance) / total, total


def noise_of(residual: Floats, classes: Codes, strata: Codes) -> Noise:
    """The noise of an outcome. residual: (students,) about the mean of their year level, NaN =
    missing; classes, strata (school × year level): codes, −1 = not known.

    How far spreads are alike is told from the classes (from the strata where there are none).

    >>> rng = np.random.default_rng(1)
    >>> place = np.repeat(np.arange(40), 25)
    >>> noise = noise_of(rng.normal(size=1000), place, place // 2)
    >>> round(noise.variance, 2), noise.prior_df, noise.classes
    (0.97, 30.0, 40)
    """
    values = np.asarray(residual, np.float64)
    parts = class_components(values, classes, strata)
    by = np.asarray(classes if parts.classes else strata).astype(np.int64)
    each = moments(values, by, int(by.max(initial=-1)) + 1)
    told = (each.n >= FEWEST_TO_TELL) & (each.sd > 0)
    every = values[~np.isnan(values)]
    whole = float(every.var(ddof=1)) if len(every) > 1 else float("nan")
    prior = alike_spreads(each.sd[told] ** 2, each.n[told] - 1)
    return Noise(whole, prior, parts.between, parts.between_error, parts.classes)


def alike_spreads(variance: Floats, df: Integers | Floats) -> float:
    """How many degrees of freedom a common variance is worth for groups with these, at most
    MOST_PRIOR: moments of log s² (Smyth 2004). Fewer than three groups give MOST_PRIOR / 2.

    >>> alike_spreads(np.array([1.0, 1.1, 0.9, 1.0]), np.array([20, 20, 20, 20]))
    30.0
    >>> alike_spreads(np.array([1.0, 9.0, 0.2, 4.0]), np.array([20, 20, 20, 20])) < 3
    True
    """
    d = np.asarray(df, np.float64)
    if len(d) < 3:
        return MOST_PRIOR / 2
    e = np.log(variance) - special.digamma(d / 2) + np.log(d / 2)
    apart = float(np.var(e, ddof=1) - np.mean(special.polygamma(1, d / 2)))
    # trigamma(d₀/2) = apart; it falls, so what is no larger than at the most gives the most.
    low, high = 0.5, MOST_PRIOR
    if apart <= float(special.polygamma(1, high / 2)):
        return MOST_PRIOR
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if special.polygamma(1, middle / 2) > apart else (low, middle)
    return (low + high) / 2
