"""Describing groups: n, missing, mean, spread, quartiles, interval of the mean."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Grouped, Integers, check_codes, grouped
from bridge_chart.core.distributions import t_quantile


@dataclass(frozen=True)
class Moments:
    """Arrays of shape (groups,); NaN where a figure is undefined (n = 0; sd and se: n < 2)."""

    n: Integers
    missing: Integers
    mean: Floats
    sd: Floats
    se: Floats
    df: Floats
    low: Floats
    high: Floats


@dataclass(frozen=True)
class Description(Moments):
    """Moments with quartiles; NaN where n = 0."""

    q1: Floats
    median: Floats
    q3: Floats


def moments(values: Floats, codes: Codes, groups: int, *, confidence: float = 0.95) -> Moments:
    """n, missing, mean, spread and interval of the mean within each group.

    mean = Σx/n; sd = √(Σ(x−mean)²/(n−1)); se = sd/√n; interval mean ± t(n−1)·se.

    values: (students,), own unit, NaN = missing (counted in `missing`, nowhere else).
    codes: (students,), group of each row, −1 = in no group.
    Errors: ValueError on shapes or codes out of range.

    >>> m = moments(np.array([1.0, 2, 3, np.nan, 9]), np.array([0, 0, 0, 0, 1]), 2)
    >>> m.n.tolist(), m.missing.tolist(), m.mean.tolist(), m.sd.tolist()
    ([3, 1], [1, 0], [2.0, 9.0], [1.0, nan])
    """
    values = np.asarray(values, dtype=np.float64)
    check_codes(codes, len(values), groups)
    everyone = grouped(codes, groups)
    present = ~np.isnan(values)
    if present.all():
        by, filled, missing = everyone, values, np.zeros(groups, np.int64)
    else:
        by = Grouped(np.where(present, everyone.slot, 0), groups)
        filled = np.where(present, values, 0.0)
        missing = everyone.counts() - by.counts()
    n = by.counts()
    mean = _divide(by.sums(filled), n)
    # In place 0 stands whoever is in no group; what is summed there is not looked at.
    centred = filled - np.append(0.0, np.nan_to_num(mean))[by.slot]
    sd = np.sqrt(_divide(by.sums(np.square(centred)), n - 1))
    se = _divide(sd, np.sqrt(n))
    df = np.where(n > 1, n - 1.0, np.nan)
    margin = t_quantile(0.5 + confidence / 2, df) * se
    return Moments(n, missing, mean, sd, se, df, mean - margin, mean + margin)


def describe(
    values: Floats,
    codes: Codes,
    groups: int,
    *,
    ranks: Ranks | None = None,
    confidence: float = 0.95,
) -> Description:
    """Moments and quartiles of `values` within each group.

    Quartiles by linear interpolation (Hyndman & Fan 1996, type 7). `ranks`: those of these rows,
    if they are kept; sorting small integers is several times faster. Else as `moments`.

    >>> d = describe(np.array([1.0, 2, 3, np.nan, 9]), np.array([0, 0, 0, 0, 1]), 2)
    >>> d.median.tolist(), d.q1.tolist()
    ([2.0, 9.0], [1.5, 9.0])
    """
    values = np.asarray(values, dtype=np.float64)
    figures = moments(values, codes, groups, confidence=confidence)
    q1, median, q3 = quantiles(values, codes, groups, (0.25, 0.50, 0.75), ranks).T
    return Description(**vars(figures), q1=q1, median=median, q3=q3)


@dataclass(frozen=True)
class Ranks:
    """Place of each row's value among all values in ascending order (any order within ties).

    rank: (rows,), −1 where there is no value; ascending: (values,), the values themselves.
    """

    rank: Integers
    ascending: Floats

    def of(self, rows: Integers) -> Ranks:
        """The ranks of some rows only."""
        return Ranks(self.rank[rows], self.ascending)


def ranked(values: Floats, order: Integers | None = None) -> Ranks:
    """Ranks of all values; `order`: positions of those with a value, ascending, if kept.

    >>> ranked(np.array([4.0, np.nan, 1.0])).rank.tolist()
    [1, -1, 0]
    """
    if order is None:
        order = np.argsort(values, kind="stable")[: int(np.count_nonzero(~np.isnan(values)))]
    rank = np.full(len(values), -1, np.int64)
    rank[order] = np.arange(len(order))
    return Ranks(rank, np.asarray(values[order], np.float64))


def quantiles(
    values: Floats, codes: Codes, groups: int, shares: tuple[float, ...], ranks: Ranks | None = None
) -> Floats:
    """Any quantiles of each group, (groups, shares), type 7 (Hyndman & Fan 1996); NaN where n = 0.

    Place share·(n−1) among the ascending values, linear between neighbours. NaN are left out.
    ranks: those of these rows, if they are kept (sorting small integers is several times faster).
    Errors: ValueError where a share lies outside 0 … 1.

    >>> quantiles(np.array([1.0, 2, 3, 5]), np.zeros(4, int), 1, (0.0, 0.5, 0.9)).tolist()
    [[1.0, 2.5, 4.4]]
    """
    if any(not 0 <= share <= 1 for share in shares):
        raise ValueError("shares must lie in 0 to 1")
    values = np.asarray(values, dtype=np.float64)
    check_codes(codes, len(values), groups)
    held = np.where(np.isnan(values), -1, codes)
    n = grouped(held, groups).counts()
    ranks = ranks or ranked(values)
    kept = held >= 0
    # Group and rank in one integer: one fast sort puts every group's values in order.
    packed = np.sort((held[kept].astype(np.int64) << 32) | ranks.rank[kept])
    start = np.concatenate([[0], np.cumsum(n)[:-1]])
    found = [_at(packed, ranks.ascending, start, n, share) for share in shares]
    return np.stack(found, axis=1) if found else np.empty((groups, 0))


def _at(packed: Integers, ascending: Floats, start: Integers, n: Integers, share: float) -> Floats:
    """Type-7 quantile of each run of `packed` that begins at `start` with `n` entries."""
    out = np.full(len(n), np.nan)
    some = n > 0
    place = share * (n[some] - 1)
    below = np.floor(place).astype(np.int64)
    above = np.minimum(below + 1, n[some] - 1)
    low = ascending[packed[start[some] + below] & 0xFFFFFFFF]
    high = ascending[packed[start[some] + above] & 0xFFFFFFFF]
    out[some] = low + (place - below) * (high - low)
    return out


def _divide(top: Floats, bottom: Floats | Integers) -> Floats:
    """top / bottom, NaN where bottom ≤ 0."""
    out = np.full(np.shape(top), np.nan)
    np.divide(top, bottom, out=out, where=np.asarray(bottom) > 0)
    return out
