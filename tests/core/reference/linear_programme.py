"""Quantile regression as the linear programme that defines it, by a general solver."""

from __future__ import annotations

import numpy as np
from scipy import optimize, sparse


def smallest_loss(y, x, tau, weight=None):
    """min Σ weight·ρ_τ(y − xβ) over β: u, v ≥ 0 with xβ + u − v = y."""
    n, p = x.shape
    weight = np.ones(n) if weight is None else weight
    cost = np.concatenate([np.zeros(p), tau * weight, (1 - tau) * weight])
    table = sparse.hstack([sparse.csr_array(x), sparse.eye_array(n), -sparse.eye_array(n)])
    bounds = [(None, None)] * p + [(0, None)] * (2 * n)
    found = optimize.linprog(cost, A_eq=table, b_eq=y, bounds=bounds, method="highs")
    assert found.success
    return found.fun
