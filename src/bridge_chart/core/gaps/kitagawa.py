"""A gap in rates taken apart: how much is who is in the groups, how much is how each does."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import factorial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.core.distributions import normal_quantile

Numbers = NDArray[Any]
STEP = 1e-30
"""Of the complex-step derivative: the effects are analytic, so it is exact to rounding."""


@dataclass(frozen=True)
class Step:
    """One step of a decomposition with its interval; `value` sums to the gap over all steps."""

    name: str
    value: float
    se: float
    low: float
    high: float


@dataclass(frozen=True)
class Kitagawa:
    """gap = Σ steps, exactly. no_counterpart: cells that hold students of one group only."""

    gap: float
    rate_a: float
    rate_b: float
    steps: list[Step]
    no_counterpart: Mask
    students_without: tuple[int, int]


def kitagawa(
    count_a: Floats,
    rate_a: Floats,
    count_b: Floats,
    rate_b: Floats,
    factors: Sequence[str],
    *,
    variance_a: Floats | None = None,
    variance_b: Floats | None = None,
    confidence: float = 0.95,
) -> Kitagawa:
    """The gap of group A's mean (or share) over group B's, taken apart by factors.

    How each cell does: Σ (r_A − r_B)(w_A + w_B)/2. Who they are: Σ (w_A − w_B)(r_A + r_B)/2
    (Kitagawa 1955), shared among several factors jointly as Das Gupta (1993): a cell's weight is a
    product of one term per factor, each a geometric mean of its conditional shares over all orders;
    the factors' parts add up exactly. Cells with one group only have no counterpart; what they
    add is a step of its own (group's mean − its mean over the shared cells; Ñopo 2008).

    count_*: cells' students, shape (k₁, k₂, …), one axis per factor; rate_*: cell means (any value
    where the count is 0). variance_*: sampling variance of each cell's mean; by default a share's
    r(1 − r)/n. Intervals: delta method, counts multinomial, groups independent.
    Errors: ValueError on shapes, an empty group, or no shared cell.

    >>> k = kitagawa(np.array([600., 400]), np.array([.8, .5]), np.array([300., 700]),
    ...              np.array([.7, .4]), ["start"])
    >>> round(k.gap, 6), [(s.name, round(s.value, 6)) for s in k.steps]
    (0.19, [('start', 0.09), ('how each does', 0.1)])
    """
    n, rates, variances = _checked(
        (count_a, count_b), (rate_a, rate_b), (variance_a, variance_b), len(factors)
    )
    shared = (n[0] > 0) & (n[1] > 0)
    if not shared.any():
        raise ValueError("the groups must share at least one cell")
    weights = [c / c.sum() for c in n]

    def effects(wa: Numbers, ra: Numbers, wb: Numbers, rb: Numbers) -> Numbers:
        return _effects(wa, ra, wb, rb, shared)

    values = effects(weights[0], rates[0], weights[1], rates[1]).real
    spread = _errors(effects, weights, rates, variances, [float(c.sum()) for c in n])
    names = [*factors, "how each does", "no counterpart in B", "no counterpart in A"]
    alone = [int(c[~shared].sum()) for c in n]
    keep = [True] * (len(factors) + 1) + [alone[0] > 0, alone[1] > 0]
    reach = normal_quantile(0.5 + confidence / 2)
    steps = [
        Step(name, float(v), float(s), float(v - reach * s), float(v + reach * s))
        for name, v, s, kept in zip(names, values, spread, keep, strict=True) if kept
    ]  # fmt: skip
    means = [float(np.sum(w * r)) for w, r in zip(weights, rates, strict=True)]
    return Kitagawa(
        means[0] - means[1], means[0], means[1], steps, ~shared & (n[0] + n[1] > 0),
        (alone[0], alone[1]),
    )  # fmt: skip


def _checked(
    counts: tuple[Floats, Floats], given: tuple[Floats, Floats],
    variances: tuple[Floats | None, Floats | None], factors: int,
) -> tuple[list[Floats], list[Floats], list[Floats]]:  # fmt: skip
    """Counts, rates (0 in empty cells) and sampling variances of both groups."""
    n = [np.asarray(count, np.float64) for count in counts]
    rates = [np.where(c > 0, np.asarray(r, np.float64), 0.0) for c, r in zip(n, given, strict=True)]
    if not n[0].shape == n[1].shape == rates[0].shape == rates[1].shape:
        raise ValueError("counts and rates must have one shape")
    if n[0].ndim != factors:
        raise ValueError(f"there must be one factor per axis ({n[0].ndim}); there are {factors}")
    if any(c.sum() <= 0 or c.min() < 0 for c in n):
        raise ValueError("both groups must have students")
    spreads = []
    for c, r, variance in zip(n, rates, variances, strict=True):
        if variance is None and (r.min() < 0 or r.max() > 1):
            raise ValueError("means that are no shares must come with their variances")
        share = r * (1 - r) / np.maximum(c, 1)
        spreads.append(np.where(c > 0, share if variance is None else np.asarray(variance), 0.0))
    return n, rates, spreads


def _effects(wa: Numbers, ra: Numbers, wb: Numbers, rb: Numbers, shared: Mask) -> Numbers:
    """(factors + 3,): each factor, how each does, A without counterpart, B without."""
    inside = [np.where(shared, w, 0.0) for w in (wa, wb)]
    inside = [w / w.sum() for w in inside]
    half = np.where(shared, (ra + rb) / 2, 0.0)
    did = np.sum(np.where(shared, ra - rb, 0.0) * (inside[0] + inside[1]) / 2)
    terms = [_terms(w, shared) for w in inside]
    parts = []
    for f in range(wa.ndim):
        change = _shapley(terms[0], terms[1], f)
        parts.append(np.sum(np.where(shared, half * change, 0.0)))
    within = [np.sum(w * r) for w, r in zip(inside, (ra, rb), strict=True)]
    out_a = np.sum(wa * ra) / wa.sum() - within[0]
    out_b = within[1] - np.sum(wb * rb) / wb.sum()
    return np.array([*parts, did, out_a, out_b])


def _terms(w: Numbers, shared: Mask) -> list[Numbers]:
    """One array per factor, their product w: the weighted geometric mean, over all sets S of other
    factors, of w(factor, S)/w(S), with exponent |S|!(P−1−|S|)!/P!."""
    axes = range(w.ndim)
    out = []
    for f in axes:
        others = [axis for axis in axes if axis != f]
        log = np.zeros(w.shape, w.dtype)
        for size in range(len(others) + 1):
            share = factorial(size) * factorial(w.ndim - 1 - size) / factorial(w.ndim)
            for chosen in combinations(others, size):
                top = w.sum(
                    axis=tuple(a for a in axes if a != f and a not in chosen), keepdims=True
                )
                bottom = w.sum(axis=tuple(a for a in axes if a not in chosen), keepdims=True)
                ratio = np.where(shared, top / np.where(bottom == 0, 1.0, bottom), 1.0)
                log = log + share * np.log(ratio)
        out.append(np.exp(log))
    return out


def _shapley(a: list[Numbers], b: list[Numbers], f: int) -> Numbers:
    """The part of Πa − Πb that factor f brings, averaged over the orders of changing factors."""
    others = [k for k in range(len(a)) if k != f]
    total = np.zeros(a[0].shape, a[0].dtype)
    for size in range(len(others) + 1):
        share = factorial(size) * factorial(len(a) - 1 - size) / factorial(len(a))
        for chosen in combinations(others, size):
            product = np.ones(a[0].shape, a[0].dtype)
            for k in others:
                product = product * (a[k] if k in chosen else b[k])
            total = total + share * product
    out: Numbers = total * (a[f] - b[f])
    return out


def _errors(
    effects: Any, weights: list[Floats], rates: list[Floats], variances: list[Floats],
    sizes: list[float],
) -> Floats:  # fmt: skip
    """Standard errors by the delta method with complex-step derivatives."""
    base = [weights[0], rates[0], weights[1], rates[1]]
    total: Floats = np.zeros(weights[0].ndim + 3)
    for which in range(4):
        slope = np.zeros((weights[0].ndim + 3, weights[0].size))
        for cell in np.flatnonzero(base[which - which % 2].ravel()):
            moved = [part.astype(np.complex128) for part in base]
            moved[which].ravel()[cell] += 1j * STEP
            slope[:, cell] = effects(*moved).imag / STEP
        if which % 2 == 0:  # multinomial: (diag(w) − ww')/n
            w = weights[which // 2].ravel()
            total += (slope**2 @ w - (slope @ w) ** 2) / sizes[which // 2]
        else:
            total += slope**2 @ variances[which // 2].ravel()
    return np.sqrt(np.maximum(total, 0.0))
