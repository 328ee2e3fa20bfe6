"""Which of many findings stand: false-discovery control."""

from __future__ import annotations

import numpy as np

from bridge_chart.core.arrays import Floats, Mask


def discoveries(p: Floats, rate: float = 0.05, *, any_dependence: bool = False) -> Mask:
    """Which p-values stand after false-discovery control.

    Benjamini & Hochberg (1995): the largest k with p(k) ≤ rate·k/m, and all below it. With
    `any_dependence`, Benjamini & Yekutieli (2001): rate divided by Σ 1/i.

    p: (tests,), NaN = not tested (never a discovery, not in the count). Errors: ValueError where
    p or rate lies outside 0 … 1.

    >>> p = np.array([.0001, .0004, .0019, .0095, .0201, .0278, .0298, .0344,
    ...     .0459, .3240, .4262, .5719, .6528, .7590, 1])
    >>> int(discoveries(p).sum()), int(discoveries(p, any_dependence=True).sum())
    (4, 3)
    """
    p = np.asarray(p, dtype=np.float64)
    if not 0 < rate < 1 or np.any(p < 0) or np.any(p > 1):
        raise ValueError("p and rate must lie in 0 to 1")
    out = np.zeros(p.shape, dtype=bool)
    tested = np.flatnonzero(~np.isnan(p))
    m = max(len(tested), 1)
    if any_dependence:
        rate = rate / float(np.sum(1.0 / np.arange(1, m + 1)))
    ascending = tested[np.argsort(p[tested], kind="stable")]
    below = p[ascending] <= rate * np.arange(1, len(tested) + 1) / m
    if below.any():
        out[ascending[: int(np.flatnonzero(below)[-1]) + 1]] = True
    return out


def threshold(p: Floats, rate: float = 0.05) -> float:
    """The p-value up to which findings of this family stand (Benjamini & Hochberg 1995): rate·k/m
    where k do, and rate/m where none does.

    p: (tests,), NaN = not tested. A family of none gives the rate.

    >>> threshold(np.array([0.001, 0.02, 0.3, 0.9])), threshold(np.array([0.5, np.nan]))
    (0.025, 0.05)
    """
    p = np.asarray(p, dtype=np.float64)
    m = max(int(np.count_nonzero(~np.isnan(p))), 1)
    return rate * max(int(discoveries(p, rate).sum()), 1) / m


def holm(p: Floats) -> Floats:
    """p-values adjusted for reading all of them (Holm 1979); NaN stay NaN and do not count.

    Ascending: max over j ≤ i of (m − j + 1)·p(j), at most 1.

    >>> holm(np.array([0.01, 0.04, 0.03, np.nan])).tolist()
    [0.03, 0.06, 0.06, nan]
    """
    p = np.asarray(p, dtype=np.float64)
    out = np.full(p.shape, np.nan)
    tested = np.flatnonzero(~np.isnan(p))
    ascending = tested[np.argsort(p[tested], kind="stable")]
    raised = np.maximum.accumulate(p[ascending] * np.arange(len(tested), 0, -1))
    out[ascending] = np.minimum(raised, 1.0)
    return out
