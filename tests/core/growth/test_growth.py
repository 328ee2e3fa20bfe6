"""Growth: quantile fits against exact linear programming, percentiles by their rule, movement."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats
from scipy.interpolate import BSpline
from statsmodels.stats.proportion import proportion_confint
from tests.core.reference.linear_programme import smallest_loss

from bridge_chart.core.growth.gains import (
    falling_behind,
    gains,
    growth_met,
    pace,
    pace_interval_reach,
    paces,
)
from bridge_chart.core.growth.interior_point import interior_point
from bridge_chart.core.growth.movement import movement, movement_by_error_alone, movement_credit
from bridge_chart.core.growth.percentiles import (
    growth_of_groups,
    growth_percentiles,
    in_words,
    median_ranks,
)
from bridge_chart.core.growth.quantiles import quantile_fits

TAUS = np.arange(0.005, 1, 0.01)


def columns(x: np.ndarray) -> np.ndarray:
    parts = [np.ones((len(x), 1))]
    for k in range(x.shape[1]):
        inner = np.unique(np.quantile(x[:, k], [0.2, 0.4, 0.6, 0.8]))
        knots = np.r_[[x[:, k].min()] * 4, inner, [x[:, k].max()] * 4]
        parts.append(BSpline.design_matrix(x[:, k], knots, 3).toarray()[:, 1:])
    return np.hstack(parts)


def data(kind: str, n: int = 1200):
    rng = np.random.default_rng(len(kind))
    x = rng.normal(300, 30, (n, 2 if kind == "two priors" else 1))
    y = 0.7 * x.sum(axis=1) + rng.normal(0, 15, n) * x[:, 0] / 300
    if kind == "whole scores":
        return np.round(y / 10), np.round(x / 8)
    if kind == "heavy tails":
        return y + rng.standard_cauchy(n) * 5, x
    return y, x


@pytest.mark.parametrize("kind", ["plain", "two priors", "whole scores", "heavy tails"])
def test_every_quantile_reaches_the_exact_minimum(kind: str) -> None:
    y, x = data(kind)
    design = columns(x)
    found = quantile_fits(y, design, TAUS.tolist())
    assert all(found.converged)
    assert found.full < 10  # nearly all from their neighbours
    for k in range(0, 100, 9):
        exact = smallest_loss(y, design, TAUS[k])
        assert found.loss[k] == pytest.approx(exact, rel=1e-6)
        left = y - design @ found.coefficients[k]
        assert found.loss[k] == pytest.approx(np.sum(left * (TAUS[k] - (left < 0))), rel=1e-12)


def test_equal_rows_as_one_with_a_weight_give_the_same_loss() -> None:
    y, x = data("whole scores")
    design = columns(x)
    rows, place, count = np.unique(
        np.column_stack([x, y]), axis=0, return_inverse=True, return_counts=True
    )
    first = np.unique(place, return_index=True)[1]
    assert len(rows) < len(y)
    whole = quantile_fits(y, design, TAUS[::10].tolist())
    folded = quantile_fits(rows[:, -1], design[first], TAUS[::10].tolist(), count.astype(float))
    np.testing.assert_allclose(whole.loss, folded.loss, rtol=1e-8)


def test_two_walks_at_once_give_the_same() -> None:
    y, x = data("plain", 5000)
    one = quantile_fits(y, columns(x), TAUS.tolist())
    two = quantile_fits(y, columns(x), TAUS.tolist(), workers=2)
    np.testing.assert_array_equal(one.coefficients, two.coefficients)


def test_a_constant_alone_gives_the_sample_quantile() -> None:
    y = np.random.default_rng(1).normal(size=101)
    found = quantile_fits(y, np.ones((101, 1)), [0.05, 0.5, 0.95])
    np.testing.assert_allclose(found.coefficients[:, 0], np.sort(y)[[5, 50, 95]], atol=1e-9)


def test_bad_input_for_quantiles() -> None:
    y, x = np.arange(9.0), np.ones((9, 1))
    for args, said in (
        ((y, x, [0.0]), "between 0 and 1"),
        ((y, x, [0.5, 0.4]), "rise"),
        ((np.full(9, np.nan), x, [0.5]), "complete"),
        ((np.ones(9), x, [0.5]), "must vary"),
        ((y[:3], np.ones((3, 5)), [0.5]), "more than columns"),
    ):
        with pytest.raises(ValueError, match=said):
            quantile_fits(*args)


@pytest.mark.parametrize("kind", ["plain", "two priors", "whole scores"])
def test_percentiles_are_the_counted_quantiles_and_average_fifty(kind: str) -> None:
    y, x = data(kind)
    found = growth_percentiles(y, x)
    assert (found.method, found.n, found.clamped) == ("quantiles", 1200, 0)
    assert found.percentile.min() >= 1
    assert found.percentile.max() <= 99
    assert found.percentile.mean() == pytest.approx(50, abs=1)
    if kind == "plain":
        fits = quantile_fits(y, columns(x), TAUS.tolist())
        apart = y[:, None] - columns(x) @ fits.coefficients.T
        on = np.abs(apart) <= 1e-9 * y.std()
        below = (~on & (apart > 0)).sum(axis=1) + on.sum(axis=1) / 2  # on a curve: half
        np.testing.assert_allclose(np.clip(below, 1, 99), found.percentile)
        assert on.sum() >= 100  # every curve goes through students
    rise = growth_percentiles(y + 3 * (np.arange(1200) == 7), x, np.arange(1200) != 7)
    plain = growth_percentiles(y, x, np.arange(1200) != 7)
    assert rise.percentile[7] >= plain.percentile[7]
    np.testing.assert_array_equal(np.delete(rise.percentile, 7), np.delete(plain.percentile, 7))


def test_percentiles_follow_the_conditional_distribution() -> None:
    rng = np.random.default_rng(3)
    x = rng.normal(size=6000)
    noise = rng.normal(size=6000)
    found = growth_percentiles(2 * x + noise, x).percentile
    assert np.abs(found - 100 * stats.norm.cdf(noise)).mean() < 1.5
    assert abs(np.corrcoef(found, x)[0, 1]) < 0.02


def test_few_students_few_values_and_outside_priors() -> None:
    y, x = data("plain")
    assert growth_percentiles(y[:199], x[:199]).method == "refused"
    fifth = growth_percentiles(y[:400], x[:400])
    assert fifth.method == "every fifth"
    assert set(np.unique(fifth.percentile * 2 % 5)) <= {0.0, 2.0, 3.0}  # steps of 2.5, or 1 and 99
    assert fifth.percentile.mean() == pytest.approx(50, abs=2)
    grades = np.digitize(y, np.quantile(y, [0.1, 0.3, 0.6, 0.8, 0.95])).astype(float)
    ranks = growth_percentiles(grades, x)
    assert ranks.method == "mid-ranks"
    assert ranks.percentile.mean() == pytest.approx(50, abs=0.5)
    assert growth_percentiles(y, np.full(1200, 4.0)).reason
    beyond = np.append(x[:, 0], [0.0, np.nan])
    found = growth_percentiles(np.append(y, [200.0, 1]), beyond, np.arange(1202) < 1200)
    assert found.clamped == 1
    assert np.isnan(found.percentile[-1])
    with pytest.raises(ValueError, match="one to three"):
        growth_percentiles(y, np.ones((1200, 4)))


def test_a_prior_with_seventy_values_and_ties_everywhere() -> None:
    rng = np.random.default_rng(5)
    x = rng.integers(0, 70, 20_000).astype(float)
    y = np.round(x / 2 + rng.normal(0, 6, 20_000))
    found = growth_percentiles(y, x)
    assert found.converged
    assert found.percentile.mean() == pytest.approx(50, abs=0.5)
    # Equal starts and equal outcomes have equal growth.
    same = (x == 35) & (y == np.median(y[x == 35]))
    assert np.ptp(found.percentile[same]) == 0


def test_median_ranks_agree_with_the_binomial() -> None:
    assert (median_ranks(10), median_ranks(20)) == ((2, 9), (6, 15))
    assert median_ranks(5) is None
    assert median_ranks(0) is None
    for n in range(6, 120):
        low, high = median_ranks(n)
        assert stats.binom.cdf(low - 1, n, 0.5) <= 0.025 < stats.binom.cdf(low, n, 0.5)
        assert high == n + 1 - low


def test_growth_of_groups() -> None:
    rng = np.random.default_rng(6)
    values, codes = rng.uniform(1, 99, 300), rng.integers(-1, 4, 300)
    values[::11] = np.nan
    found = growth_of_groups(values, codes, 5)
    for g in range(4):
        mine = np.sort(values[(codes == g) & ~np.isnan(values)])
        low, high = median_ranks(len(mine))
        assert found.median[g] == pytest.approx(np.median(mine))
        assert (found.median_low[g], found.median_high[g]) == (mine[low - 1], mine[high - 1])
        assert found.mean[g] == pytest.approx(mine.mean())
    assert found.enough.tolist() == [True, True, True, True, False]
    assert np.isnan(found.median_low[4])
    assert in_words(np.array([24.9, 25, 75, 75.5])) == ["lower", "typical", "typical", "higher"]


def test_gains_only_on_a_common_scale() -> None:
    before, after = np.array([90.0, 100, np.nan]), np.array([95.0, 120, 100])
    found = gains(before, after, np.zeros(3, int), 1, vertical=True)
    assert found.gain[:2].tolist() == [5, 20]
    assert (found.unit, int(found.groups.missing[0])) == ("score", 1)
    with pytest.raises(ValueError, match="norms"):
        gains(before, after, np.zeros(3, int), 1, vertical=False)
    z = gains(before, after, np.zeros(3, int), 1, vertical=False, norms=(100, 10, 110, 20))
    assert z.gain[:2].tolist() == [0.25, 0.5]


def test_a_falling_rank_is_flagged_only_beyond_error() -> None:
    fall = np.array([0.83, 0.84])  # 1.96·√(.3² + .3²) = .8316
    found = falling_behind(np.array([90.0, 90]), np.array([91.0, 91]), fall, np.zeros(2), 0.3, 0.3)
    assert found.tolist() == [False, True]
    assert not falling_behind(np.ones(1), np.ones(1), np.ones(1) * 9, np.zeros(1), 0.1, 0.1)[0]


def test_growth_met_counts_reaching_as_meeting() -> None:
    before, after = np.array([100.0, 100, 100, 60, np.nan]), np.array([105.9, 106, 108, 90, 1])
    found = growth_met(
        before, after, np.zeros(5, int), 1, np.array([90.0, 120]), np.array([6.0, 6]),
        np.array([8.0, 8]),
    )  # fmt: skip
    assert (found.n[0], found.missing[0]) == (3, 2)
    low, high = proportion_confint(2, 3, method="wilson")
    assert [float(x[0]) for x in found.expected] == pytest.approx([2 / 3, low, high])
    assert found.ambitious[0][0] == pytest.approx(1 / 3)
    point = growth_met(
        np.array([0.1]), np.array([0.3]), np.zeros(1, int), 1, np.array([0.0, 1]),
        np.array([0.2, 0.2]), np.array([0.2, 0.2]),
    )  # fmt: skip
    assert point.expected[0][0] == 1  # .3 − .1 is a hair under .2 in floats


def test_movement_and_its_credit() -> None:
    before, after = np.array([0, 0, 1, 2, 2, -1, 1]), np.array([0, 1, 2, 2, 0, 1, -1])
    found = movement(before, after, 3)
    assert found.counts.tolist() == [[1, 1, 0], [0, 0, 1], [1, 0, 1]]
    assert (found.up, found.same, found.down, found.n, found.missing) == (2, 2, 1, 5, 2)
    rule = np.array([[0, 1, 1], [0, 0.5, 1], [0, 0, 1.0]])
    credit = movement_credit(before, after, rule, np.array([0, 0, 0, 1, 1, 1, 1]), 2)
    np.testing.assert_array_equal(credit.credit, [0, 1, 1, 1, 0, np.nan, np.nan])
    assert (credit.groups[0].value, credit.groups[1].missing) == (pytest.approx(2 / 3), 2)
    with pytest.raises(ValueError, match="square"):
        movement_credit(before, after, rule[:2], np.zeros(7, int), 1)


def test_error_alone_moves_students_as_a_simulation_says() -> None:
    rng = np.random.default_rng(7)
    sd, sem = 15.0, 6.0
    true = rng.normal(100, np.sqrt(sd**2 - sem**2), 200_000)
    first, second = (true + rng.normal(0, sem, 200_000) for _ in range(2))
    cuts = np.array([90.0, 105])
    expected = movement_by_error_alone(first, cuts, 100, sd, sem)
    drawn = movement(np.digitize(first, cuts), np.digitize(second, cuts), 3).counts
    np.testing.assert_allclose(expected, drawn, rtol=0.01, atol=4 * np.sqrt(800))
    assert expected.sum() == pytest.approx(200_000)
    still = movement_by_error_alone(first, cuts, 100, sd, 0.0)
    assert np.count_nonzero(still - np.diag(np.diag(still))) == 0
    with pytest.raises(ValueError, match="between 0 and sd"):
        movement_by_error_alone(first, cuts, 100, 5, 6)


def test_pace_agrees_with_a_line_and_does_not_look_too_far() -> None:
    t, y = np.array([0.0, 0.5, 1, 2]), np.array([90.0, 96, 99, 107])
    found = pace(t, y, 1.0)
    line = stats.linregress(t, y)
    assert (found.slope.value, found.slope.se) == pytest.approx((line.slope, line.stderr))
    there = line.intercept + line.slope * 3
    s = np.sqrt(np.sum((y - line.intercept - line.slope * t) ** 2) / 2)
    error = s * np.sqrt(1 + 1 / 4 + (3 - t.mean()) ** 2 / np.sum((t - t.mean()) ** 2))
    assert found.projection.value == pytest.approx(there)
    assert found.projection.high == pytest.approx(there + stats.t.ppf(0.975, 2) * error)
    assert pace(t, y, 2.5).projection.reason.startswith("the results span 2 years")
    three = pace(t[:3], y[:3], 1.0)
    assert np.isnan(three.projection.low)
    assert np.isfinite(three.projection.value)
    pooled = pace(t[:3], y[:3], 1.0, pooled_sd=3.0)
    assert np.isfinite(pooled.projection.low)
    assert pace(np.array([1.0, 1]), np.array([1.0, 2]), 1).slope.reason
    assert np.isnan(pace_interval_reach(3))


def test_paces_of_many_agree_with_one_by_one() -> None:
    rng = np.random.default_rng(8)
    t, y = np.array([0.0, 1, 2, 4]), rng.normal(size=(50, 4))
    y[rng.random((50, 4)) < 0.3] = np.nan
    slope, points, sd = paces(t, y)
    squares, df = 0.0, 0
    for k in range(50):
        held = ~np.isnan(y[k])
        assert points[k] == held.sum()
        if held.sum() >= 2:
            line = np.polyfit(t[held], y[k][held], 1)
            assert slope[k] == pytest.approx(line[0])
            squares += float(np.sum((y[k][held] - np.polyval(line, t[held])) ** 2))
            df += int(held.sum()) - 2
        else:
            assert np.isnan(slope[k])
    assert sd == pytest.approx(np.sqrt(squares / df))


def test_a_target_out_of_reach_does_not_converge() -> None:
    y, x = np.arange(50.0), np.ones((50, 1))
    for share in (-0.5, 1.5):  # more weight above the curve than there is
        fit = interior_point(y, x, np.ones(50), np.array([50 * share]), np.array([25.0]), 15.0)
        assert not fit.converged
    assert interior_point(y, x, np.ones(50), np.array([25.0]), np.array([9.0]), 15.0).converged
