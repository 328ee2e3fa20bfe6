"""Each part of a group against the rest of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, check_codes
from bridge_chart.core.describing.describe import moments
from bridge_chart.core.distributions import t_quantile, t_two_sided


@dataclass(frozen=True)
class AgainstRest:
    """Arrays (groups,): mean of the row − mean of the rest, with Welch's interval; NaN where
    either side has fewer than two values or neither any spread. rest_n: values in the rest."""

    value: Floats
    se: Floats
    df: Floats
    low: Floats
    high: Floats
    p: Floats
    rest_n: Integers


def against_rest(
    values: Floats,
    at: Integers,
    codes: Codes,
    groups: int,
    member: Mask,
    confidence: float = 0.95,
    elsewhere: tuple[int, float, float] = (0, 0.0, 0.0),
) -> AgainstRest:
    """Mean of each row − mean of those members of a group who are not in the row (Welch 1947).

    A part compared with a whole that contains it is compared partly with itself: the gap comes out
    too small by the part's share, and its error wrong. values: (students,), NaN = missing; at,
    codes: who is in which row (a student may be in several, once in each; −1 = in none); member:
    (students,) who is in the group; elsewhere: n, mean and sd of others who are in it and in no
    row. Errors: ValueError on codes or shapes.

    >>> v = np.array([1., 3, 5, 7, 9, 11])
    >>> r = against_rest(v, np.arange(6), np.array([0, 0, 0, 1, 1, 1]), 2, np.ones(6, bool))
    >>> r.value.tolist(), r.rest_n.tolist(), round(float(r.se[0]), 6)
    ([-6.0, 6.0], [3, 3], 1.632993)
    """
    values = np.asarray(values, np.float64)
    check_codes(codes, len(at), groups)
    if len(member) != len(values):
        raise ValueError("member must have one entry per student")
    counted = member & ~np.isnan(values)
    here = int(counted.sum())
    beyond, beyond_mean, beyond_sd = elsewhere
    total = here + beyond
    centre = float(values[counted].mean()) if here else beyond_mean
    apart = beyond_mean - centre if beyond else 0.0
    rows = moments(values[at], codes, groups)
    inside = counted[at] & (codes >= 0)
    shifted = values[at[inside]] - centre
    code = np.asarray(codes)[inside].astype(np.int64)
    n = np.bincount(code, minlength=groups)
    sums = np.bincount(code, shifted, groups)
    squares = np.bincount(code, shifted**2, groups)
    rest_n = total - n
    whole = float(np.sum((values[counted] - centre) ** 2))
    if beyond:
        whole += beyond * apart**2 + (beyond - 1) * beyond_sd**2
    with np.errstate(invalid="ignore", divide="ignore"):
        rest_mean = (beyond * apart - sums) / rest_n
        rest_variance = np.maximum(whole - squares - rest_n * rest_mean**2, 0.0) / (rest_n - 1)
        own, other = rows.se**2, rest_variance / rest_n
        told = (rows.n > 1) & (rest_n > 1) & (own + other > 0)
        se = np.where(told, np.sqrt(own + other), np.nan)
        df = np.where(
            told, (own + other) ** 2 / (own**2 / (rows.n - 1) + other**2 / (rest_n - 1)), np.nan
        )
        value = np.where(rest_n > 0, rows.mean - centre - rest_mean, np.nan)
        p = t_two_sided(value / se, df)
    margin = t_quantile(0.5 + confidence / 2, df) * se
    return AgainstRest(value, se, df, value - margin, value + margin, p, rest_n)
