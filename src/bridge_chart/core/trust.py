"""What may be said: verdicts, false discoveries, what chance alone would give."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.distributions import binomial_quantile, chi_square_tail

FEWEST_TO_SHOW = 10
FEWEST_FOR_VERDICT = 20
FEWEST_DF = 4.0
ALIKE_WITHIN_SD = 0.1
VERDICTS = ("behind", "ahead", "alike", "unclear", "few")


def discoveries(p: Floats, rate: float = 0.05) -> Mask:
    """Which p-values stand after false-discovery control (Benjamini & Hochberg 1995).

    p: (tests,), NaN = not tested (never a discovery, not in the count).

    >>> int(discoveries(np.array([.0001, .0004, .0019, .0095, .0201, .0278, .0298, .0344,
    ...     .0459, .3240, .4262, .5719, .6528, .7590, 1])).sum())
    4
    """
    p = np.asarray(p, dtype=np.float64)
    out = np.zeros(p.shape, dtype=bool)
    tested = np.flatnonzero(~np.isnan(p))
    ranked = tested[np.argsort(p[tested], kind="stable")]
    below = p[ranked] <= rate * np.arange(1, len(ranked) + 1) / max(len(ranked), 1)
    if below.any():
        out[ranked[: int(np.flatnonzero(below)[-1]) + 1]] = True
    return out


def verdicts(
    span: Floats, low: Floats, high: Floats, p: Floats, n: Integers, df: Floats, sd: float
) -> list[str]:
    """ahead, behind, alike, unclear or few, per row (see VERDICTS).

    ahead/behind: a discovery among these rows. alike: the interval lies inside
    ±ALIKE_WITHIN_SD·sd (Schuirmann 1987). few: n < FEWEST_FOR_VERDICT, or df < FEWEST_DF,
    or no interval. All (rows,) in the outcome's unit; sd is the population's.

    >>> verdicts(*(np.array(a) for a in ([-4., .1, 2.], [-6., -.3, -1.], [-2., .5, 5.],
    ...     [.001, .6, .2], [84, 900, 41], [83., 899., 40.])), sd=10.0)
    ['behind', 'alike', 'unclear']
    """
    enough = (n >= FEWEST_FOR_VERDICT) & (df >= FEWEST_DF) & ~np.isnan(low)
    stands = discoveries(np.where(enough, p, np.nan))
    near = (low >= -ALIKE_WITHIN_SD * sd) & (high <= ALIKE_WITHIN_SD * sd)
    out = np.select(
        [~enough, stands & (span < 0), stands & (span > 0), near],
        ["few", "behind", "ahead", "alike"], "unclear",
    )  # fmt: skip
    return [str(verdict) for verdict in out]


@dataclass(frozen=True)
class ChanceLine:
    """What equal groups would give: rows outside their interval."""

    groups: int
    expected: float
    low: int
    high: int
    at_least_one: float


def chance_line(groups: int, confidence: float = 0.95) -> ChanceLine:
    """How many of `groups` equal groups would look different by chance (binomial).

    >>> line = chance_line(40)
    >>> line.expected, line.low, line.high, round(line.at_least_one, 2)
    (2.0, 0, 5, 0.87)
    """
    if groups < 1:
        raise ValueError("there must be at least one group")
    rate = 1.0 - confidence
    return ChanceLine(
        groups,
        round(groups * rate, 9),
        binomial_quantile(0.025, groups, rate),
        binomial_quantile(0.975, groups, rate),
        float(1 - confidence**groups),
    )


@dataclass(frozen=True)
class Heterogeneity:
    """Whether groups differ at all: Q on df with p, and the spread (sd) beyond chance."""

    q: float
    df: int
    p: float
    spread: float


def heterogeneity(mean: Floats, se: Floats) -> Heterogeneity:
    """Cochran's Q = Σw(m−m̄)², w = 1/se², χ²(k−1); spread by DerSimonian & Laird (1986):
    τ² = max(0, (Q−(k−1)) / (Σw − Σw²/Σw)).

    mean, se: (groups,); groups without a finite positive se are left out; fewer than two
    give NaN.

    >>> h = heterogeneity(np.array([0., 0., 6.]), np.array([1., 1., 1.]))
    >>> round(h.q, 6), h.df, round(h.spread**2, 6)
    (24.0, 2, 11.0)
    """
    held = np.isfinite(mean) & np.isfinite(se) & (se > 0)
    if int(held.sum()) < 2:
        return Heterogeneity(float("nan"), 0, float("nan"), float("nan"))
    weight = 1.0 / se[held] ** 2
    centre = np.sum(weight * mean[held]) / weight.sum()
    q = float(np.sum(weight * (mean[held] - centre) ** 2))
    df = int(held.sum()) - 1
    tau2 = max(0.0, (q - df) / float(weight.sum() - np.sum(weight**2) / weight.sum()))
    return Heterogeneity(q, df, chi_square_tail(q, df), float(np.sqrt(tau2)))
