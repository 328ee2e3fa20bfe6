"""Whether many groups differ at all: against an independent program, and where nothing is true."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from bridge_chart.core.trust.spread import FEWEST_ALONE, small_together, spread


def test_as_the_analysis_of_variance_has_it() -> None:
    rng = np.random.default_rng(3)
    codes = rng.integers(0, 5, 600)
    y = rng.normal(size=600) + 0.2 * codes
    y[:7] = np.nan
    groups = [y[(codes == k) & ~np.isnan(y)] for k in range(5)]
    f, p = stats.f_oneway(*groups)
    found = spread(y, codes)
    assert (found.f, found.p) == (pytest.approx(f), pytest.approx(p))
    assert (found.df, found.df_error) == (4, 593 - 5)


def test_small_groups_are_one() -> None:
    codes = np.repeat(np.arange(40), [30, 30, *([2] * 38)])
    new, groups = small_together(codes)
    assert groups == 3
    assert np.bincount(new).tolist() == [30, 30, 76]
    assert small_together(np.zeros(FEWEST_ALONE, int))[1] == 1
    assert small_together(np.zeros(FEWEST_ALONE - 1, int))[1] == 1


def test_what_is_true_is_found_and_its_size_with_it() -> None:
    rng = np.random.default_rng(4)
    codes = np.repeat(np.arange(60), 40)
    y = rng.normal(size=2400) + (0.5 * rng.normal(size=60))[codes]
    found = spread(y, codes)
    assert found.p < 1e-6
    assert found.sd == pytest.approx(0.5, abs=0.12)


def test_nothing_is_found_as_often_as_is_said() -> None:
    rng = np.random.default_rng(5)
    hits = sum(
        spread(rng.normal(size=300), rng.choice(6, 300, p=(0.7, 0.2, 0.05, 0.03, 0.01, 0.01))).p
        < 0.05
        for _ in range(400)
    )
    assert 8 <= hits <= 34


@pytest.mark.parametrize("values", [np.ones(50), np.full(50, np.nan)])
def test_without_spread_there_is_no_answer(values: np.ndarray) -> None:
    assert np.isnan(spread(values, np.arange(50) % 2).p)
    assert np.isnan(spread(np.arange(50.0), np.zeros(50, int)).p)
