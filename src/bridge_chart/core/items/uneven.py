"""Students who did far better on one paper of a test than on another."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import stats

from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.core.trust.discoveries import discoveries


@dataclass(frozen=True)
class Uneven:
    """(students,) z: the difference of a student's shares less everyone's, over its error, NaN
    where either is missing; first, second: better on one than on the other, beyond chance."""

    z: Floats
    first: Mask
    second: Mask


def uneven(first: Floats, second: Floats, first_error: float, second_error: float) -> Uneven:
    """Students whose shares of two papers differ by more than error allows.

    first, second: (students,) share of each paper's marks, NaN = missing; the errors of measurement
    in the same unit. What everybody finds harder is taken off first. The test is of the error of
    measurement alone; false discoveries are held to 5% over the students. Errors: ValueError where
    both errors are zero or less.

    >>> u = uneven(np.array([.5, .5, .9, .5]), np.array([.5, .5, .1, .5]), .05, .05)
    >>> u.first.tolist(), int(u.second.sum())
    ([False, False, True, False], 0)
    """
    error = float(np.hypot(first_error, second_error))
    if not error > 0:
        raise ValueError("the errors of measurement must be above 0")
    apart = np.asarray(first, np.float64) - np.asarray(second, np.float64)
    held = apart[~np.isnan(apart)]
    z = (apart - (np.median(held) if len(held) else 0.0)) / error
    stands = discoveries(2 * stats.norm.sf(np.abs(z)))
    return Uneven(z, stands & (z > 0), stands & (z < 0))
