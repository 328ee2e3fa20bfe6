"""The difference of two shares."""

from __future__ import annotations

import math

import numpy as np

from bridge_chart.core.describing.shares import wilson
from bridge_chart.core.distributions import normal_quantile
from bridge_chart.core.estimate import NAN, Estimate, undefined


def _wilson_of(count: int, n: int, confidence: float) -> tuple[float, float, float]:
    share, low, high = wilson(np.array(count), np.array(n), confidence)
    return float(share), float(low), float(high)


def newcombe(count1: int, n1: int, count2: int, n2: int, confidence: float = 0.95) -> Estimate:
    """count1/n1 − count2/n2 of two independent groups, method 10 of Newcombe (1998, Statistics in
    Medicine 17:873–890): the squared distances to the two Wilson limits are added.

    se is NaN (the interval is not symmetrical); p by the pooled score test. An empty group gives
    NaN. Errors: ValueError where a count lies outside 0 … n.

    >>> d = newcombe(56, 70, 48, 80)
    >>> round(d.value, 4), round(d.low, 4), round(d.high, 4)
    (0.2, 0.0524, 0.3339)
    """
    p1, l1, u1 = _wilson_of(count1, n1, confidence)
    p2, l2, u2 = _wilson_of(count2, n2, confidence)
    if n1 == 0 or n2 == 0:
        return undefined("an empty group", n=n1 + n2)
    gap = p1 - p2
    pooled = (count1 + count2) / (n1 + n2)
    error = math.sqrt(pooled * (1 - pooled) * (1 / n1 + 1 / n2))
    p = math.erfc(abs(gap) / error / math.sqrt(2)) if error > 0 else NAN
    low = gap - math.hypot(p1 - l1, u2 - p2)
    high = gap + math.hypot(u1 - p1, p2 - l2)
    return Estimate(gap, NAN, math.inf, low, high, p, n1 + n2)


def newcombe_paired(
    both: int, first_only: int, second_only: int, neither: int, confidence: float = 0.95
) -> Estimate:
    """Share on the first occasion − share on the second of the *same* students, method 10 of
    Newcombe (1998, Statistics in Medicine 17:2635–2650).

    As for independent shares, less 2·φ times the product of the distances; φ is the correlation of
    the two answers, drawn towards 0 by n/2 in its numerator where positive. p: exact sign test
    (McNemar 1947). Errors: ValueError on negative counts.

    >>> d = newcombe_paired(36, 12, 2, 0)
    >>> round(d.value, 4), round(d.low, 4), round(d.high, 4)
    (0.2, 0.0569, 0.3404)
    """
    if min(both, first_only, second_only, neither) < 0:
        raise ValueError("counts must not be negative")
    n = both + first_only + second_only + neither
    if n == 0:
        return undefined("no pairs")
    p1, l1, u1 = _wilson_of(both + first_only, n, confidence)
    p2, l2, u2 = _wilson_of(both + second_only, n, confidence)
    gap = (first_only - second_only) / n
    margins = (
        (both + first_only) * (second_only + neither)
        * (both + second_only) * (first_only + neither)
    )  # fmt: skip
    product = both * neither - first_only * second_only
    numerator = max(product - n / 2, 0.0) if product > 0 else float(product)
    phi = numerator / math.sqrt(margins) if margins > 0 else 0.0
    d1, d2, e1, e2 = p1 - l1, u2 - p2, u1 - p1, p2 - l2
    low = gap - math.sqrt(max(d1 * d1 - 2 * phi * d1 * d2 + d2 * d2, 0.0))
    high = gap + math.sqrt(max(e1 * e1 - 2 * phi * e1 * e2 + e2 * e2, 0.0))
    return Estimate(gap, NAN, math.inf, low, high, _sign_test(first_only, second_only), n)


def _sign_test(first_only: int, second_only: int) -> float:
    changed, fewer = first_only + second_only, min(first_only, second_only)
    if changed == 0:
        return NAN
    ways = sum(math.comb(changed, k) for k in range(fewer + 1))
    return float(min(1.0, 2 * ways / 2**changed))


def share_of_level_gap_warning(cut_gaps: list[float]) -> bool:
    """Whether a gap in pass shares would turn with another cut (Ho 2008): the signs differ.

    cut_gaps: the gap in the share at or above each cut.

    >>> share_of_level_gap_warning([0.05, -0.02]), share_of_level_gap_warning([0.05, 0.0])
    (True, False)
    """
    return any(gap > 0 for gap in cut_gaps) and any(gap < 0 for gap in cut_gaps)


def ratio_interval(
    count1: int, n1: int, count2: int, n2: int, confidence: float = 0.95
) -> tuple[float, float, float]:
    """Ratio of two independent shares with its interval on the log scale (Katz et al. 1978).

    RR·exp(±z·√(1/x₁ − 1/n₁ + 1/x₂ − 1/n₂)). With a count of 0, half a student is added to each
    cell for the interval's far end (Walter 1975) and the near end is 0 or inf; both 0, or an
    empty group: NaN.

    >>> [round(x, 4) for x in ratio_interval(15, 30, 20, 80)]
    [2.0, 1.1871, 3.3696]
    """
    if not (0 <= count1 <= n1 and 0 <= count2 <= n2):
        raise ValueError("a count must lie between 0 and n")
    if n1 == 0 or n2 == 0 or count1 + count2 == 0:
        return NAN, NAN, NAN
    half = 0.5 if min(count1, count2) == 0 else 0.0
    a, b, m, n = count1 + half, count2 + half, n1 + half, n2 + half
    middle = math.log(a / m) - math.log(b / n)
    reach = normal_quantile(0.5 + confidence / 2) * math.sqrt(
        max(1 / a - 1 / m + 1 / b - 1 / n, 0.0)
    )
    low, high = math.exp(middle - reach), math.exp(middle + reach)
    if count2 == 0:
        return math.inf, low, math.inf
    if count1 == 0:
        return 0.0, 0.0, high
    return count1 * n2 / (n1 * count2), low, high
