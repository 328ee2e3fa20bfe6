"""Means, differences and regressions whose students come in clusters (schools, or students where
a row is one of a student's subjects)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, check_codes, grouped
from bridge_chart.core.estimate import Estimate, interval_of, undefined

FEWEST_DF = 4.0
SOLE = 1e-12
"""A share of a group's students below this counts as nothing outside the cluster."""


@dataclass(frozen=True)
class ClusteredMeans:
    """Arrays of shape (groups,). NaN: no value, or all of the group in one cluster."""

    n: Integers
    clusters: Integers
    mean: Floats
    se: Floats
    df: Floats


@dataclass(frozen=True)
class _Cells:
    """Only those pairs of group and cluster that occur; n: (groups,), the rest: (cells,)."""

    n: Floats
    mean: Floats
    group: Integers
    cluster: Integers
    size: Floats
    residual: Floats

    def per_group(self, values: Floats) -> Floats:
        out: Floats = np.bincount(self.group, values, len(self.n)).astype(np.float64)
        return out


def _cells(values: Floats, codes: Codes, groups: int, clusters: Codes, count: int) -> _Cells:
    values = np.asarray(values, dtype=np.float64)
    check_codes(codes, len(values), groups)
    check_codes(clusters, len(values), count)
    held = ~np.isnan(values) & (codes >= 0) & (clusters >= 0)
    cell = codes[held].astype(np.int64) * count + clusters[held]
    if groups * count <= max(4 * len(cell), 4096):
        size_all = np.bincount(cell, minlength=groups * count)
        pairs = np.flatnonzero(size_all)
        size = size_all[pairs].astype(np.float64)
        sums = np.bincount(cell, values[held], groups * count)[pairs]
    else:  # as many clusters as students: only what occurs
        pairs, place, counted = np.unique(cell, return_inverse=True, return_counts=True)
        size = counted.astype(np.float64)
        sums = np.bincount(place, values[held], len(pairs))
    group, cluster = pairs // max(count, 1), pairs % max(count, 1)
    n = np.bincount(group, size, groups).astype(np.float64)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.where(n > 0, np.bincount(group, sums, groups) / n, np.nan)
    return _Cells(n, mean, group, cluster, size, sums - size * mean[group])


def _weights(cells: _Cells) -> Floats:
    """(1 − n_gc/n_g)^(−1/2): the CR2 adjustment of a cluster's sum, NaN for a sole cluster."""
    left = 1.0 - cells.size / cells.n[cells.group]
    return np.where(left > SOLE, 1.0 / np.sqrt(np.maximum(left, SOLE)), np.nan)


def _satterthwaite(cells: _Cells, weight: Floats) -> Floats:
    """(Σ Ω_cc)² / Σ Ω_cd² of each group. Off the diagonal Ω_cd = −a_c·a_d with a = w·s/n^(3/2),
    so their squares sum to (Σa²)² − Σa⁴ and no matrix is formed."""
    n = cells.n[cells.group]
    a2 = (weight * cells.size) ** 2 / n**3
    diagonal = weight**2 * cells.size / n**2 - a2
    squares = cells.per_group(diagonal**2) + cells.per_group(a2) ** 2 - cells.per_group(a2**2)
    with np.errstate(invalid="ignore", divide="ignore"):
        out: Floats = cells.per_group(diagonal) ** 2 / squares
    return out


def clustered_means(
    values: Floats, codes: Codes, groups: int, clusters: Codes, count: int
) -> ClusteredMeans:
    """Mean of each group with its CR2 standard error and Satterthwaite df.

    For a mean, Bell & McCaffrey's (2002) adjustment is closed: 1 is an eigenvector of I − H
    within a cluster, so V = Σ_c (Σ e)² / (n²(1 − n_c/n)). df = (Σ Ω_cc)² / Σ Ω_cd²
    (Pustejovsky & Tipton 2018). values: (students,), NaN = missing; clusters: (students,)
    codes 0 … count−1, −1 = unknown (left out). Errors: ValueError on codes out of range.

    >>> m = clustered_means(np.array([1.,2,3,2,3,4,6,7,8]), np.zeros(9, int), 1,
    ...                     np.repeat([0, 1, 2], 3), 3)
    >>> round(float(m.se[0]), 6), round(float(m.df[0]), 6)
    (1.527525, 2.0)
    """
    cells = _cells(values, codes, groups, clusters, count)
    weight = _weights(cells)
    with np.errstate(invalid="ignore", divide="ignore"):
        se = np.sqrt(cells.per_group((cells.residual * weight) ** 2)) / cells.n
    df = _satterthwaite(cells, weight)
    return ClusteredMeans(
        cells.n.astype(np.int64), np.bincount(cells.group, minlength=groups).astype(np.int64),
        cells.mean, np.where(np.isfinite(df), se, np.nan), df,
    )  # fmt: skip


def clustered_difference(
    values: Floats, in_second: Codes, clusters: Codes, count: int, confidence: float = 0.95
) -> Estimate:
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
    n = int(cells.n.sum())
    missing = int(np.count_nonzero(in_second >= 0)) - n
    if not (np.isfinite(value) and np.isfinite(weight).all()):
        return undefined("a group lies in one cluster only", value, n, missing)
    sign = np.where(cells.group == 1, 1.0, -1.0)
    own = cells.n[cells.group]
    parts = np.bincount(cells.cluster, sign * cells.residual * weight / own, count)
    se = float(np.sqrt(np.sum(parts**2)))
    # Ω = diag(d) − Σ_g a_g a_gᵀ over clusters; its trace and the sum of its squares, unformed.
    diagonal = np.bincount(cells.cluster, weight**2 * cells.size / own**2, count)
    a = np.zeros((2, count))
    a[cells.group, cells.cluster] = weight * cells.size / own**1.5
    trace = float(diagonal.sum() - np.sum(a**2))
    squares = float(
        np.sum(diagonal**2) - 2 * np.sum(diagonal * np.sum(a**2, axis=0)) + np.sum((a @ a.T) ** 2)
    )
    return interval_of(value, se, trace**2 / squares, confidence).counted(n, missing)


@dataclass(frozen=True)
class ClusteredRegression:
    """Least squares with CR2 errors; arrays of shape (columns,)."""

    n: int
    clusters: int
    coefficient: Floats
    se: Floats
    df: Floats
    covariance: Floats


def clustered_regression(
    outcome: Floats, design: Floats, clusters: Codes, count: int
) -> ClusteredRegression:
    """Least squares of outcome on the columns of `design`, CR2 errors, Satterthwaite df.

    V = M Σ_c X'A e e'A X M with A = (I − H_cc)^(−1/2), the symmetric pseudo-inverse root
    (Bell & McCaffrey 2002); df of each coefficient by Pustejovsky & Tipton (2018) under
    independent students. Everything is worked out from X'X and X'e of each cluster, so cost does
    not depend on its size. outcome: (students,), design: (students, p); a row with NaN anywhere,
    or cluster −1, is left out. Errors: ValueError on shapes or columns that depend on each other.

    >>> r = clustered_regression(np.array([1.,2,3,2,3,4,6,7,8]), np.ones((9, 1)),
    ...                          np.repeat([0, 1, 2], 3), 3)
    >>> round(float(r.se[0]), 6), round(float(r.df[0]), 6)
    (1.527525, 2.0)
    """
    y, x = np.asarray(outcome, np.float64), np.asarray(design, np.float64)
    if x.ndim != 2 or x.shape[0] != len(y):
        raise ValueError(f"design must have shape ({len(y)}, columns); it has {x.shape} instead")
    check_codes(clusters, len(y), count)
    held = ~np.isnan(y) & ~np.isnan(x).any(axis=1) & (clusters >= 0)
    y, x, by = y[held], x[held], grouped(clusters[held], count)
    p = x.shape[1]
    if np.linalg.matrix_rank(x) < p:
        raise ValueError("design must have columns that do not depend on each other")
    bread = np.linalg.inv(x.T @ x)
    coefficient = bread @ (x.T @ y)
    residual = y - x @ coefficient
    score = np.stack([by.sums(x[:, j] * residual) for j in range(p)], axis=1)
    inner = np.empty((count, p, p))
    for j in range(p):
        for k in range(j, p):
            inner[:, j, k] = inner[:, k, j] = by.sums(x[:, j] * x[:, k])
    values, vectors = np.linalg.eigh(bread)
    root = (vectors * np.sqrt(values)) @ vectors.T
    shrunk, turned = np.linalg.eigh(root @ inner @ root)  # H_cc's eigenvalues, per cluster
    left = 1.0 - shrunk
    adjust = np.where(left > 1e-10, 1.0 / np.sqrt(np.maximum(left, 1e-10)), 0.0)
    # In the coordinates of `root`: each cluster's adjusted score, and the vectors b of its df.
    adjusted = np.einsum("cij,cj,ckj,ck->ci", turned, adjust, turned, score @ root)
    covariance = root @ (adjusted.T @ adjusted) @ root
    df = np.array([_df_of(root[:, j], turned, shrunk, adjust) for j in range(p)])
    se = np.sqrt(np.diag(covariance))
    used = int(np.count_nonzero(by.counts()))
    return ClusteredRegression(len(y), used, coefficient, se, df, covariance)


def _df_of(contrast: Floats, turned: Floats, shrunk: Floats, adjust: Floats) -> float:
    """Satterthwaite df of one contrast (given times the root of (X'X)⁻¹)."""
    along = np.einsum("cij,i->cj", turned, contrast)
    own = np.sum(along**2 * shrunk * adjust**2, axis=1)
    b = np.einsum("cij,cj->ci", turned, along * shrunk * adjust)
    diagonal = np.sum(b**2, axis=1)
    trace = float(np.sum(own - diagonal))
    gram = b.T @ b
    squares = float(np.sum((own - diagonal) ** 2) + np.sum(gram**2) - np.sum(diagonal**2))
    return trace**2 / squares if squares > 0 else float("nan")
