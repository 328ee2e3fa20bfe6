"""Starting bands: low, middle, high, unknown."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Floats, Integers, Mask

UNKNOWN, LOW, MIDDLE, HIGH = -1, 0, 1, 2


@dataclass(frozen=True)
class Bands:
    """band: (students,) −1 unknown, 0 low, 1 middle, 2 high; counts: low, middle, high, unknown."""

    band: Integers
    lower_cut: float
    upper_cut: float
    counts: tuple[int, int, int, int]
    warning: str = ""


def bands(
    prior: Floats,
    basis: Mask | None = None,
    *,
    shares: tuple[float, float] = (1 / 3, 2 / 3),
    cuts: tuple[float, float] | None = None,
) -> Bands:
    """Bands of prior attainment: x ≤ q1 low, q1 < x ≤ q2 middle, above high, missing unknown.

    q1, q2: quantiles (type 7) of the prior on `basis` (all by default: the district's students of
    that year level, never the filtered ones), or the user's own `cuts`. Equal scores are never
    split, so bands are as even as the ties allow; q1 = q2 empties the middle, and then `warning`
    asks for cuts. Errors: ValueError where shares or cuts do not rise.

    >>> b = bands(np.array([1., 2, 2, 2, 2, 2, 3]))
    >>> b.counts, b.warning != ""
    ((6, 0, 1, 0), True)
    """
    prior = np.asarray(prior, np.float64)
    if not 0 < shares[0] < shares[1] < 1:
        raise ValueError(f"shares must rise between 0 and 1; they are {shares} instead")
    if cuts is not None and not cuts[0] <= cuts[1]:
        raise ValueError(f"cuts must not fall; they are {cuts} instead")
    known = ~np.isnan(prior)
    fitted = prior[known if basis is None else known & basis]
    if cuts is None and not len(fitted):
        every = np.full(prior.shape, UNKNOWN, np.int64)
        return Bands(every, np.nan, np.nan, (0, 0, 0, len(prior)), "no prior scores: no bands")
    q1, q2 = cuts if cuts is not None else np.quantile(fitted, shares)
    band = np.where(prior <= q1, LOW, np.where(prior <= q2, MIDDLE, HIGH))
    band = np.where(known, band, UNKNOWN).astype(np.int64)
    counts = tuple(int(np.count_nonzero(band == k)) for k in (LOW, MIDDLE, HIGH, UNKNOWN))
    warning = ""
    if q1 == q2:
        warning = "the middle band is empty: too many equal scores; set the cuts yourself"
    return Bands(band, float(q1), float(q2), (counts[0], counts[1], counts[2], counts[3]), warning)
