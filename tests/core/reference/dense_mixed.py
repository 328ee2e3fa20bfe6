"""Mixed models by the definition: dense V, the likelihood written out, Henderson's equations."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from scipy import optimize


def criterion(y, x, groupings, variances):
    """−2·log restricted likelihood at given variances (one per grouping, then the students')."""
    n, p = x.shape
    v = variances[-1] * np.eye(n)
    for codes, variance in zip(groupings, variances, strict=False):
        v += variance * (codes[:, None] == codes[None, :])
    inverse = np.linalg.inv(v)
    inner = x.T @ inverse @ x
    beta = np.linalg.solve(inner, x.T @ inverse @ y)
    left = y - x @ beta
    return (
        (n - p) * np.log(2 * np.pi)
        + np.linalg.slogdet(v)[1]
        + np.linalg.slogdet(inner)[1]
        + left @ inverse @ left
    )


def best(y, x, groupings, start):
    """Variances that minimise it, by a general optimiser on the log scale from several starts."""
    found = None
    for factor in (0.3, 1.0, 3.0):
        begun = np.log(np.asarray(start) * factor)
        tried = optimize.minimize(
            lambda t: criterion(y, x, groupings, np.exp(t)),
            begun,
            method="Nelder-Mead",
            options={"xatol": 1e-10, "fatol": 1e-11, "maxiter": 6000},
        )
        if found is None or tried.fun < found.fun:
            found = tried
    return np.exp(found.x), found.fun


def henderson(y, x, groupings, variances):
    """β, û per grouping, and Var(û − u): the inverse of the mixed-model equations."""
    z = [(codes[:, None] == np.unique(codes)[None, :]).astype(float) for codes in groupings]
    sizes = [part.shape[1] for part in z]
    every = np.hstack([x, *z])
    left = every.T @ every / variances[-1]
    at = x.shape[1]
    for size, variance in zip(sizes, variances, strict=False):
        left[range(at, at + size), range(at, at + size)] += 1 / variance
        at += size
    inverse = np.linalg.inv(left)
    solved = inverse @ (every.T @ y / variances[-1])
    p = x.shape[1]
    ends = np.cumsum([p, *sizes])
    effects = [solved[a:b] for a, b in pairwise(ends)]
    blocks = [inverse[a:b, a:b] for a, b in pairwise(ends)]
    return solved[:p], effects, blocks, inverse
