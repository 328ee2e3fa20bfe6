"""Shares of a whole district as a narrower role may read them: so coarse that whoever takes own
students away cannot tell how many of the others had an outcome to within five."""

from __future__ import annotations

import numpy as np

from bridge_chart.access.since import FEWEST
from bridge_chart.core.arrays import Floats

STEPS = (0.01, 0.02, 0.05, 0.1, 0.2)


def step_for(others: int) -> float | None:
    """How coarsely a share of so many students elsewhere (and any number of one's own) is written:
    a step that is worth ten of them; None where no step is.

    >>> step_for(1200), step_for(240), step_for(60), step_for(40)
    (0.01, 0.05, 0.2, None)
    """
    return next((step for step in STEPS if step * others >= FEWEST), None)


def coarse(shares: Floats, step: float) -> Floats:
    """Shares to the nearest step.

    >>> coarse(np.array([0.237, 0.0]), 0.05).tolist()
    [0.25, 0.0]
    """
    return np.asarray(np.clip(np.round(np.round(shares / step) * step, 4), 0.0, 1.0))
