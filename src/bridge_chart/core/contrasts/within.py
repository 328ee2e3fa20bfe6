"""The gap of two groups inside places, and how much it differs from place to place."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes
from bridge_chart.core.contrasts.rows import Sample
from bridge_chart.core.estimate import NAN, Estimate, interval_of, undefined
from bridge_chart.core.trust.chance import heterogeneity

FEWEST_PLACES = 2


@dataclass(frozen=True)
class WithinGap:
    """gap: second group minus first inside places; overall: without regard to them; places: how
    many have both; spread: sd of the places' gaps beyond chance, spread_p of there being none."""

    gap: Estimate
    overall: float
    places: int
    spread: float
    spread_p: float


def gap_within(sample: Sample, second: Codes, place: Codes) -> WithinGap:
    """Mean over places of (x̄₂ − x̄₁), each weighted by n₁n₂/(n₁ + n₂): what is left of a gap when
    nobody is compared across places.

    V = σ²·Σ w_i² + σ²_c·Σ_c (Σ w_i)², with the outcome's variances; the spread by moments
    (Cochran's Q). second: (students,) 1 or 0, −1 = in neither; place: (students,) codes, −1 = in
    none. Fewer than two places with both groups: undefined.

    >>> from bridge_chart.core.contrasts.noise import Noise
    >>> v = np.array([1., 2, 3, 4, 11, 12, 13, 14])
    >>> s = Sample(v, v, np.full(8, -1), np.zeros(0, int), Noise(1.0, 30.0, np.nan, np.nan, 0))
    >>> w = gap_within(s, np.array([0, 0, 1, 1, 0, 1, 1, 1]), np.repeat([0, 1], 4))
    >>> round(w.gap.value, 4), round(w.overall, 4), w.places
    (2.0, 4.5333, 2)
    """
    held = ~np.isnan(sample.values) & (np.asarray(second) >= 0) & (np.asarray(place) >= 0)
    y, two, at = sample.values[held], np.asarray(second)[held] == 1, np.asarray(place)[held]
    count = int(at.max(initial=-1)) + 1
    n = [np.bincount(at[side], minlength=count).astype(np.float64) for side in (~two, two)]
    sums = [np.bincount(at[side], y[side], count) for side in (~two, two)]
    both = (n[0] > 0) & (n[1] > 0)
    overall = float(y[two].mean() - y[~two].mean()) if two.any() and (~two).any() else NAN
    if int(both.sum()) < FEWEST_PLACES:
        return WithinGap(undefined("fewer than two places with both"), overall, int(both.sum()),
                         NAN, NAN)  # fmt: skip
    weight = np.zeros(count)
    weight[both] = (n[0] * n[1])[both] / (n[0] + n[1])[both]
    weight /= weight.sum()
    gaps = sums[1][both] / n[1][both] - sums[0][both] / n[0][both]
    of_student = np.where(two, 1.0, -1.0) * weight[at] / np.where(two, n[1][at], n[0][at])
    of_student = np.where(both[at], of_student, 0.0)
    noise, classes = sample.noise, sample.classes[held]
    known = (classes >= 0) & noise.known
    shares = np.bincount(classes[known], of_student[known], 1) if known.any() else np.zeros(1)
    middle = np.where(two, (sums[1] / np.maximum(n[1], 1))[at], (sums[0] / np.maximum(n[0], 1))[at])
    df = float(both[at].sum() - 2 * both.sum())
    variance = float(np.sum((y - middle)[both[at]] ** 2) / df) if df > 0 else NAN
    student = variance * float(np.sum(of_student**2))
    squares = float(np.sum(shares**2))
    between = noise.between if noise.known else 0.0
    total = student + between * squares
    error = (noise.between_error if noise.known else 0.0) * squares
    freedom = total**2 / (student**2 / df + error**2 / 2) if df > 0 and total > 0 else NAN
    value = float(weight[both] @ gaps)
    test = heterogeneity(gaps, np.sqrt(variance * (1 / n[0][both] + 1 / n[1][both])))
    gap = interval_of(value, float(np.sqrt(total)), freedom).counted(int(both[at].sum()))
    return WithinGap(gap, overall, int(both.sum()), test.spread, test.p)
