"""Standards mastered: of those that a student reached, the share with enough of their marks."""

from __future__ import annotations

import numpy as np

from bridge_chart.core.arrays import Floats

CLOSE = 1e-9
"""A share worked out in floats that is this near counts as reached."""


def mastered(shares: Floats, enough: Floats) -> Floats:
    """(students,) share of the reached standards mastered; NaN for who reached none.

    shares: (students, standards) of each standard's marks, NaN = not reached; enough: (standards,)
    the share that masters it, in 0 to 1. Errors: ValueError on shapes or an `enough` outside.

    >>> mastered(np.array([[.8, .5], [1., np.nan], [np.nan, np.nan]]), np.array([.8, .6])).tolist()
    [0.5, 1.0, nan]
    """
    held, least = np.asarray(shares, np.float64), np.asarray(enough, np.float64)
    if held.ndim != 2 or least.shape != (held.shape[1],):
        raise ValueError("shares must be (students, standards), with one share that is enough each")
    if np.any((least <= 0) | (least > 1)):
        raise ValueError("what is enough must lie above 0 and up to 1")
    reached = ~np.isnan(held)
    count = reached.sum(axis=1)
    won = (np.nan_to_num(held) >= least - CLOSE) & reached
    return np.where(count > 0, won.sum(axis=1) / np.maximum(count, 1), np.nan)
