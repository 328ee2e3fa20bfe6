"""Ranks that fall though the score rises: the chance by error alone, against a simulation."""

from __future__ import annotations

import numpy as np
import pytest

from bridge_chart.core.growth.falls import falls_beyond_by_error, rank_falls_by_error, rank_fell


@pytest.mark.parametrize(("rho", "year"), [(0.9, 0.5), (0.8, 0.2), (0.95, 1.0)])
def test_as_often_as_where_nobody_changes(rho: float, year: float) -> None:
    """True places stay, both sittings have error: who seems to fall though the score rises?"""
    rng = np.random.default_rng(5)
    true = rng.normal(0, np.sqrt(rho), 400_000)
    first, second = (true + rng.normal(0, np.sqrt(1 - rho), len(true)) for _ in range(2))
    score_first, score_second = first, second + year  # the nation gains `year` sd
    fell = rank_fell(score_first, score_second, first, second)
    told = rank_falls_by_error(first, first - year, np.full(len(first), rho))
    assert told.mean() == pytest.approx(fell.mean(), abs=0.003)
    high = first > 1
    assert told[high].mean() == pytest.approx(fell[high].mean(), abs=0.005)


def test_beyond_error_is_about_one_in_forty_where_there_is_room() -> None:
    rng = np.random.default_rng(6)
    error = np.sqrt(0.1)
    true = rng.normal(0, np.sqrt(0.9), 400_000)
    first, second = (true + rng.normal(0, error, len(true)) for _ in range(2))
    fell = (first - second > 1.96 * error * np.sqrt(2)) & (second + 2.0 > first)
    told = falls_beyond_by_error(first, first - 2.0, error, error)
    assert told.mean() == pytest.approx(fell.mean(), abs=0.002)
    assert told.max() <= 0.0251


def test_what_is_not_known_is_not_told() -> None:
    nothing = np.array([np.nan])
    assert np.isnan(rank_falls_by_error(nothing, np.zeros(1), np.ones(1) * 0.9)).all()
    assert np.isnan(rank_falls_by_error(np.zeros(1), np.zeros(1) - 1, nothing)).all()
    assert not rank_fell(nothing, np.ones(1), nothing, np.zeros(1)).any()
