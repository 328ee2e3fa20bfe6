"""One conditional quantile by an interior-point method on the dual linear programme."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import linalg

from bridge_chart.core.arrays import Floats

MOST_STEPS = 200
GAP = 1e-9
NEAR = 1e-14
"""Times the weight, or the scale: as close to 0 as anything may come."""


@dataclass(frozen=True)
class QuantileFit:
    """coefficients: (p,); dual: (rows,) 0 below the curve, the weight above it, between on it."""

    coefficients: Floats
    dual: Floats
    steps: int
    gap: float
    converged: bool


@np.errstate(over="ignore", invalid="ignore")  # where nothing fits it runs away, and is stopped
def interior_point(
    y: Floats, x: Floats, weight: Floats, target: Floats, start: Floats, scale: float
) -> QuantileFit:
    """max y'a subject to X'a = target, 0 ≤ a ≤ weight (Koenker & Bassett 1978, the dual; its
    multipliers are the coefficients), by predictor and corrector steps (Mehrotra 1992; Portnoy &
    Koenker 1997), from `start`.

    y: (rows,), x: (rows, p), weight: (rows,) > 0, target: (p,), scale: a spread of y that tells
    what is small. Stops where the duality gap per unit of weight is under 1e-9·scale; where no a
    reaches the target, not converged. No NaN.

    >>> y, x = np.array([1., 2, 3, 4, 100]), np.ones((5, 1))
    >>> fit = interior_point(y, x, np.ones(5), np.array([2.5]), np.array([22.]), 40.0)
    >>> fit.coefficients.round(6).tolist(), fit.converged
    ([3.0], True)
    """
    xt = np.ascontiguousarray(x.T)
    beta = _shifted(y, x, weight, target, start)
    left = y - x @ beta
    floor = max(float(np.mean(np.abs(left))), 1e-6 * scale)
    w, z = np.maximum(left, 0) + 0.1 * floor, np.maximum(-left, 0) + 0.1 * floor
    a = weight * np.clip(w / (w + z), 0.1, 0.9)
    s = weight - a
    total = float(weight.sum())
    size = 1.0 + float(np.abs(target).max())
    gap, steps, converged = np.inf, 0, False
    far = 1e6 * (float(np.abs(left).max()) + scale)
    while steps < MOST_STEPS:
        primal = target - xt @ a
        dual = left - w + z
        gap = float(a @ z + s @ w)
        small = float(np.abs(primal).max()) < 1e-9 * size
        if gap < GAP * scale * total and small and float(np.abs(dual).max()) < 1e-8 * scale:
            converged = True
            break
        steps += 1
        state = _State(a, s, z, w, dual, primal, x, xt)
        try:
            newton = _Newton(state)
        except linalg.LinAlgError:
            break
        db, da, dz, dw = newton.move(-a * z, -s * w)
        p, d = _reach(state, da, dz, dw)
        after = float((a + p * da) @ (z + d * dz) + (s - p * da) @ (w + d * dw))
        centre = (max(after, 0.0) / gap) ** 3 * gap / (2 * len(y))
        db, da, dz, dw = newton.move(centre - a * z - da * dz, centre - s * w + da * dw)
        if not np.isfinite(db).all() or float(np.abs(left).max()) > far:
            break  # no a between 0 and weight reaches the target
        p, d = _reach(state, da, dz, dw)
        p, d = min(1.0, 0.9995 * p), min(1.0, 0.9995 * d)
        # Nothing may come so close to 0 that its quotients overflow.
        a = np.clip(a + p * da, NEAR * weight, (1 - NEAR) * weight)
        s = weight - a
        z, w = np.maximum(z + d * dz, NEAR * scale), np.maximum(w + d * dw, NEAR * scale)
        beta = beta + d * db
        left = y - x @ beta
    return QuantileFit(beta, a, steps, gap, converged)


def _shifted(y: Floats, x: Floats, weight: Floats, target: Floats, start: Floats) -> Floats:
    """The start moved up or down until as much weight lies above it as `target` asks for: else
    far tails begin with most sides wrong and creep."""
    factor = linalg.cho_factor(x.T @ x, check_finite=False)
    constant = linalg.cho_solve(factor, x.sum(axis=0), check_finite=False)  # x·constant ≈ 1
    share = float(constant @ target) / float(weight.sum())
    left = y - x @ start
    out: Floats = start + constant * float(np.quantile(left, min(max(1 - share, 0.0), 1.0)))
    return out


@dataclass(frozen=True)
class _State:
    """Where the iteration stands: dual and primal are what is not yet fulfilled."""

    a: Floats
    s: Floats
    z: Floats
    w: Floats
    dual: Floats
    primal: Floats
    x: Floats
    xt: Floats


class _Newton:
    """One factorisation that serves the predictor and the corrector."""

    def __init__(self, at: _State) -> None:
        self.at = at
        self.inverse = 1.0 / (at.w / at.s + at.z / at.a)
        self.weighted = at.xt * self.inverse
        self.factor = linalg.cho_factor(self.weighted @ at.x, check_finite=False)

    def move(self, push_z: Floats, push_w: Floats) -> tuple[Floats, Floats, Floats, Floats]:
        """Steps in β, a, z and w."""
        at = self.at
        pull = at.dual + push_z / at.a - push_w / at.s
        right = self.weighted @ pull - at.primal
        db: Floats = linalg.cho_solve(self.factor, right, check_finite=False)
        da = self.inverse * (pull - at.x @ db)
        return db, da, (push_z - at.z * da) / at.a, (push_w + at.w * da) / at.s


def _reach(at: _State, da: Floats, dz: Floats, dw: Floats) -> tuple[float, float]:
    """The longest primal and dual steps that keep everything positive (at most 1/0.9995)."""
    most = 0.9995
    primal = max(float(np.max(-da / at.a)), float(np.max(da / at.s)), most)
    dual = max(float(np.max(-dz / at.z)), float(np.max(-dw / at.w)), most)
    return 1 / primal, 1 / dual
