"""What stands out of many comparisons: false discoveries held down, best evidence first."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from hashlib import blake2b

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask
from bridge_chart.core.distributions import normal_quantile, t_two_sided
from bridge_chart.core.trust.chance import heterogeneity
from bridge_chart.core.trust.discoveries import discoveries


@dataclass(frozen=True)
class StandsOut:
    """(comparisons,): p of the raw estimate; stands; shrunken with its comparative error; evidence
    = max(0, |shrunken| − 1.645·error). order: positions of those that stand, best first."""

    p: Floats
    stands: Mask
    shrunken: Floats
    comparative_se: Floats
    evidence: Floats
    order: Integers


def stands_out(
    raw: Floats,
    se: Floats,
    df: Floats,
    family: Codes,
    rate: float = 0.05,
    *,
    any_dependence: bool = False,
) -> StandsOut:
    """Which of many raw differences stand, family by family.

    Tested: raw estimates with their sampling errors (t). Within each family (fixed in advance)
    false discoveries are held to `rate` (Benjamini & Hochberg 1995, or Benjamini & Yekutieli 2001).
    Shown: shrunken towards the family's mean by τ²/(τ² + se²), τ² by DerSimonian & Laird (1986),
    error √(τ²·se²/(τ² + se²)). Ordered by |shrunken| − 1.645·error, not below zero, then by p.

    raw, se, df: (comparisons,), NaN or se = 0 is not tested; family: codes, −1 = left out.

    >>> s = stands_out(np.array([5., .1, -.2, .05]), np.full(4, .5), np.full(4, 90.),
    ...                np.zeros(4, int))
    >>> s.order.tolist(), s.stands.tolist()
    ([0], [True, False, False, False])
    """
    raw, se, df = (np.asarray(a, np.float64) for a in (raw, se, df))
    family = np.asarray(family)
    if not raw.shape == se.shape == df.shape == family.shape:
        raise ValueError("raw, se, df and family must have one shape")
    tested = np.isfinite(raw) & (se > 0) & (df > 0) & (family >= 0)
    p = np.full(raw.shape, np.nan)
    p[tested] = t_two_sided(raw[tested] / se[tested], df[tested])
    stands = np.zeros(raw.shape, bool)
    shrunken, error = np.full(raw.shape, np.nan), np.full(raw.shape, np.nan)
    for code in np.unique(family[tested]):
        rows = np.flatnonzero(tested & (family == code))
        stands[rows] = discoveries(p[rows], rate, any_dependence=any_dependence)
        if len(rows) < 2:  # nothing to shrink towards
            shrunken[rows], error[rows] = raw[rows], se[rows]
            continue
        tau2 = heterogeneity(raw[rows], se[rows]).spread ** 2
        weight = 1 / (tau2 + se[rows] ** 2)
        centre = float(weight @ raw[rows] / weight.sum())
        keep = tau2 * weight
        shrunken[rows] = centre + keep * (raw[rows] - centre)
        error[rows] = np.sqrt(keep) * se[rows]
    evidence = np.maximum(np.abs(shrunken) - normal_quantile(0.95) * error, 0.0)
    found = np.flatnonzero(stands)
    order = found[np.lexsort((p[found], -evidence[found]))]
    return StandsOut(p, stands, shrunken, error, evidence, order)


def fold_repeats(sets: Sequence[Integers]) -> list[list[int]]:
    """Comparisons of identical student sets folded into one, in the order of their first.

    sets: positions of the students of each, any order. Empty sets fold together.

    >>> fold_repeats([np.array([1, 2]), np.array([3]), np.array([2, 1])])
    [[0, 2], [1]]
    """
    seen: dict[Hashable, list[int]] = {}
    for k, students in enumerate(sets):
        held = np.unique(np.asarray(students, np.int64))
        key = (len(held), blake2b(held.tobytes(), digest_size=16).digest())
        seen.setdefault(key, []).append(k)
    return list(seen.values())
