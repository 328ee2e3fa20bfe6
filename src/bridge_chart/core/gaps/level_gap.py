"""Gaps that survive a change of scale, from level shares alone."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import optimize, special

from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.distributions import normal_quantile
from bridge_chart.core.estimate import NAN


@dataclass(frozen=True)
class LevelGap:
    """V from level counts with its interval; NaN where undefined.

    spread_ratio: sd of the first group over the second's (1 by assumption with one cut).
    beyond: not identified, V lies beyond ± this. labels say what was assumed or merged.
    """

    v: float
    se: float
    low: float
    high: float
    probability: float
    spread_ratio: float
    cuts: int
    n: int
    beyond: float
    labels: tuple[str, ...]


def level_gap(first: Integers, second: Integers, confidence: float = 0.95) -> LevelGap:
    """Gap of two groups in sd from how many of each are in each level.

    Binormal maximum likelihood: some rising change of scale makes both groups normal; the cuts,
    the first group's mean and its log sd (the second is standard) maximise the multinomial
    likelihood of the counts (Ho & Reardon 2012; Reardon, Shear, Castellano & Ho 2017).
    V = √2·Φ⁻¹(P), P = Φ(μ/√(σ² + 1)); its error by the delta method from the information.
    With one cut V = Φ⁻¹(p_A) − Φ⁻¹(p_B), labelled "equal spread assumed".

    first, second: (levels,) counts in rising order. A level empty in either group is merged in
    both with the neighbour towards the middle. Then one level left: "beyond ±x".
    Errors: ValueError on shapes, negative counts or an empty group.

    >>> g = level_gap(np.array([10, 30, 60]), np.array([30, 40, 30]))
    >>> round(g.v, 3), g.cuts, level_gap(np.array([20, 80]), np.array([50, 50])).labels
    (0.775, 2, ('equal spread assumed',))
    """
    a, b = np.asarray(first, np.int64), np.asarray(second, np.int64)
    if a.shape != b.shape or a.ndim != 1 or len(a) < 2:
        raise ValueError("first and second must count the same two or more levels")
    if a.min() < 0 or b.min() < 0 or not a.sum() or not b.sum():
        raise ValueError("counts must not be negative, and neither group may be empty")
    merged_a, merged_b = _merged(a, b)
    labels: tuple[str, ...] = ("empty levels merged",) if len(merged_a) < len(a) else ()
    n = int(a.sum() + b.sum())
    if len(merged_a) == 1:
        return _beyond(a, b, n, labels)
    if len(merged_a) == 2:
        return _one_cut(merged_a, merged_b, confidence, n, (*labels, "equal spread assumed"))
    return _binormal(merged_a, merged_b, confidence, n, labels)


def _merged(a: Integers, b: Integers) -> tuple[Integers, Integers]:
    pairs = [[int(x), int(y)] for x, y in zip(a, b, strict=True)]
    while len(pairs) > 1:
        empty = [k for k, (x, y) in enumerate(pairs) if x == 0 or y == 0]
        if not empty:
            break
        k = empty[0]
        into = k + 1 if k < (len(pairs) - 1) / 2 else k - 1
        pairs[into] = [pairs[into][0] + pairs[k][0], pairs[into][1] + pairs[k][1]]
        del pairs[k]
    table = np.array(pairs, np.int64)
    return table[:, 0], table[:, 1]


def _beyond(a: Integers, b: Integers, n: int, labels: tuple[str, ...]) -> LevelGap:
    """No level holds students of both. x: the one-cut gap at the widest cut, with half a student
    added on each side of it."""
    gaps = []
    for cut in range(1, len(a)):
        above = [(c[cut:].sum() + 0.5) / (c.sum() + 1) for c in (a, b)]
        gaps.append(float(special.ndtri(above[0]) - special.ndtri(above[1])))
    widest = max(gaps, key=abs)
    v = math.copysign(math.inf, widest)
    chance = 1.0 if widest > 0 else 0.0
    return LevelGap(v, NAN, NAN, NAN, chance, NAN, 0, n, abs(widest), (*labels, "not identified"))


def _one_cut(
    a: Integers, b: Integers, confidence: float, n: int, labels: tuple[str, ...]
) -> LevelGap:
    shares = [c[1] / c.sum() for c in (a, b)]
    probits = special.ndtri(np.array(shares))
    slope = np.sqrt(2 * np.pi) * np.exp(probits**2 / 2)
    variance = sum(
        slope[k] ** 2 * p * (1 - p) / c.sum()
        for k, (p, c) in enumerate(zip(shares, (a, b), strict=True))
    )
    v, se = float(probits[0] - probits[1]), float(np.sqrt(variance))
    reach = normal_quantile(0.5 + confidence / 2) * se
    chance = float(special.ndtr(v / math.sqrt(2)))
    return LevelGap(v, se, v - reach, v + reach, chance, 1.0, 1, n, NAN, labels)


def _binormal(
    a: Integers, b: Integers, confidence: float, n: int, labels: tuple[str, ...]
) -> LevelGap:
    cuts = len(a) - 1
    counts = np.stack([a, b]).astype(np.float64)

    def loss(x: Floats) -> tuple[float, Floats]:
        return _likelihood(x, counts)

    start = _start(counts)
    found = optimize.minimize(loss, start, jac=True, method="BFGS", options={"gtol": 1e-9 * n})
    x = _polish(found.x, counts)
    information = _information(x, counts)
    mu, sigma = float(x[cuts]), math.exp(float(x[cuts + 1]))
    scale = math.sqrt(sigma**2 + 1)
    v = math.sqrt(2) * mu / scale
    slope = np.zeros(cuts + 2)
    slope[cuts] = math.sqrt(2) / scale
    slope[cuts + 1] = -math.sqrt(2) * mu * sigma**2 / scale**3
    se = math.sqrt(max(float(slope @ np.linalg.pinv(information) @ slope), 0.0))
    reach = normal_quantile(0.5 + confidence / 2) * se
    chance = float(special.ndtr(mu / scale))
    return LevelGap(v, se, v - reach, v + reach, chance, sigma, cuts, n, NAN, labels)


def _start(counts: Floats) -> Floats:
    """Cuts from the second group's shares, mean and sd of the first by a line through probits."""
    below = counts.cumsum(axis=1)[:, :-1] / counts.sum(axis=1, keepdims=True)
    probits = special.ndtri(below)
    slope, intercept = np.polyfit(probits[1], probits[0], 1)
    slope = max(float(slope), 0.1)
    return np.concatenate([probits[1], [-float(intercept) / slope, -math.log(slope)]])


def _bounds(x: Floats, cuts: int) -> tuple[Floats, Floats]:
    """Standardised cuts of both groups with the open ends, (2, cuts + 2)."""
    edges = np.concatenate([[-np.inf], x[:cuts], [np.inf]])
    return np.stack([(edges - x[cuts]) * np.exp(-x[cuts + 1]), edges]), edges


def _likelihood(x: Floats, counts: Floats) -> tuple[float, Floats]:
    """−log likelihood and its gradient; a barrier where cuts cross."""
    cuts = counts.shape[1] - 1
    z, _ = _bounds(x, cuts)
    # Each probability from the side where it does not cancel.
    upper = z[:, :-1] > 0
    cell = np.where(
        upper, special.ndtr(-z[:, :-1]) - special.ndtr(-z[:, 1:]),
        special.ndtr(z[:, 1:]) - special.ndtr(z[:, :-1]),
    )  # fmt: skip
    if np.any(np.diff(x[:cuts]) <= 0) or np.any(cell <= 0):
        return 1e300, np.zeros(len(x))
    weight = counts / cell
    phi = np.exp(-(z[:, 1:-1] ** 2) / 2) / np.sqrt(2 * np.pi)
    by_cut = phi * (weight[:, :-1] - weight[:, 1:])
    shrink = np.exp(-x[cuts + 1])
    gradient = np.empty(len(x))
    gradient[:cuts] = by_cut[0] * shrink + by_cut[1]
    gradient[cuts] = -shrink * by_cut[0].sum()
    gradient[cuts + 1] = -np.sum(by_cut[0] * z[0, 1:-1])
    return -float(np.sum(counts * np.log(cell))), -gradient


def _information(x: Floats, counts: Floats, step: float = 1e-5) -> Floats:
    """Second derivatives of −log likelihood, central differences of the exact gradient."""
    rows = []
    for k in range(len(x)):
        move = np.zeros(len(x))
        move[k] = step
        rows.append(
            (_likelihood(x + move, counts)[1] - _likelihood(x - move, counts)[1]) / (2 * step)
        )
    table = np.stack(rows)
    return np.asarray((table + table.T) / 2)


def _polish(x: Floats, counts: Floats, most: int = 20) -> Floats:
    """Newton steps to the top, kept only while they climb."""
    value, gradient = _likelihood(x, counts)
    for _ in range(most):
        step = np.linalg.lstsq(_information(x, counts), gradient, rcond=None)[0]
        tried, slope = _likelihood(x - step, counts)
        if not tried <= value:
            break
        x, value, gradient = x - step, tried, slope
        if np.max(np.abs(step)) < 1e-12:
            break
    return x
