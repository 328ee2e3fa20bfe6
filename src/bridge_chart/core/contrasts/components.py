"""How much of an outcome's variance lies between the classes of a school and year level."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import optimize

from bridge_chart.core.arrays import Codes, Floats, Integers

MOST_RATIO = 20.0
"""σ²_classes / σ²_students is looked for from 0 to this."""


@dataclass(frozen=True)
class Components:
    """within: variance of students about their class; between: of classes about their school and
    year level, 0 where none was found; between_error: the standard error of that estimate. df: of
    `within`; classes: how many stand beside another of their school and year level, 0: then
    nothing is known of what classes add, and `between` is NaN."""

    within: float
    between: float
    between_error: float
    df: int
    n: int
    classes: int


@dataclass(frozen=True)
class _Cells:
    """Classes within strata: size, mean, stratum (0 … strata − 1); sum of squares within."""

    size: Floats
    mean: Floats
    stratum: Integers
    strata: int
    inside: float

    def per_stratum(self, values: Floats) -> Floats:
        return np.bincount(self.stratum, values, self.strata).astype(np.float64)


def class_components(values: Floats, classes: Codes, strata: Codes) -> Components:
    """The two variances by restricted maximum likelihood, strata (school × year level) fixed.

    y_i = μ_stratum + u_class + e_i. With λ = σ²_u/σ²_e and w_j = n_j/(1 + λn_j), the criterion
    (N − S)·log(SS_within + Σ w_j(ȳ_j − ȳ_s)²) + Σ log(1 + λn_j) + Σ_s log Σ_j w_j is minimised
    over λ ≥ 0. The error of σ̂²_u comes from the expected information at the estimate.

    values: (students,) NaN = left out; classes, strata: (students,) codes, −1 = left out. Fewer
    than two students in every class give NaN. Source: Patterson & Thompson (1971).

    >>> v = np.array([1., 2, 3, 2, 3, 4, 6, 7, 8])
    >>> c = class_components(v, np.repeat([0, 1, 2], 3), np.zeros(9, int))
    >>> round(c.within, 6), round(c.between, 4), c.df, c.classes
    (1.0, 6.6667, 6, 3)
    """
    cells = _cells(np.asarray(values, np.float64), classes, strata)
    n, count = int(cells.size.sum()), len(cells.size)
    df = n - count
    if df < 1 or cells.inside <= 0:
        return Components(np.nan, np.nan, np.nan, max(df, 0), n, 0)
    beside = np.bincount(cells.stratum, minlength=cells.strata)[cells.stratum] > 1
    if not beside.any():
        return Components(cells.inside / df, np.nan, np.nan, df, n, 0)
    ratio = _ratio(cells, n)
    within = (cells.inside + _between(cells, ratio)) / (n - cells.strata)
    between = ratio * within
    error = _error(cells, n, within, between)
    return Components(within, between, error, df, n, int(beside.sum()))


def _cells(values: Floats, classes: Codes, strata: Codes) -> _Cells:
    held = ~np.isnan(values) & (classes >= 0) & (strata >= 0)
    y = values[held]
    wide = int(np.max(classes, initial=0)) + 1
    key = strata[held].astype(np.int64) * wide + classes[held]
    cell, place, counted = np.unique(key, return_inverse=True, return_counts=True)
    size = counted.astype(np.float64)
    mean = np.bincount(place, y, len(cell)) / size if len(cell) else np.empty(0)
    inside = float(np.sum((y - mean[place]) ** 2)) if len(cell) else 0.0
    known, stratum = np.unique(cell // wide, return_inverse=True)
    return _Cells(size, mean, stratum.astype(np.int64), len(known), inside)


def _between(cells: _Cells, ratio: float) -> float:
    """Σ w(ȳ_j − ȳ_s)², ȳ_s the weighted mean of the stratum's classes."""
    w = cells.size / (1 + ratio * cells.size)
    centre = cells.per_stratum(w * cells.mean) / cells.per_stratum(w)
    return float(np.sum(w * (cells.mean - centre[cells.stratum]) ** 2))


def _ratio(cells: _Cells, n: int) -> float:
    def criterion(u: float) -> float:
        ratio = MOST_RATIO * u * u
        w = cells.size / (1 + ratio * cells.size)
        squares = cells.inside + _between(cells, ratio)
        return float(
            (n - cells.strata) * np.log(squares)
            + np.sum(np.log1p(ratio * cells.size))
            + np.sum(np.log(cells.per_stratum(w)))
        )

    found = optimize.minimize_scalar(
        criterion, bounds=(0.0, 1.0), method="bounded", options={"xatol": 1e-7}
    )
    u = float(found.x)
    # At the edge the search stops a little inside.
    return MOST_RATIO * u * u if u > 1e-4 and criterion(u) < criterion(0.0) else 0.0


def _error(cells: _Cells, n: int, within: float, between: float) -> float:
    """Of σ̂²_u: √ of its place in the inverse of ½·tr(P V_k P V_l)."""
    u = 1.0 / (between + within / cells.size)
    total = cells.per_stratum(u)[cells.stratum]
    own = (u - u * u / total) ** 2

    def trace(d: Floats, e: Floats) -> float:
        square = cells.per_stratum(u * u * d) * cells.per_stratum(u * u * e)
        square -= cells.per_stratum(u**4 * d * e)
        return float(np.sum(own * d * e) + np.sum(square / cells.per_stratum(u) ** 2))

    one, each = np.ones(len(u)), 1.0 / cells.size
    inner = (n - len(u)) / within**2 + trace(each, each)
    information = np.array([[inner, trace(one, each)], [trace(one, each), trace(one, one)]]) / 2
    return float(np.sqrt(np.linalg.inv(information)[1, 1]))
