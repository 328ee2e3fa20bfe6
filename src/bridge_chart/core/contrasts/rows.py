"""Rows of students: each on its own, or against the rest of those whom it is compared with."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, check_codes
from bridge_chart.core.contrasts.noise import Noise
from bridge_chart.core.contrasts.weights import class_weights, spread_against, spread_alone
from bridge_chart.core.distributions import t_quantile, t_two_sided

WHOLE = 0.95
"""A row that drew this much of its own line lies on it by construction."""


@dataclass(frozen=True)
class Sample:
    """Students of one outcome, all arrays (students,). values: NaN = missing; residual: values
    about the mean of their year level, which is what varies; classes: −1 = not known.
    school_of_class: (classes,). share: the values are 0 and 100, whose variance is their mean's."""

    values: Floats
    residual: Floats
    classes: Codes
    school_of_class: Integers
    noise: Noise
    share: bool = False


@dataclass(frozen=True)
class Elsewhere:
    """Others who belong to the rest and stand in no array: how many, their mean and sd, and how
    many students a class of theirs has."""

    n: int
    mean: float
    sd: float
    class_size: float


@dataclass(frozen=True)
class Contrasts:
    """Arrays (rows,): a figure with its error, degrees of freedom, 95% interval and p against
    zero; NaN where there is none. rest_n: students in the rest; classes: Σ w_c² over the classes
    that vary, 0 where the row is one class of a school; n_effective: how many students, taken as
    independent, would tell as much."""

    value: Floats
    se: Floats
    df: Floats
    low: Floats
    high: Floats
    p: Floats
    n: Integers
    rest_n: Integers
    classes: Floats
    n_effective: Floats


@dataclass(frozen=True)
class _Sums:
    """(rows,) of those with a value: n, mean of the values, mean and squares of the residuals."""

    n: Integers
    mean: Floats
    middle: Floats
    squares: Floats


def alone(sample: Sample, at: Integers, codes: Codes, rows: int) -> Contrasts:
    """The mean of each row, as it could have been with another like cohort of these schools.

    V = s²/n + Σ w_c²·σ²_c, s² the row's own variance taken together with the district's
    (`Noise.of_rows`), the second sum over the classes of each school in which the row has two or
    more; df by Satterthwaite. at, codes: (memberships,), −1 = in no row.

    >>> noise = Noise(1.0, 0.0, 0.0, 0.0, 0)
    >>> v = np.array([1.0, 3.0, 5.0])
    >>> s = Sample(v, v, np.array([-1, -1, -1]), np.zeros(0, int), noise)
    >>> c = alone(s, np.arange(3), np.zeros(3, int), 1)
    >>> c.value.tolist(), c.se.round(4).tolist(), c.df.tolist()
    ([3.0], [1.1547], [2.0])
    """
    check_codes(codes, len(at), rows)
    at, code = _held(sample, at, codes)
    sums = _sums(sample, at, code, rows)
    variance, df = _variance(sample, sums)
    spread = spread_alone(
        class_weights(sample.classes[at], code, rows, sample.school_of_class),
        sums.n.astype(np.float64),
    )
    with np.errstate(invalid="ignore", divide="ignore"):
        students = variance / sums.n
    parts = [(students, df)]
    return _contrasts(sums.mean, parts, spread, sample.noise, sums.n, np.zeros(rows, np.int64))


def against_rest(
    sample: Sample, at: Integers, codes: Codes, rows: int, member: Mask,
    elsewhere: Elsewhere | None = None,
) -> Contrasts:  # fmt: skip
    """Mean of each row minus the mean of those members who are not in it.

    A part compared with a whole that contains it is compared partly with itself: the gap comes out
    too small by the part's share, and its error wrong. V adds up both sides' student variances and
    Σ w_c²·σ²_c with w_c the row's share in a class minus the rest's, so that what classes add goes
    out where both sit in the same ones. member: (students,). For shares the two sides have the
    variance of their common share. Source: Welch (1947); Satterthwaite (1946).

    >>> v = np.array([1., 3, 5, 7, 9, 11])
    >>> s = Sample(v, v, np.full(6, -1), np.zeros(0, int), Noise(1.0, 0.0, 0.0, 0.0, 0))
    >>> r = against_rest(s, np.arange(6), np.array([0, 0, 0, 1, 1, 1]), 2, np.ones(6, bool))
    >>> r.value.tolist(), r.rest_n.tolist(), round(float(r.se[0]), 6)
    ([-6.0, 6.0], [3, 3], 1.632993)
    """
    check_codes(codes, len(at), rows)
    at, code = _held(sample, at, codes)
    own = _sums(sample, at, code, rows)
    inside = member[at]
    shared = _sums(sample, at[inside], code[inside], rows)
    among = np.flatnonzero(member & ~np.isnan(sample.values))
    every = _sums(sample, among, np.zeros(len(among), np.int64), 1)
    rest = _less(every, shared, elsewhere)
    weights = class_weights(sample.classes[at], code, rows, sample.school_of_class, inside)
    known = sample.classes[among]
    members = np.bincount(known[known >= 0], minlength=len(sample.school_of_class))
    n, rest_n = own.n.astype(np.float64), rest.n.astype(np.float64)
    spread = spread_against(weights, n, members.astype(np.float64), rest_n)
    with np.errstate(invalid="ignore", divide="ignore"):
        if elsewhere is not None and elsewhere.n:
            spread = spread + elsewhere.n * elsewhere.class_size / rest_n**2
        parts: list[tuple[Floats, Floats]]
        if sample.share:
            common = (own.n * own.mean + rest.n * rest.mean) / (own.n + rest.n)
            both = common * (100 - common)
            free = np.asarray(own.n + rest.n - 2.0, np.float64)
            parts = [(both / own.n, free), (both / rest.n, free)]
        else:
            variance, df = _variance(sample, own)
            parts = [(variance / own.n, df), (rest.squares / (rest.n - 1) / rest.n, rest_n - 1)]
        value: Floats = np.where(rest.n > 0, own.mean - rest.mean, np.nan)
    return _contrasts(value, parts, spread, sample.noise, own.n, rest.n)


def gap_to_rest(values: Floats, at: Integers, codes: Codes, rows: int, member: Mask) -> Floats:
    """(rows,) only the value of `against_rest`: each row's mean minus that of the members not in
    it; NaN where there are none. values: (students,), NaN = missing.

    >>> gap_to_rest(np.array([1., 3, 5, 7, np.nan]), np.arange(5), np.array([0, 0, 1, 1, 1]), 2,
    ...             np.ones(5, bool)).tolist()
    [-4.0, 4.0]
    """
    held = (np.asarray(codes) >= 0) & ~np.isnan(values[at])
    places, code = np.asarray(at)[held], np.asarray(codes)[held].astype(np.int64)
    counted = member & ~np.isnan(values)
    total, everyone = float(values[counted].sum()), int(counted.sum())
    mine = values[places]
    inside = counted[places]
    n, n_in = np.bincount(code, minlength=rows), np.bincount(code[inside], minlength=rows)
    sums = np.bincount(code, mine, rows)
    shared = np.bincount(code[inside], mine[inside], rows)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(sums / n - (total - shared) / (everyone - n_in))


def against_fit(sample: Sample, at: Integers, codes: Codes, rows: int, strata: Codes) -> Contrasts:
    """The mean distance of each row from a fit, as it could have been with another like cohort
    through which the line is drawn anew.

    The values are residuals of a fit for each stratum, so a row's mean is measured from a line that
    the row itself helped to draw: with φ = Σ_s n_s²/(n·N_s) of it drawn by itself, the student part
    of the variance is (s²(1 − φ)² + σ²φ(1 − φ))/n, and classes count with (1 − φ)². A row that is
    nearly whole strata (WHOLE) has the distance 0 by construction, no interval (NaN) and no rest.
    strata: (students,) codes of the fits (year levels), −1 = in none.

    >>> from bridge_chart.core.contrasts.noise import Noise
    >>> v = np.array([-3., -1, 1, 3])
    >>> s = Sample(v, v, np.full(4, -1), np.zeros(0, int), Noise(6.0, 30.0, np.nan, np.nan, 0))
    >>> c = against_fit(s, np.arange(4), np.array([0, 0, 1, 1]), 2, np.zeros(4, int))
    >>> c.value.tolist(), round(float(against_fit(s, np.arange(4), np.zeros(4, int), 1,
    ...                                           np.zeros(4, int)).se[0]), 3)
    ([-2.0, 2.0], nan)
    """
    at, code = _held(sample, at, codes)
    own = _sums(sample, at, code, rows)
    everyone = np.flatnonzero(~np.isnan(sample.values) & (strata >= 0))
    wide = int(np.max(strata, initial=0)) + 1
    size = np.bincount(np.asarray(strata)[everyone], minlength=wide).astype(np.float64)
    known = np.asarray(strata)[at] >= 0
    cell, n_s = np.unique(code[known] * wide + np.asarray(strata)[at][known], return_counts=True)
    n = own.n.astype(np.float64)
    with np.errstate(invalid="ignore", divide="ignore"):
        drawn = np.bincount(cell // wide, n_s**2 / size[cell % wide], rows) / n
        left = np.where(drawn < WHOLE, 1 - drawn, np.nan)
        others_n = len(everyone) - n
        rest_n = np.bincount(cell // wide, size[cell % wide], rows) - n
        rest_n = np.where(drawn < WHOLE, rest_n, 0)
        weights = class_weights(sample.classes[at], code, rows, sample.school_of_class)
        places = sample.classes[everyone]
        members = np.bincount(places[places >= 0], minlength=len(sample.school_of_class))
        spread = spread_against(weights, n, members.astype(np.float64), others_n) * left**2
        variance, df = _variance(sample, own)
        mine = variance * left**2 / n
        common = sample.noise.variance if sample.noise.variance > 0 else variance
        others = common * drawn * left / n
    free: Floats = np.full(rows, max(len(everyone) - 2.0, 1.0))
    parts = [(mine, df), (others, free)]
    return _contrasts(own.mean, parts, spread, sample.noise, own.n, rest_n.astype(np.int64))


def _held(sample: Sample, at: Integers, codes: Codes) -> tuple[Integers, Integers]:
    held = (np.asarray(codes) >= 0) & ~np.isnan(sample.values[at])
    return np.asarray(at)[held], np.asarray(codes)[held].astype(np.int64)


def _sums(sample: Sample, at: Integers, code: Integers, rows: int) -> _Sums:
    n = np.bincount(code, minlength=rows)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.bincount(code, sample.values[at], rows) / n
        middle = np.bincount(code, sample.residual[at], rows) / n
    left = sample.residual[at] - middle[code]
    squares = np.bincount(code, left * left, rows).astype(np.float64)
    return _Sums(n, mean, middle, squares)


def _less(every: _Sums, part: _Sums, elsewhere: Elsewhere | None) -> _Sums:
    """The sums of everybody (one row) and of others elsewhere, without each part."""
    n, mean = int(every.n[0]), float(np.nan_to_num(every.mean[0]))
    middle, squares = float(np.nan_to_num(every.middle[0])), float(every.squares[0])
    beyond = elsewhere if elsewhere is not None else Elsewhere(0, 0.0, 0.0, 0.0)
    left = n - part.n
    total = left + beyond.n
    with np.errstate(invalid="ignore", divide="ignore"):
        rest_mean = np.nan_to_num((n * mean - part.n * np.nan_to_num(part.mean)) / left)
        rest_middle = (n * middle - part.n * np.nan_to_num(part.middle)) / left
        # The whole's squares about its own mean are the parts' and what lies between them.
        apart = np.nan_to_num(rest_middle - part.middle)
        inner = np.maximum(squares - part.squares - left * part.n / n * apart**2, 0.0)
        both = (left * rest_mean + beyond.n * beyond.mean) / total
        if beyond.n:
            inner = inner + (beyond.n - 1) * beyond.sd**2
            inner += left * beyond.n / total * (rest_mean - beyond.mean) ** 2
    return _Sums(total, both, np.nan_to_num(rest_middle), inner)


def _variance(sample: Sample, sums: _Sums) -> tuple[Floats, Floats]:
    """(rows,) of students, and its degrees of freedom."""
    n = sums.n.astype(np.float64)
    if sample.share:
        # Of nobody and of everybody the own one is nought: the district's common share has it.
        common = sample.noise.variance
        own = np.full(len(n), common) if common > 0 else sums.mean * (100 - sums.mean)
        return own, np.where(n > 1, n - 1, np.nan)
    with np.errstate(invalid="ignore", divide="ignore"):
        own = np.where(n > 1, sums.squares / (n - 1), np.nan)
    return sample.noise.of_rows(own, n - 1)


def _contrasts(
    value: Floats, parts: list[tuple[Floats, Floats]], spread: Floats, noise: Noise,
    n: Integers, rest_n: Integers,
) -> Contrasts:  # fmt: skip
    """Student variances with their degrees of freedom, and classes, put together."""
    between = noise.between if noise.known else 0.0
    error = noise.between_error if noise.known else 0.0
    with np.errstate(invalid="ignore", divide="ignore"):
        students = np.sum([part for part, _ in parts], axis=0)
        total = students + spread * between
        doubt = np.sum([part**2 / df for part, df in parts], axis=0) + (spread * error) ** 2 / 2
        se = np.where(total > 0, np.sqrt(total), np.nan)
        df = np.where(total > 0, total**2 / doubt, np.nan)
        p = t_two_sided(value / se, df)
        margin = t_quantile(0.975, df) * se
        effective = n * students / total
    return Contrasts(value, se, df, value - margin, value + margin, p, n, rest_n, spread, effective)
