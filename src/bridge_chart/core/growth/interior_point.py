"""One conditional quantile by an interior-point method on the dual linear programme."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import linalg

from bridge_chart.core.arrays import Floats

MOST_STEPS = 200
GAP = 1e-9


@dataclass(frozen=True)
class QuantileFit:
    """coefficients: (p,); dual: (rows,) 0 below the curve, the weight above it, between on it."""

    coefficients: Floats
    dual: Floats
    steps: int
    gap: float
    converged: bool


def interior_point(
    y: Floats, x: Floats, weight: Floats, target: Floats, start: Floats, scale: float
) -> QuantileFit:
    """max y'a subject to X'a = target, 0 ≤ a ≤ weight (Koenker & Bassett 1978, the dual; its
    multipliers are the coefficients), by predictor and corrector steps (Mehrotra 1992; Portnoy &
    Koenker 1997), from `start`.

    y: (rows,), x: (rows, p), weight: (rows,) > 0, target: (p,), scale: a spread of y that tells
    what is small. Stops where the duality gap per unit of weight is under 1e-9·scale.
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
    while steps < MOST_STEPS:
        primal = target - xt @ a
        dual = left - w + z
        gap = float(a @ z + s @ w)
        small = float(np.abs(primal).max()) < 1e-9 * size
        if gap < GAP * scale * total and small and float(np.abs(dual).max()) < 1e-8 * scale:
            converged = True
            break
        steps += 1
        inverse = 1.0 / (w / s + z / a)
        weighted = xt * inverse
        try:
            factor = linalg.cho_factor(weighted @ x, check_finite=False)
        except linalg.LinAlgError:
            break

        def move(push_z: Floats, push_w: Floats) -> tuple[Floats, ...]:
            pull = dual + push_z / a - push_w / s  # noqa: B023
            db = linalg.cho_solve(factor, weighted @ pull - primal, check_finite=False)  # noqa: B023
            da = inverse * (pull - x @ db)  # noqa: B023
            return db, da, (push_z - z * da) / a, (push_w + w * da) / s  # noqa: B023

        db, da, dz, dw = move(-a * z, -s * w)
        p, d = _reach(a, da, s, z, dz, w, dw)
        after = float((a + p * da) @ (z + d * dz) + (s - p * da) @ (w + d * dw))
        centre = (max(after, 0.0) / gap) ** 3 * gap / (2 * len(y))
        db, da, dz, dw = move(centre - a * z - da * dz, centre - s * w + da * dw)
        p, d = _reach(a, da, s, z, dz, w, dw)
        p, d = min(1.0, 0.9995 * p), min(1.0, 0.9995 * d)
        a, z, w, beta = a + p * da, z + d * dz, w + d * dw, beta + d * db
        s = weight - a
        if not s.min() > 0:
            s = np.maximum(s, 1e-14 * weight)
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


def _reach(
    a: Floats, da: Floats, s: Floats, z: Floats, dz: Floats, w: Floats, dw: Floats
) -> tuple[float, float]:
    """The longest primal and dual steps that keep everything positive (at most 1/0.9995)."""
    most = 1 / 0.9995
    with np.errstate(divide="ignore", invalid="ignore"):
        primal = max(float(np.max(-da / a)), float(np.max(da / s)), 1 / most)
        dual = max(float(np.max(-dz / z)), float(np.max(-dw / w)), 1 / most)
    return 1 / primal, 1 / dual
