"""Restricted maximum likelihood for two or three nested levels, from cross-products alone."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from scipy import linalg

from bridge_chart.core.arrays import Floats
from bridge_chart.core.value_added.cross_products import CrossProducts

MOST_STEPS = 60
GRID = (0.0, 1.0, 2.8)
STEP = 1e-7
"""A step in log(1 + n̄λ) below this ends the search."""


@dataclass(frozen=True)
class Profile:
    """The profiled criterion at given variance ratios, with what it was made of."""

    criterion: float
    gradient: Floats
    coefficients: Floats
    inverse: Floats
    sigma2: float


@dataclass(frozen=True)
class Solution:
    """Variance ratios (class, then school) at the optimum, and how it was reached."""

    ratios: Floats
    profile: Profile
    steps: int
    converged: bool
    slope: float


def profile(stats: CrossProducts, ratios: Floats) -> Profile:
    """−2·log restricted likelihood with β and σ²_e profiled out, and its gradient in the ratios.

    V/σ²_e = I + λ_c·(same class) + λ_s·(same school). With a = 1/(1 + λ_c n_c), r = Σ a·s_c and
    w = Σ a·n_c over a school's classes: A'V⁻¹A = A'A − Σ λ_c a s_c s_c' − Σ_s λ_s/(1 + λ_s w) r r'
    and log|V| = Σ log(1 + λ_c n_c) + Σ log(1 + λ_s w), for A = [1, X, y] (Patterson & Thompson
    1971; Searle, Casella & McCulloch 1992). Columns' scaling is carried back into the criterion.
    ratios: (1,) or (2,) λ ≥ 0, class then school.

    >>> from bridge_chart.core.value_added.cross_products import cross_products
    >>> stats = cross_products(np.array([1., 2, 3, 2, 3, 4, 6, 7, 8]), np.empty((9, 0)),
    ...                        np.repeat([0, 1, 2], 3), 3)
    >>> at = profile(stats, np.array([20 / 3]))  # the optimum: the gradient vanishes
    >>> round(at.sigma2, 6), bool(abs(at.gradient[0]) < 1e-9)
    (1.0, True)
    """
    lc = float(ratios[0])
    n, s = stats.size, stats.sums.T  # (k, classes), contiguous: weights run along the rows
    a = 1.0 / (1.0 + lc * n)
    inner = stats.total - (s * (lc * a)) @ s.T
    by_class = -((s * (a * a)) @ s.T)
    log_v = float(np.sum(np.log1p(lc * n)))
    slopes = [float(np.sum(n * a))]
    changes = [by_class]
    if stats.first is not None:
        ls = float(ratios[1])
        r = np.add.reduceat(s * a, stats.first, axis=1)
        w = np.add.reduceat(n * a, stats.first)
        dr = -np.add.reduceat(s * (n * a * a), stats.first, axis=1)
        dw = -np.add.reduceat(n * n * a * a, stats.first)
        b = 1.0 / (1.0 + ls * w)
        inner = inner - (r * (ls * b)) @ r.T
        cross = (dr * (ls * b)) @ r.T
        changes[0] = by_class - cross - cross.T + (r * (ls * ls * b * b * dw)) @ r.T
        slopes[0] += float(np.sum(ls * dw * b))
        changes.append(-((r * (b * b)) @ r.T))
        slopes.append(float(np.sum(w * b)))
        log_v += float(np.sum(np.log1p(ls * w)))
    return _profiled(stats, inner, log_v, changes, slopes)


def _profiled(
    stats: CrossProducts, inner: Floats, log_v: float, changes: list[Floats], slopes: list[float]
) -> Profile:
    q = len(inner) - 1
    factor = linalg.cho_factor(inner[:q, :q], lower=True)
    beta = linalg.cho_solve(factor, inner[:q, q])
    inverse = linalg.cho_solve(factor, np.eye(q))
    squares = float(inner[q, q] - inner[:q, q] @ beta)
    df = stats.n - q
    sigma2 = squares / df
    log_x = 2 * float(np.sum(np.log(np.diag(factor[0])))) + 2 * float(np.sum(np.log(stats.scale)))
    criterion = df * (np.log(2 * np.pi * sigma2) + 1) + log_v + log_x
    side = np.append(-beta, 1.0)
    gradient = [
        slope + float(np.sum(inverse * change[:q, :q])) + float(side @ change @ side) / sigma2
        for change, slope in zip(changes, slopes, strict=True)
    ]
    return Profile(float(criterion), np.array(gradient), beta, inverse, sigma2)


def solve(
    stats: CrossProducts, fixed_at_zero: tuple[int, ...] = (), start: Floats | None = None
) -> Solution:
    """The ratios λ ≥ 0 that minimise the criterion, by projected Newton with analytic gradients.

    It walks in t = log(1 + n̄λ), whose slope at λ = 0 does not vanish, from `start` or the best of a
    coarse grid; the Hessian is differenced from gradients once and then updated (BFGS), anew where
    a step does not descend. fixed_at_zero: ratios (0 class, 1 school) that are held at 0, for the
    test against none.

    >>> from bridge_chart.core.value_added.cross_products import cross_products
    >>> stats = cross_products(np.array([1., 2, 3, 2, 3, 4, 6, 7, 8]), np.empty((9, 0)),
    ...                        np.repeat([0, 1, 2], 3), 3)
    >>> found = solve(stats)
    >>> found.ratios.round(6).tolist(), found.converged
    ([6.666667], True)
    """
    unit = float(np.mean(stats.size))
    count = 1 if stats.first is None else 2
    free = [k for k in range(count) if k not in fixed_at_zero]

    def at(t: Floats) -> tuple[Profile, Floats]:
        found = profile(stats, np.expm1(t) / unit)
        return found, found.gradient * np.exp(t) / unit

    if start is None:
        choices = [GRID if k in free else (0.0,) for k in range(count)]
        places = np.stack(np.meshgrid(*choices), axis=-1).reshape(-1, count)
        t = np.array(min((at(place)[0].criterion, tuple(place)) for place in places)[1])
    else:
        t = np.array([np.log1p(unit * start[k]) if k in free else 0.0 for k in range(count)])
    found, slope = at(t)
    hessian: Floats | None = None
    steps, converged = 0, not free
    while steps < MOST_STEPS and not converged:
        steps += 1
        active = [k for k in free if t[k] > 0 or slope[k] < 0]
        if not active:
            converged = True
            break
        fresh = hessian is None
        if hessian is None:
            hessian = _differenced(at, t, free)
        tried = _descent(at, t, found, slope, _newton_step(hessian, slope, active))
        if tried is None and not fresh:
            hessian = None  # what was gathered misled: difference it anew here
            continue
        if tried is None:  # rounding: no step descends any further
            converged = bool(np.max(np.abs(slope[active])) < 1e-4 * np.sqrt(stats.n))
            break
        move, turn = tried[0] - t, tried[2] - slope
        converged = float(np.max(np.abs(move))) < STEP
        hessian = _updated(hessian, move, turn)
        t, found, slope = tried
    rest = [slope[k] for k in free if t[k] > 0]
    steepest = float(np.max(np.abs(rest), initial=0.0))
    return Solution(np.expm1(t) / unit, found, steps, converged, steepest)


At = Callable[[Floats], tuple[Profile, Floats]]


def _descent(
    at: At, t: Floats, found: Profile, slope: Floats, move: Floats
) -> tuple[Floats, Profile, Floats] | None:
    """The first of the step, its half, … that descends enough; None where none does."""
    size = 1.0
    while size > 1e-9:
        tried = np.maximum(t + size * move, 0.0)
        next_found, next_slope = at(tried)
        if next_found.criterion <= found.criterion + 1e-4 * float(slope @ (tried - t)):
            return tried, next_found, next_slope
        size /= 2
    return None


def _differenced(at: At, t: Floats, free: list[int], step: float = 1e-4) -> Floats:
    """The Hessian in all ratios by differences of the exact gradient; those not free are apart."""
    out = np.eye(len(t))
    for k in free:
        ahead, back = t.copy(), t.copy()
        ahead[k] += step
        back[k] = max(t[k] - step, 0.0)
        row = (at(ahead)[1] - at(back)[1]) / (ahead[k] - back[k])
        out[k, free] = row[free]
    return np.asarray((out + out.T) / 2)


def _updated(hessian: Floats, move: Floats, turn: Floats) -> Floats | None:
    """BFGS; None where the gradient did not turn as over a hollow."""
    bend = float(move @ turn)
    along = hessian @ move
    if not bend > 1e-14 or not float(move @ along) > 0:
        return None
    out: Floats = (
        hessian + np.outer(turn, turn) / bend - np.outer(along, along) / float(move @ along)
    )
    return out


def _newton_step(hessian: Floats, slope: Floats, active: list[int]) -> Floats:
    """−H⁻¹·slope over the active ratios; H made positive where it is not; at most 1.5 long."""
    values, vectors = np.linalg.eigh(hessian[np.ix_(active, active)])
    values = np.maximum(np.abs(values), 1e-8 * max(float(np.abs(values).max()), 1e-300))
    part = -(vectors / values) @ (vectors.T @ slope[active])
    longest = float(np.max(np.abs(part)))
    move = np.zeros(len(slope))
    move[active] = part * min(1.0, 1.5 / longest) if longest > 0 else part
    return move
