"""Means and differences whose students come in clusters (schools)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, grouped
from bridge_chart.core.distributions import t_quantile, t_two_sided


@dataclass(frozen=True)
class ClusteredMeans:
    """Arrays of shape (groups,). NaN: no value, or all of the group in one cluster."""

    n: Integers
    clusters: Integers
    mean: Floats
    se: Floats
    df: Floats


@dataclass(frozen=True)
class Difference:
    """A difference with its interval; NaN where undefined."""

    value: float
    se: float
    df: float
    low: float
    high: float
    p: float


@dataclass(frozen=True)
class _Cells:
    """Per group × cluster: students, and residual sums from the group's mean."""

    n: Floats
    size: Floats
    residual: Floats
    mean: Floats


def _cells(values: Floats, codes: Codes, groups: int, clusters: Codes, count: int) -> _Cells:
    held = ~np.isnan(values) & (codes >= 0) & (clusters >= 0)
    cell = np.where(held, codes.astype(np.int64) * count + clusters, -1)
    by = grouped(cell, groups * count)
    size = by.counts().reshape(groups, count).astype(np.float64)
    sums = by.sums(np.where(held, values, 0.0)).reshape(groups, count)
    n = size.sum(axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.where(n > 0, sums.sum(axis=1) / n, np.nan)
        residual = sums - size * mean[:, None]
    return _Cells(n, size, residual, mean)


def _weights(cells: _Cells) -> Floats:
    """(1 − n_gc/n_g)^(−1/2): the CR2 adjustment of a cluster's sum, NaN for a sole cluster."""
    with np.errstate(invalid="ignore", divide="ignore"):
        left = 1.0 - cells.size / cells.n[:, None]
        return np.where(left > 1e-12, 1.0 / np.sqrt(np.maximum(left, 1e-300)), np.nan)


def _omega(size: Floats, n: float, weight: Floats) -> Floats:
    """Covariances (clusters × clusters) of the adjusted sums under independent students."""
    scaled = weight * size / n
    out: Floats = np.diag(weight**2 * size / n**2) - np.outer(scaled, scaled) / n
    return out


def _satterthwaite(cells: _Cells, weight: Floats) -> Floats:
    """(Σ Ω_cc)² / Σ Ω_cd² of each group. Off the diagonal Ω_cd = −a_c·a_d with a = w·s/n^(3/2),
    so their squares sum to (Σa²)² − Σa⁴ and no matrix is formed."""
    n = cells.n[:, None]
    with np.errstate(invalid="ignore", divide="ignore"):
        a2 = (weight * cells.size) ** 2 / n**3
        diagonal = weight**2 * cells.size / n**2 - a2
        squares = np.sum(diagonal**2, axis=1) + np.sum(a2, axis=1) ** 2 - np.sum(a2**2, axis=1)
        out: Floats = np.sum(diagonal, axis=1) ** 2 / squares
    return out


def clustered_means(
    values: Floats, codes: Codes, groups: int, clusters: Codes, count: int
) -> ClusteredMeans:
    """Mean of each group with its CR2 standard error and Satterthwaite df.

    For a mean, Bell & McCaffrey's (2002) adjustment is closed: 1 is an eigenvector of I − H
    within a cluster, so V = Σ_c (Σ e)² / (n²(1 − n_c/n)). df = (Σ Ω_cc)² / Σ Ω_cd²
    (Pustejovsky & Tipton 2018). values: (students,), NaN = missing; clusters: (students,)
    codes 0 … count−1, −1 = unknown (left out).

    >>> m = clustered_means(np.array([1.,2,3,2,3,4,6,7,8]), np.zeros(9, int), 1,
    ...                     np.repeat([0, 1, 2], 3), 3)
    >>> round(float(m.se[0]), 6), round(float(m.df[0]), 6)
    (1.527525, 2.0)
    """
    cells = _cells(values, codes, groups, clusters, count)
    weight = _weights(cells)
    with np.errstate(invalid="ignore", divide="ignore"):
        se = np.sqrt(np.sum((cells.residual * weight) ** 2, axis=1)) / cells.n
    df = _satterthwaite(cells, weight)
    return ClusteredMeans(
        cells.n.astype(np.int64), np.count_nonzero(cells.size, axis=1).astype(np.int64),
        cells.mean, np.where(np.isfinite(df), se, np.nan), df,
    )  # fmt: skip


def clustered_difference(
    values: Floats, in_second: Codes, clusters: Codes, count: int, confidence: float = 0.95
) -> Difference:
    """Mean of group 1 − mean of group 0, CR2 with Satterthwaite df.

    in_second: (students,) 0 or 1, −1 = in neither. The model is one mean per group, so the
    adjustment acts on each group's part of a cluster apart; a cluster in both groups links them.

    >>> d = clustered_difference(np.array([1., 2, 3, 5, 2, 4, 5, 5]),
    ...     np.array([0, 1, 0, 1, 0, 1, 0, 1]), np.array([0, 0, 1, 1, 2, 2, 3, 3]), 4)
    >>> round(d.value, 6), round(d.se, 6), round(d.df, 6)
    (1.25, 0.478714, 3.0)
    """
    cells = _cells(values, in_second, 2, clusters, count)
    value = float(cells.mean[1] - cells.mean[0])
    weight = _weights(cells)
    weight = np.where(cells.size > 0, weight, 0.0)
    if not (np.isfinite(value) and np.isfinite(weight).all()):
        return Difference(value, *[float("nan")] * 5)
    parts = cells.residual * weight / cells.n[:, None]
    se = float(np.sqrt(np.sum((parts[1] - parts[0]) ** 2)))
    omega = sum(_omega(cells.size[g], cells.n[g], weight[g]) for g in (0, 1))
    df = float(np.trace(omega) ** 2 / np.sum(np.square(omega)))
    return interval_of(value, se, df, confidence)


def interval_of(value: float, se: float, df: float, confidence: float = 0.95) -> Difference:
    """A value with its t interval and two-sided p.

    >>> round(interval_of(2.0, 1.0, 10.0).high, 6)
    4.228139
    """
    margin = float(t_quantile(0.5 + confidence / 2, df)) * se
    p = float(t_two_sided(value / se, df)) if se > 0 else float("nan")
    return Difference(value, se, df, value - margin, value + margin, p)
