"""The gap inside places, against least squares with a mean for each place."""

from __future__ import annotations

import numpy as np
import pytest
import statsmodels.api as sm

from bridge_chart.core.contrasts.noise import Noise
from bridge_chart.core.contrasts.rows import Sample
from bridge_chart.core.contrasts.within import gap_within

NONE = Noise(1.0, 30.0, np.nan, np.nan, 0)


def sample_of(values: np.ndarray) -> Sample:
    return Sample(values, values, np.full(len(values), -1), np.zeros(0, int), NONE)


def test_it_is_the_coefficient_beside_a_mean_for_each_place() -> None:
    rng = np.random.default_rng(2)
    place = rng.integers(0, 7, 500)
    second = (rng.random(500) < 0.1 + 0.1 * place).astype(int)
    y = rng.normal(size=500) + place + 0.4 * second
    y[:20] = np.nan
    found = gap_within(sample_of(y), second, place)
    held = ~np.isnan(y)
    columns = np.column_stack([second, place[:, None] == np.arange(7)]).astype(float)
    fit = sm.OLS(y[held], columns[held]).fit()
    assert found.gap.value == pytest.approx(fit.params[0])
    assert found.gap.se == pytest.approx(fit.bse[0], rel=0.02)
    assert (found.places, found.gap.n) == (7, 480)
    assert found.overall > found.gap.value + 0.5
    assert found.spread_p > 0.01


def test_a_gap_that_differs_from_place_to_place_is_said_to() -> None:
    rng = np.random.default_rng(3)
    place, second = np.repeat(np.arange(12), 60), np.tile([0, 1], 360)
    gaps = rng.normal(0, 1, 12)
    y = rng.normal(size=720) + second * gaps[place]
    found = gap_within(sample_of(y), second, place)
    assert found.spread_p < 1e-4
    assert found.spread == pytest.approx(gaps.std(ddof=1), abs=0.25)


def test_one_place_has_nothing_inside() -> None:
    found = gap_within(sample_of(np.arange(20.0)), np.arange(20) % 2, np.zeros(20, int))
    assert found.gap.reason
    assert found.overall == 1.0
