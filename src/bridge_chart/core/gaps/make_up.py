"""Who is in a set: its make-up against everyone's."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import special

from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.estimate import NAN
from bridge_chart.core.gaps.shares import ratio_interval

SMALL_EXPECTED = 5.0


@dataclass(frozen=True)
class MakeUp:
    """One category: its share in the set and in everyone, and how often it occurs in the set.

    against_rest: share in the set ÷ share in the rest. against_everyone: ÷ share in everyone.
    exact_p: Fisher's, for small cells (an expected count under 5); NaN elsewhere.
    """

    in_set: int
    in_rest: int
    set_share: float
    everyone_share: float
    against_rest: tuple[float, float, float]
    against_everyone: tuple[float, float, float]
    exact_p: float


def make_up(in_set: int, set_size: int, in_rest: int, rest_size: int) -> MakeUp:
    """Make-up of a set in one category, against the rest and against everyone.

    RR = (a/n)/(b/m) with its log interval (Katz et al. 1978). set/everyone = RR/(w·RR + 1 − w),
    w = n/(n + m), RR's limits passed through; so the set is tested against students not in it.
    Errors: ValueError where a count lies outside its size. Empty set or rest: NaN.

    >>> m = make_up(15, 30, 20, 80)
    >>> round(m.against_rest[0], 6), round(m.against_everyone[0], 6)
    (2.0, 1.571429)
    """
    ratios = ratio_interval(in_set, set_size, in_rest, rest_size)
    everyone = set_size + rest_size
    w = set_size / everyone if everyone else NAN
    passed = tuple(_to_everyone(ratio, w) for ratio in ratios)
    total = in_set + in_rest
    exact = NAN
    if everyone and min(set_size, rest_size) * min(total, everyone - total) < (
        SMALL_EXPECTED * everyone
    ):
        exact = fisher_exact(in_set, set_size, in_rest, rest_size)
    return MakeUp(
        in_set, in_rest, in_set / set_size if set_size else NAN,
        total / everyone if everyone else NAN, ratios, (passed[0], passed[1], passed[2]), exact,
    )  # fmt: skip


def _to_everyone(ratio: float, w: float) -> float:
    if np.isinf(ratio):
        return 1.0 / w
    return ratio / (w * ratio + 1 - w)


def fisher_exact(count1: int, n1: int, count2: int, n2: int) -> float:
    """Two-sided exact p that two shares are one (Fisher 1922): all tables with the same margins
    that are no likelier than this one.

    >>> round(fisher_exact(3, 4, 1, 4), 6)
    0.485714
    """
    if not (0 <= count1 <= n1 and 0 <= count2 <= n2):
        raise ValueError("a count must lie between 0 and n")
    total = count1 + count2
    k = np.arange(max(0, total - n2), min(n1, total) + 1, dtype=np.float64)
    logs = _log_choose(n1, k) + _log_choose(n2, total - k)
    mass = np.exp(logs - special.logsumexp(logs))
    mine = mass[int(count1 - k[0])]
    return float(min(1.0, mass[mass <= mine * (1 + 1e-7)].sum()))


def _log_choose(n: int, k: Floats) -> Floats:
    out: Floats = special.gammaln(n + 1) - special.gammaln(k + 1) - special.gammaln(n - k + 1)
    return out


def below_expectation(residual: Floats, prediction_error: Floats | float) -> Mask:
    """Who is below expectation: more than one error of prediction, not merely under zero.

    residual: (students,), NaN = no expectation (then not in the set).

    >>> below_expectation(np.array([-1.0, -3.0, np.nan]), 2.0).tolist()
    [False, True, False]
    """
    found: Mask = np.asarray(residual, np.float64) < -np.asarray(prediction_error, np.float64)
    return found


def make_ups(set_counts: Integers, everyone_counts: Integers) -> list[MakeUp]:
    """Make-up in every category of one characteristic. Both (categories,), the set in everyone.

    >>> [round(m.against_rest[0], 3) for m in make_ups(np.array([3, 1]), np.array([5, 5]))]
    [2.25, 0.375]
    """
    inside, everyone = np.asarray(set_counts, np.int64), np.asarray(everyone_counts, np.int64)
    if inside.shape != everyone.shape or np.any(inside > everyone) or np.any(inside < 0):
        raise ValueError("the set's counts must lie within everyone's")
    size, rest = int(inside.sum()), int(everyone.sum() - inside.sum())
    return [
        make_up(int(x), size, int(total - x), rest)
        for x, total in zip(inside, everyone, strict=True)
    ]
