"""Simple value-added, ranks, correction for error in the prior."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats
from statsmodels.stats.multitest import multipletests

from bridge_chart.core.value_added.corrected import (
    corrected_effects,
    corrected_slopes,
    error_of_measurement,
)
from bridge_chart.core.value_added.multilevel import multilevel
from bridge_chart.core.value_added.ranks import better_and_worse, comparison_bars, rank_intervals
from bridge_chart.core.value_added.simple import (
    funnel,
    simple_effects,
    weighted_correlation,
)


def test_simple_effects_agree_with_one_sample_t() -> None:
    rng = np.random.default_rng(1)
    residual, codes = rng.normal(0.3, 2, 300), rng.integers(-1, 5, 300)
    residual[::13] = np.nan
    prior = rng.normal(size=300)
    found = simple_effects(residual, codes, 5, prior)
    for g in range(5):
        mine = residual[(codes == g) & ~np.isnan(residual)]
        theirs = stats.ttest_1samp(mine, 0)
        interval = theirs.confidence_interval()
        assert found.p[g] == pytest.approx(theirs.pvalue)
        assert (found.low[g], found.high[g]) == pytest.approx((interval.low, interval.high))
    intake = [np.mean(prior[(codes == g) & ~np.isnan(residual)]) for g in range(5)]
    by_hand = np.cov(found.mean, intake, aweights=found.n)
    assert found.with_intake == pytest.approx(
        by_hand[0, 1] / np.sqrt(by_hand[0, 0] * by_hand[1, 1])
    )
    assert np.isnan(weighted_correlation(np.ones(2), np.ones(2), np.ones(2)))
    assert np.isnan(weighted_correlation(np.ones(3), np.arange(3.0), np.ones(3)))


def test_funnel_limits() -> None:
    found = funnel(np.array([1.0, -9, 3]), np.array([25, 25, 0]), 10.0)
    z = stats.norm.ppf([0.975, 0.999])
    assert (found.inner_high[0], found.outer_high[0]) == pytest.approx(tuple(2 * z))
    assert found.outside == ["", "below", ""]
    with pytest.raises(ValueError, match="positive"):
        funnel(np.ones(1), np.ones(1, int), 0)


def fitted(seed: int, spread: float, groups: int = 30, size: int = 25):
    rng = np.random.default_rng(seed)
    code = np.repeat(np.arange(groups), size)
    x = rng.normal(size=(len(code), 1))
    y = x[:, 0] + rng.normal(0, spread, groups)[code] + rng.normal(size=len(code))
    return multilevel(y, x, code, groups).classes


def test_rank_intervals_agree_with_draws_from_the_dense_covariance() -> None:
    effects = fitted(3, 0.4, 15)
    dense = np.array([[effects.covariance(i, j) for j in range(15)] for i in range(15)])
    rng = np.random.default_rng(5)
    drawn = rng.multivariate_normal(effects.estimate, dense, 20_000)
    ranks = (-drawn).argsort(axis=1).argsort(axis=1) + 1
    found = rank_intervals(effects, draws=20_000)
    np.testing.assert_allclose(found.expected, ranks.mean(axis=0), atol=0.12)
    low, high = np.quantile(ranks, (0.025, 0.975), axis=0)
    assert np.abs(found.low - low).max() <= 1
    assert np.abs(found.high - high).max() <= 1
    again = rank_intervals(effects, draws=20_000)
    np.testing.assert_array_equal(found.expected, again.expected)  # same seed, same answer


def test_groups_that_do_not_differ_have_no_ranks() -> None:
    flat = multilevel(
        np.tile([1.0, 5, 9], 12), np.empty((36, 0)), np.repeat(np.arange(12), 3), 12
    ).classes
    assert np.isnan(rank_intervals(flat).low).all()
    wide = rank_intervals(fitted(4, 0.05))
    narrow = rank_intervals(fitted(4, 3.0))
    assert np.nanmean(narrow.high - narrow.low) < 3 < np.nanmean(wide.high - wide.low)


def test_better_and_worse_agree_with_pairs_one_by_one() -> None:
    rng = np.random.default_rng(6)
    mean, se, df = rng.normal(0, 2, 8), rng.uniform(0.3, 0.9, 8), np.full(8, 30.0)
    mean[7] = np.nan
    found = better_and_worse(mean, se, df)
    pairs = [(i, j) for i in range(7) for j in range(i + 1, 7)]
    p = []
    for i, j in pairs:
        v = se[i] ** 2 + se[j] ** 2
        freedom = v**2 / (se[i] ** 4 / 30 + se[j] ** 4 / 30)
        p.append(2 * stats.t.sf(abs(mean[i] - mean[j]) / np.sqrt(v), freedom))
    sure = multipletests(p, method="holm")[0]
    for g in range(7):
        above = [q for q, s in zip(pairs, sure, strict=True) if s and g in q]
        better = sum(mean[a if b == g else b] > mean[g] for a, b in above)
        assert found.better[g] == better
        assert (found.low[g], found.high[g]) == (1 + better, 7 - (len(above) - better))
    assert np.isnan(found.low[7])


def test_bars_for_comparing_two_groups_hold_the_average_error() -> None:
    assert comparison_bars(np.full(4, 3.0)) == pytest.approx(stats.norm.ppf(0.975) / np.sqrt(2))
    se = np.array([1.0, 2, 5])
    c = comparison_bars(se)
    errors = [2 * stats.norm.sf(c * (a + b) / np.hypot(a, b)) for a, b in ((1, 2), (1, 5), (2, 5))]
    assert np.mean(errors) == pytest.approx(0.05)
    assert np.isnan(comparison_bars(np.ones(1)))


def test_correction_of_the_published_correlations() -> None:
    inner, cross = np.array([[1, 0.5], [0.5, 1]]), np.array([0.6, 0.5])
    plain = np.linalg.solve(inner, cross)
    np.testing.assert_allclose(plain, [0.46667, 0.26667], atol=5e-6)
    fixed, margin = corrected_slopes(inner, cross, np.array([np.sqrt(0.2), 0]), 1)
    np.testing.assert_allclose(fixed, [0.63636, 0.18182], atol=5e-6)
    assert margin == pytest.approx(0.8 - 0.25)
    assert error_of_measurement(0.84, 15) == pytest.approx(6.0)
    with pytest.raises(ValueError, match="0 to 1"):
        error_of_measurement(1.2, 15)


def test_correction_is_refused_where_nothing_can_be_corrected() -> None:
    inner, cross = np.array([[1, 0.95], [0.95, 1]]), np.array([0.6, 0.5])
    with pytest.raises(ValueError, match="must exceed its R²"):
        corrected_slopes(inner, cross, np.array([np.sqrt(0.2), 0]), 1)
    y, x, codes = np.arange(30.0), np.arange(30.0)[:, None], np.zeros(30, int)
    with pytest.raises(ValueError, match="decided the group"):
        corrected_effects(y, x, np.array([1.0]), codes, 1, prior_decided_groups=True)
    with pytest.raises(ValueError, match="one error"):
        corrected_effects(y, x, np.array([-1.0]), codes, 1)
    with pytest.raises(ValueError, match="more students"):
        corrected_effects(y[:3], x[:3], np.array([0.1]), codes[:3], 1)


def test_correction_takes_the_intake_out_of_equally_good_groups() -> None:
    rng = np.random.default_rng(7)
    group = rng.integers(0, 20, 20_000)
    true = rng.normal(size=20_000) + np.linspace(-1, 1, 20)[group]
    prior = true + rng.normal(0, 0.6, 20_000)
    y = 2 * true + rng.normal(0, 0.5, 20_000)  # every group equally good
    plain = corrected_effects(y, prior[:, None], np.array([0.0]), group, 20)
    fixed = corrected_effects(y, prior[:, None], np.array([0.6]), group, 20)
    np.testing.assert_allclose(plain.slopes, np.polyfit(prior, y, 1)[0])
    assert fixed.slopes[0] == pytest.approx(2, abs=0.05)
    assert plain.with_intake > 0.95  # the error in the prior makes value-added of intake
    assert abs(fixed.mean).max() < 0.5 * abs(plain.mean).max()
    residual = y - fixed.intercept - prior * fixed.slopes[0]
    own = residual.var() - fixed.slopes[0] ** 2 * 0.36
    expected = np.sqrt((own + fixed.slopes[0] ** 2 * 0.36) / fixed.group_n)
    np.testing.assert_allclose(fixed.se, expected, rtol=1e-3)
    sd = prior.std()
    assert fixed.reliability == pytest.approx(1 - 0.36 / sd**2, abs=1e-3)
    empty = corrected_effects(
        y, prior[:, None], np.array([0.6]), np.where(group == 3, -1, group), 20
    )
    assert np.isnan(empty.mean[3])
