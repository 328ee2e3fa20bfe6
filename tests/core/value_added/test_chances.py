"""Chances: against Wilson's interval of a general library, against a test of independence of
another, and calibrated where the truth is known."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.stats import chi2_contingency
from statsmodels.stats.proportion import proportion_confint

from bridge_chart.core.value_added.chances import chances, count_outcomes


def test_shares_with_wilsons_interval_where_cohorts_are_alike() -> None:
    rng = np.random.default_rng(2)
    start, outcome = (np.tile(rng.integers(-1, top, 300), 3) for top in (3, 4))
    cohort = np.repeat(np.arange(3), 300)
    counts = count_outcomes(start, 3, outcome, 4, cohort, 3)
    found = chances(counts)
    held = (start == 1) & (outcome >= 0)
    assert found.n[1] == held.sum() == counts[:, 1].sum()
    assert found.counts[1, 2] == int((outcome[held] == 2).sum())
    assert found.spread == 1.0
    low, high = proportion_confint(found.counts[1, 2], found.n[1], method="wilson")
    assert (found.low[1, 2], found.high[1, 2]) == pytest.approx((low, high))
    better = int((outcome[held] >= 2).sum())
    low, high = proportion_confint(better, found.n[1], method="wilson")
    assert (found.above_low[1, 2], found.above_high[1, 2]) == pytest.approx((low, high))
    assert found.at_or_above[1, 0] == 1.0
    assert found.shown == [True, True, True]


def test_the_spread_is_pearsons_statistic_of_all_starts() -> None:
    rng = np.random.default_rng(3)
    counts = rng.integers(5, 60, (4, 3, 5))
    tables = [chi2_contingency(counts[:, start]) for start in range(3)]
    expected = sum(t.statistic for t in tables) / sum(t.dof for t in tables)
    found = chances(counts)
    assert found.spread == pytest.approx(expected)
    n = counts.sum(axis=(0, 2))
    low, _ = proportion_confint(
        counts[:, 0, 1].sum() / expected, n[0] / expected, method="wilson"
    )  # fmt: skip
    assert found.low[0, 1] == pytest.approx(low)


def test_too_few_or_one_cohort_alone_are_not_shown() -> None:
    counts = np.zeros((3, 3, 2), int)
    counts[:, 0] = 5  # 30 of three cohorts
    counts[0, 1] = 50  # one cohort alone
    counts[:2, 2] = 7  # 28 of two
    assert chances(counts).shown == [True, False, False]
    with pytest.raises(ValueError, match="below 0"):
        chances(-counts)


@pytest.mark.parametrize(("drift", "off"), [(0.0, 0.03), (0.25, 0.04)])
def test_of_those_told_seventy_percent_about_seventy_do(drift: float, off: float) -> None:
    """Cohorts come and go; what is told of five is held against the sixth and against the truth:
    shares are right on average, and the true share lies in the interval about as often as it
    says, also where cohorts differ."""
    rng = np.random.default_rng(11)
    told, came, covered = [], [], []
    for _ in range(500):
        cuts, lift = rng.uniform(-1.5, 1.5) + np.array([-0.7, 0, 0.7]), rng.normal(0, drift, 6)
        start = rng.integers(0, 4, (6, 160))
        true = 0.9 * (start - 1.5) + rng.normal(0, 1, (6, 160)) + lift[:, None]
        outcome = (true[:, :, None] > cuts).sum(axis=2)
        cohort = np.repeat(np.arange(5), 160)
        counts = count_outcomes(start[:5].ravel(), 4, outcome[:5].ravel(), 4, cohort, 5)
        found = chances(counts)
        for level in range(4):
            next_ones = outcome[5][start[5] == level]
            told.append(found.at_or_above[level, 2])
            came.append((next_ones >= 2).mean())
            sd = np.sqrt(1 + drift**2)  # over all cohorts that there might be
            truth = 1 - _normal((cuts[1] - 0.9 * (level - 1.5)) / sd)
            covered.append(found.above_low[level, 2] <= truth <= found.above_high[level, 2])
    told_of, came_of = np.array(told), np.array(came)
    for low in np.arange(0.1, 0.9, 0.1):
        band = (told_of >= low) & (told_of < low + 0.1)
        assert band.sum() > 60
        assert came_of[band].mean() == pytest.approx(told_of[band].mean(), abs=off)
    assert (0.93 if drift == 0 else 0.85) <= np.mean(covered) <= 0.985


def _normal(z: float) -> float:
    from scipy.stats import norm

    return float(norm.cdf(z))
