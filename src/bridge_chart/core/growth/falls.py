"""Ranks that fall though the score rises, and how often error of measurement alone lets them."""

from __future__ import annotations

import numpy as np
from scipy.special import ndtr

from bridge_chart.core.arrays import Floats, Mask


def rank_fell(
    score_before: Floats, score_after: Floats, z_before: Floats, z_after: Floats
) -> Mask:  # fmt: skip
    """(students,) who rose in score and stands lower among the nation than before. NaN: no.

    >>> rank_fell(*(np.array(x) for x in ([90.0, 90], [95.0, 95], [0.2, 0.2], [0.1, 0.3]))).tolist()
    [True, False]
    """
    rose = np.asarray(score_after, np.float64) > np.asarray(score_before, np.float64)
    fell: Mask = rose & (np.asarray(z_after, np.float64) < np.asarray(z_before, np.float64))
    return fell


BEYOND = 1.96
"""By how many errors of a difference a fall must exceed them, as in `gains.falling_behind`."""


def falls_beyond_by_error(
    z_before: Floats, z_needed: Floats, sem_before: Floats | float, sem_after: Floats | float
) -> Floats:  # fmt: skip
    """The chance that a student is found to fall beyond error though the score rises, where no true
    place has changed: about one in forty, less where a rise in score leaves little room.

    As in `rank_falls_by_error`; sem_before, sem_after: errors of measurement in z. NaN where
    anything lacks.

    >>> found = falls_beyond_by_error(np.zeros(2), np.array([-9.0, -0.9]), 0.3, 0.3)
    >>> found.round(4).tolist()
    [0.025, 0.0081]
    """
    sem = np.hypot(sem_before, sem_after)
    room = (np.asarray(z_needed, np.float64) - np.asarray(z_before, np.float64)) / sem
    return np.maximum(ndtr(-BEYOND) - ndtr(room), np.where(np.isnan(room), np.nan, 0.0))


def rank_falls_by_error(z_before: Floats, z_needed: Floats, reliability: Floats) -> Floats:
    """The chance that a student's rank falls though the score rises, where nobody's true place in
    the nation has changed.

    z_before: (students,) the earlier score in the nation's standard deviations; z_needed: the z
    that the same score would have now, above which the score has risen; reliability: of the two
    sittings together (the root of their product), 0 to 1. By classical test theory the later z
    given the earlier is normal with mean ρ·z and variance 1 − ρ². NaN where anything lacks.

    >>> rank_falls_by_error(np.array([0.0, 0.0]), np.array([-0.5, -0.5]),
    ...                     np.array([0.9, 0.5])).round(3).tolist()
    [0.374, 0.218]
    """
    z, needed = np.asarray(z_before, np.float64), np.asarray(z_needed, np.float64)
    rho = np.asarray(reliability, np.float64)
    spread = np.sqrt(np.maximum(1 - rho**2, 1e-12))
    chance = ndtr((z - rho * z) / spread) - ndtr((needed - rho * z) / spread)
    return np.where(np.isnan(z) | np.isnan(needed) | np.isnan(rho), np.nan, np.maximum(chance, 0.0))
