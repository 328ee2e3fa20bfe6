"""Many conditional quantiles of one outcome: each from its neighbour, checked on every row."""

from __future__ import annotations

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from scipy import special

from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.growth.interior_point import QuantileFit, interior_point

FIRST_BAND = 0.015
MOST_ROUNDS = 12
SAME = 1e-9
"""Times the outcome's sd: closer than this to a curve is on it."""


@dataclass(frozen=True)
class QuantileFits:
    """coefficients: (taus, p); loss: (taus,) the minimised Σ weight·ρ_τ; steps over all fits.

    full: how many fits needed all rows at once; converged: (taus,).
    """

    taus: Floats
    coefficients: Floats
    loss: Floats
    steps: int
    full: int
    converged: list[bool]


@dataclass
class _Walk:
    """What one walk outward from the median has found."""

    found: dict[int, tuple[Floats, float, bool]]
    steps: int = 0
    full: int = 0


@dataclass(frozen=True)
class _Problem:
    y: Floats
    x: Floats
    weight: Floats
    moment: Floats
    scale: float


def quantile_fits(
    y: Floats,
    x: Floats,
    taus: Sequence[float],
    weight: Floats | None = None,
    workers: int = 1,
) -> QuantileFits:
    """Linear conditional quantiles of y on the columns of x, each the exact minimiser of
    Σ weight·ρ_τ(y − xβ) (Koenker & Bassett 1978).

    One solve on all rows for the middle τ; each next τ starts from its neighbours' coefficients.
    Only rows near that curve are undecided; the others' sides are known and enter as a sum
    (Portnoy & Koenker 1997). Every row's side is then checked; those that were wrong join the
    undecided and it is solved again, so the result is that of all rows. Minimisers need not be
    unique where scores tie; the loss is. workers = 2 walks both ways at once.

    y: (rows,), x: (rows, p) with a constant among them and no dependent columns, weight: (rows,)
    > 0. No NaN. Errors: ValueError on shapes, NaN, fewer rows than columns or a τ outside (0, 1).

    >>> f = quantile_fits(np.array([1., 2, 3, 4, 100]), np.ones((5, 1)), [0.5])
    >>> f.coefficients.round(9).tolist(), round(float(f.loss[0]), 6)
    ([[3.0]], 50.5)
    """
    y, x = np.asarray(y, np.float64), np.ascontiguousarray(x, np.float64)
    w = np.ones(len(y)) if weight is None else np.asarray(weight, np.float64)
    grid = np.asarray(taus, np.float64)
    if x.ndim != 2 or len(x) != len(y) or w.shape != y.shape or len(y) < x.shape[1]:
        raise ValueError("y, x and weight must have one row each per student, more than columns")
    if np.isnan(y).any() or np.isnan(x).any() or not (w > 0).all():
        raise ValueError("y and x must be complete, and weights positive")
    if not len(grid) or np.any((grid <= 0) | (grid >= 1)) or np.any(np.diff(grid) <= 0):
        raise ValueError("taus must rise strictly between 0 and 1")
    mean = float(w @ y / w.sum())
    scale = float(np.sqrt(w @ (y - mean) ** 2 / w.sum()))
    if not scale > 1e-12 * max(abs(mean), 1e-300):
        raise ValueError("y must vary")
    problem = _Problem(y, x, w, w @ x, scale)
    middle = int(np.argmin(np.abs(grid - 0.5)))
    root = np.sqrt(w)
    begun: Floats = np.linalg.lstsq(x * root[:, None], y * root, rcond=None)[0].astype(np.float64)
    first = interior_point(y, x, w, (1 - grid[middle]) * problem.moment, begun, scale)
    start = _polished(problem, np.arange(len(y)), first)
    walks = [_Walk({middle: (start, _loss(problem, start, grid[middle]), first.converged)})]
    walks.append(_Walk(dict(walks[0].found)))
    ways = [range(middle + 1, len(grid)), range(middle - 1, -1, -1)]
    jobs = [(problem, grid, way, walk) for way, walk in zip(ways, walks, strict=True)]
    if workers > 1:
        with ThreadPoolExecutor(2) as pool:
            list(pool.map(lambda job: _walk(*job), jobs))
    else:
        for job in jobs:
            _walk(*job)
    found = {**walks[0].found, **walks[1].found}
    return QuantileFits(
        grid, np.stack([found[k][0] for k in range(len(grid))]),
        np.array([found[k][1] for k in range(len(grid))]),
        first.steps + walks[0].steps + walks[1].steps, 1 + walks[0].full + walks[1].full,
        [found[k][2] for k in range(len(grid))],
    )  # fmt: skip


def _walk(problem: _Problem, grid: Floats, way: range, walk: _Walk) -> None:
    """Fit τ after τ, each starting from where the last two point."""
    place = special.ndtri(grid)
    back = -1 if way.step > 0 else 1
    for k in way:
        last = walk.found[k + back][0]
        before = walk.found.get(k + 2 * back)
        begun = last
        if before is not None:
            stride = (place[k] - place[k + back]) / (place[k + back] - place[k + 2 * back])
            begun = last + stride * (last - before[0])
        gap = abs(float(grid[k] - grid[k + back]))
        walk.found[k] = _one(problem, float(grid[k]), begun, gap, walk)


def _one(
    problem: _Problem, tau: float, begun: Floats, gap: float, walk: _Walk
) -> tuple[Floats, float, bool]:
    """The quantile τ from a guess: solve the undecided rows, check all, take in what was wrong."""
    y, x, w = problem.y, problem.x, problem.weight
    n, p = x.shape
    beta = begun
    left = y - x @ beta
    size = int(max((FIRST_BAND + gap) * n, (n * p) ** 0.6))
    if 3 * size < n:
        away = np.abs(left)
        undecided = away <= np.partition(away, size)[size]
        above = left > 0
        for _ in range(MOST_ROUNDS):
            rows = np.flatnonzero(undecided)
            if 3 * len(rows) > 2 * n:
                break
            fixed = np.where(above & ~undecided, w, 0.0)
            target = (1 - tau) * problem.moment - fixed @ x
            fit = interior_point(y[rows], x[rows], w[rows], target, beta, problem.scale)
            walk.steps += fit.steps
            if not fit.converged:
                undecided = _wider(undecided, away, 3)
                continue
            beta = _polished(problem, rows, fit)
            left = y - x @ beta
            side = left > 0
            wrong = (side != above) & ~undecided & (np.abs(left) > SAME * problem.scale)
            if not wrong.any():
                return beta, _pinball(left, w, tau), True
            if int(np.count_nonzero(wrong)) > len(rows):
                undecided, above, away = _wider(undecided, np.abs(left), 2), side, np.abs(left)
            else:
                undecided |= wrong
    walk.full += 1
    fit = interior_point(y, x, w, (1 - tau) * problem.moment, begun, problem.scale)
    walk.steps += fit.steps
    beta = _polished(problem, np.arange(n), fit)
    return beta, _loss(problem, beta, tau), fit.converged


def _wider(undecided: np.ndarray, away: Floats, times: int) -> np.ndarray:
    size = min(times * int(np.count_nonzero(undecided)), len(away) - 1)
    out: np.ndarray = away <= np.partition(away, size)[size]
    return out


def _polished(problem: _Problem, rows: Integers, fit: QuantileFit) -> Floats:
    """The corner that the interior point has come close to: the curve through the rows on it,
    solved exactly. Kept only where it goes through all of them."""
    weight = problem.weight[rows]
    share = fit.dual / weight
    on = rows[(share > 1e-5) & (share < 1 - 1e-5)]
    p = problem.x.shape[1]
    if not p <= len(on) <= 50 * p:
        return fit.coefficients
    left = problem.y[on] - problem.x[on] @ fit.coefficients
    moved, _, rank, _ = np.linalg.lstsq(problem.x[on], left, rcond=1e-10)
    if rank < p or np.max(np.abs(left - problem.x[on] @ moved)) > 1e-11 * problem.scale:
        return fit.coefficients
    out: Floats = fit.coefficients + moved
    return out


def _pinball(left: Floats, weight: Floats, tau: float) -> float:
    return float(weight @ (left * (tau - (left < 0))))


def _loss(problem: _Problem, beta: Floats, tau: float) -> float:
    return _pinball(problem.y - problem.x @ beta, problem.weight, tau)
