"""How far an order of groups can be trusted."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import optimize, special

from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.distributions import t_two_sided
from bridge_chart.core.trust.discoveries import holm
from bridge_chart.core.value_added.multilevel import GroupEffects

DRAWS = 4000
SEED = 20_261_123


@dataclass(frozen=True)
class RankIntervals:
    """Rank 1 is the highest; (groups,), NaN where a group has no estimate."""

    expected: Floats
    low: Floats
    high: Floats
    draws: int
    seed: int


def rank_intervals(
    effects: GroupEffects, confidence: float = 0.95, draws: int = DRAWS, seed: int = SEED
) -> RankIntervals:
    """Interval of each group's rank by simulation from N(û, Var(û − u)), errors of two groups
    being linked as the mixed-model equations say (Goldstein & Spiegelhalter 1996).

    Same seed, same answer. No variance between groups: NaN throughout, there is no order.

    >>> from bridge_chart.core.value_added.multilevel import multilevel
    >>> y = np.repeat(np.arange(12.) * 10, 6) + np.tile([-1., 0, 1, 2, -2, 0], 12)
    >>> m = multilevel(y, np.empty((72, 0)), np.repeat(np.arange(12), 6), 12)
    >>> r = rank_intervals(m.classes)
    >>> r.low[11], r.high[11], r.expected[0]
    (np.float64(1.0), np.float64(1.0), np.float64(12.0))
    """
    groups = len(effects.estimate)
    held = np.flatnonzero(np.isfinite(effects.comparative_se))
    out = [np.full(groups, np.nan) for _ in range(3)]
    if not len(held):
        return RankIntervals(out[0], out[1], out[2], draws, seed)
    rng = np.random.default_rng(seed)
    root = np.linalg.cholesky(effects.inverse)
    lean = effects.lean[held] @ root
    common = effects.shared[held] * np.sqrt(effects.spread[held])
    schools, place = np.unique(effects.school[held], return_inverse=True)
    total = np.zeros(len(held))
    block = max(1, int(4e6) // len(held))
    ranks = np.empty((draws, len(held)), np.int32)
    for first in range(0, draws, block):
        count = min(block, draws - first)
        drawn = rng.standard_normal((count, len(held))) * np.sqrt(effects.own[held])
        drawn += rng.standard_normal((count, lean.shape[1])) @ lean.T
        drawn += rng.standard_normal((count, len(schools)))[:, place] * common
        drawn = effects.estimate[held] + np.sqrt(effects.sigma2) * drawn
        order = np.argsort(-drawn, axis=1)
        rows = np.arange(count)[:, None]
        ranks[first : first + count][rows, order] = np.arange(1, len(held) + 1)
        total += ranks[first : first + count].sum(axis=0)
    tail = (1 - confidence) / 2
    low, high = np.quantile(ranks, (tail, 1 - tail), axis=0, method="inverted_cdf")
    out[0][held], out[1][held], out[2][held] = total / draws, low, high
    return RankIntervals(out[0], out[1], out[2], draws, seed)


@dataclass(frozen=True)
class BetterAndWorse:
    """How many other groups are surely above and below each, and the ranks that leaves."""

    better: Integers
    worse: Integers
    low: Floats
    high: Floats


def better_and_worse(mean: Floats, se: Floats, df: Floats, rate: float = 0.05) -> BetterAndWorse:
    """Ranks for the simple model: count the groups that are significantly better and worse.

    All pairs by Welch's t (errors of the two means added), p-values adjusted by Holm (1979) over
    all pairs. A group's rank lies between 1 + better and k − worse.
    mean, se, df: (groups,); NaN or se = 0 is left out (NaN ranks).

    >>> b = better_and_worse(np.array([0., 5, 5.1]), np.full(3, .5), np.full(3, 50.))
    >>> b.better.tolist(), b.low.tolist(), b.high.tolist()
    ([2, 0, 0], [3.0, 1.0, 1.0], [3.0, 2.0, 2.0])
    """
    mean, se, df = (np.asarray(a, np.float64) for a in (mean, se, df))
    held = np.flatnonzero(np.isfinite(mean) & (se > 0) & (df > 0))
    k = len(held)
    better, worse = np.zeros(len(mean), np.int64), np.zeros(len(mean), np.int64)
    low, high = np.full(len(mean), np.nan), np.full(len(mean), np.nan)
    if k:
        i, j = np.triu_indices(k, 1)
        v = se[held] ** 2
        freedom = (v[i] + v[j]) ** 2 / (v[i] ** 2 / df[held][i] + v[j] ** 2 / df[held][j])
        t = (mean[held][i] - mean[held][j]) / np.sqrt(v[i] + v[j])
        sure = holm(t_two_sided(t, freedom)) <= rate
        first_above = sure & (t > 0)
        second_above = sure & (t < 0)
        better[held] = np.bincount(j[first_above], minlength=k) + np.bincount(
            i[second_above], minlength=k
        )
        worse[held] = np.bincount(i[first_above], minlength=k) + np.bincount(
            j[second_above], minlength=k
        )
        low[held], high[held] = 1 + better[held], k - worse[held]
    return BetterAndWorse(better, worse, low, high)


def comparison_bars(se: Floats, rate: float = 0.05) -> float:
    """The multiple c of each group's error so that bars ± c·se of two groups that do not overlap
    differ at 5% on average over all pairs (Goldstein & Healy 1995).

    Bars for comparing two groups; never to be read against zero. se: (groups,), NaN left out.
    Fewer than two: NaN.

    >>> round(comparison_bars(np.full(5, 2.0)), 4)
    1.3859
    """
    s = np.asarray(se, np.float64)
    s = s[np.isfinite(s) & (s > 0)]
    if len(s) < 2:
        return float("nan")
    i, j = np.triu_indices(len(s), 1)
    ratio = (s[i] + s[j]) / np.sqrt(s[i] ** 2 + s[j] ** 2)

    def over(c: float) -> float:
        return float(np.mean(2 * special.ndtr(-c * ratio))) - rate

    return float(optimize.brentq(over, 0.0, 10.0, xtol=1e-12))
