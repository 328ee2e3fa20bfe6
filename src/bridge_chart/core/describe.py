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
    order: Integers | None = None,
    confidence: float = 0.95,
) -> Description:
    """Moments and quartiles of `values` within each group.

    Quartiles by linear interpolation (Hyndman & Fan 1996, type 7). `order`: an ascending order
    of all rows that have a value, if one is kept; it saves the sort. Else as `moments`.

    >>> d = describe(np.array([1.0, 2, 3, np.nan, 9]), np.array([0, 0, 0, 0, 1]), 2)
    >>> d.median.tolist(), d.q1.tolist()
    ([2.0, 9.0], [1.5, 9.0])
    """
    values = np.asarray(values, dtype=np.float64)
    figures = moments(values, codes, groups, confidence=confidence)
    held = np.where(np.isnan(values), -1, codes)
    q1, median, q3 = quartiles(values, held, figures.n, order)
    return Description(**vars(figures), q1=q1, median=median, q3=q3)


def quartiles(
    values: Floats, codes: Codes, n: Integers, order: Integers | None = None
) -> tuple[Floats, Floats, Floats]:
    """Lower quartile, median, upper quartile per group, type 7; NaN where n = 0.

    `codes` must be −1 where `values` is NaN; `n` are the group sizes by these codes.

    >>> quartiles(np.array([4.0, 1, 2, 3]), np.zeros(4, int), np.array([4]))[1].tolist()
    [2.5]
    """
    if order is None:
        held = np.flatnonzero(codes >= 0)
        kept = held[np.argsort(values[held])]
    else:
        kept = order[codes[order] >= 0]
    # Few groups fit into 16 bits, which NumPy sorts by radix.
    small = codes[kept].astype(np.int16 if len(n) < 32000 else np.int64, copy=False)
    by_group = kept[np.argsort(small, kind="stable")]
    ranked = values[by_group]
    start = np.concatenate([[0], np.cumsum(n)[:-1]])
    return (
        _at(ranked, start, n, 0.25),
        _at(ranked, start, n, 0.50),
        _at(ranked, start, n, 0.75),
    )


def _at(ranked: Floats, start: Integers, n: Integers, share: float) -> Floats:
    """Type-7 quantile of each run of `ranked` that begins at `start` with `n` values."""
    out = np.full(len(n), np.nan)
    some = n > 0
    place = share * (n[some] - 1)
    below = np.floor(place).astype(np.int64)
    above = np.minimum(below + 1, n[some] - 1)
    first = ranked[start[some] + below]
    out[some] = first + (place - below) * (ranked[start[some] + above] - first)
    return out


def _divide(top: Floats, bottom: Floats | Integers) -> Floats:
    """top / bottom, NaN where bottom ≤ 0."""
    out = np.full(np.shape(top), np.nan)
    np.divide(top, bottom, out=out, where=np.asarray(bottom) > 0)
    return out
