"""Gaps of two groups: published answers, general libraries, brute force."""

from __future__ import annotations

import math

import numpy as np
import pandas as pd
import pytest
import statsmodels.api as sm
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import optimize, stats
from statsmodels.stats.contingency_tables import mcnemar
from statsmodels.stats.proportion import confint_proportions_2indep, proportion_confint
from tests.effort import examples, seeds

from bridge_chart.core.contrasts.differ import splits_interact
from bridge_chart.core.contrasts.noise import Noise
from bridge_chart.core.contrasts.rows import Sample
from bridge_chart.core.gaps.level_gap import level_gap
from bridge_chart.core.gaps.make_up import below_expectation, fisher_exact, make_up, make_ups
from bridge_chart.core.gaps.means import hedges_g, noncentral_limits, paired, small_sample_factor
from bridge_chart.core.gaps.shares import (
    newcombe,
    newcombe_paired,
    ratio_interval,
    share_of_level_gap_warning,
)
from bridge_chart.core.gaps.superiority import superiority
from bridge_chart.core.gaps.two_way import difference_of_differences, difference_of_share_gaps

A = np.array([0.7, -1.6, -0.2, -1.2, -0.1, 3.4, 3.7, 0.8, 0, 2])
B = np.array([1.9, 0.8, 1.1, 0.1, -0.1, 4.4, 5.5, 1.6, 4.6, 3.4])


def test_hedges_g_and_its_exact_interval() -> None:
    found = hedges_g(A, B)
    assert (found.g, found.low, found.high) == pytest.approx(
        (-0.79694, -1.73882, 0.09545), abs=6e-6
    )
    assert small_sample_factor(10) == pytest.approx(0.9227456, abs=5e-8)
    assert small_sample_factor(18) == pytest.approx(0.9576464, abs=5e-8)
    for df in (2.0, 5.5, 300.0):  # Γ itself
        by_gamma = math.gamma(df / 2) / (math.sqrt(df / 2) * math.gamma((df - 1) / 2))
        assert small_sample_factor(df) == pytest.approx(by_gamma, rel=1e-12)


@pytest.mark.parametrize(("t", "df"), [(0.0, 5), (2.0, 20), (-4.5, 60), (12.0, 900), (30.0, 4000)])
def test_noncentral_limits_agree_with_scipy_stats(t: float, df: float) -> None:
    low, high = noncentral_limits(t, df)
    assert stats.nct.sf(t, df, low) == pytest.approx(0.025, abs=2e-6)
    assert stats.nct.cdf(t, df, high) == pytest.approx(0.025, abs=2e-6)


def test_the_normal_approximation_takes_over_without_a_jump() -> None:
    for t, df in ((5.0, 9_999.0), (36.9, 5_000.0)):
        exact = noncentral_limits(t, df)
        reach = stats.norm.ppf(0.975) * math.sqrt(1 + t * t / (2 * df))
        np.testing.assert_allclose(exact, (t - reach, t + reach), rtol=1e-3)
    assert noncentral_limits(50.0, 2e4)[0] < 50 < noncentral_limits(50.0, 2e4)[1]


def test_gaps_without_spread_or_students_are_undefined() -> None:
    assert hedges_g(np.ones(3), np.ones(3)).reason
    assert hedges_g(np.ones(1), A).reason
    assert np.isnan(hedges_g(np.array([np.nan]), A).g)
    with pytest.raises(ValueError, match="above 1"):
        small_sample_factor(1)


def test_unit_and_sign() -> None:
    one, other = hedges_g(A, B), hedges_g(B * 100 + 7, A * 100 + 7)
    assert (other.g, other.low, other.high) == pytest.approx((-one.g, -one.high, -one.low))


def test_paired_agrees_with_scipy() -> None:
    found = paired(A, B)
    theirs = stats.ttest_rel(A, B)
    assert (found.value / found.se, found.p) == pytest.approx((theirs.statistic, theirs.pvalue))
    interval = theirs.confidence_interval()
    assert (found.low, found.high) == pytest.approx((interval.low, interval.high))
    assert paired(A, A + 1).reason  # all differ alike
    with pytest.raises(ValueError, match="one shape"):
        paired(A, B[:5])


@pytest.mark.parametrize(
    "table", [(56, 70, 48, 80), (9, 10, 3, 10), (0, 20, 0, 30), (10, 10, 0, 20)]
)
def test_newcombe_agrees_with_statsmodels(table: tuple[int, int, int, int]) -> None:
    found = newcombe(*table)
    theirs = confint_proportions_2indep(*table, method="newcomb", compare="diff")
    assert (found.low, found.high) == pytest.approx(theirs, abs=1e-12)
    turned = newcombe(table[2], table[3], table[0], table[1])
    assert (turned.low, turned.high) == pytest.approx((-found.high, -found.low))


def test_newcombe_paired_agrees_with_the_published_example_and_the_formula() -> None:
    # Newcombe (1998), Statistics in Medicine 17:2635-2650, method 10.
    assert newcombe_paired(36, 12, 2, 0).low == pytest.approx(0.0569, abs=5e-5)
    assert newcombe_paired(36, 12, 2, 0).high == pytest.approx(0.3404, abs=5e-5)
    for a, b, c, d in ((36, 12, 2, 0), (20, 12, 2, 16), (3, 9, 1, 7), (0, 5, 0, 0)):
        found, n = newcombe_paired(a, b, c, d), a + b + c + d
        first = proportion_confint(a + b, n, method="wilson")
        second = proportion_confint(a + c, n, method="wilson")
        p, q = (a + b) / n, (a + c) / n
        under = math.sqrt((a + b) * (c + d) * (a + c) * (b + d))
        over = a * d - b * c
        phi = 0 if under == 0 else (max(over - n / 2, 0) if over > 0 else over) / under
        down, up = (p - first[0], second[1] - q), (first[1] - p, q - second[0])
        far = [math.sqrt(x * x - 2 * phi * x * y + y * y) for x, y in (down, up)]
        assert (found.low, found.high) == pytest.approx((p - q - far[0], p - q + far[1]))
        test = mcnemar(np.array([[a, b], [c, d]]), exact=True)
        assert found.p == pytest.approx(float(test.pvalue))
    assert newcombe_paired(0, 0, 0, 0).reason


def test_ratio_by_hand_and_at_zero() -> None:
    ratio, low, high = ratio_interval(15, 30, 20, 80)
    reach = stats.norm.ppf(0.975) * math.sqrt(1 / 15 - 1 / 30 + 1 / 20 - 1 / 80)
    assert (ratio, low, high) == pytest.approx((2.0, 2 * math.exp(-reach), 2 * math.exp(reach)))
    assert ratio_interval(0, 30, 5, 30)[:2] == (0.0, 0.0)
    assert ratio_interval(5, 30, 0, 30)[2] == math.inf
    assert np.isnan(ratio_interval(0, 5, 0, 5)).all()
    assert share_of_level_gap_warning([0.1, -0.1])


@pytest.mark.parametrize("seed", seeds(4))
def test_superiority_agrees_with_all_pairs(seed: int) -> None:
    rng = np.random.default_rng(seed)
    a, b = rng.integers(0, 6, 40).astype(float), rng.integers(1, 8, 55).astype(float)
    found = superiority(np.append(a, np.nan), b)
    pairs = (a[:, None] > b).mean() + (a[:, None] == b).mean() / 2
    assert found.probability == pytest.approx(pairs, rel=1e-12)
    assert found.missing == 1
    u = stats.mannwhitneyu(a, b).statistic
    assert found.probability == pytest.approx(u / (40 * 55))
    assert found.v == pytest.approx(math.sqrt(2) * stats.norm.ppf(pairs))
    turned = superiority(b, a)
    assert turned.v == pytest.approx(-found.v)
    assert turned.v_low == pytest.approx(-found.v_high)
    stretched = superiority(np.exp(a), np.exp(b))  # no stretching of the scale changes it
    assert stretched.v == found.v


def test_superiority_interval_covers_and_extremes_are_said() -> None:
    rng = np.random.default_rng(9)
    inside = 0
    for _ in range(300):
        found = superiority(rng.normal(0.5, 1, 60), rng.normal(0, 1, 60))
        inside += found.v_low <= 0.5 <= found.v_high
    assert 0.92 <= inside / 300 <= 0.98
    apart = superiority(np.array([5.0, 6]), np.array([1.0, 2]))
    assert (apart.probability, apart.v, apart.reason) == (1.0, math.inf, "no overlap")
    assert 1 < apart.beyond < 3
    assert superiority(np.array([]), np.array([1.0])).reason


def plain_level_loss(x, a, b):
    cuts = np.concatenate([[-np.inf], x[: len(a) - 1], [np.inf]])
    p_a = np.diff(stats.norm.cdf((cuts - x[-2]) / np.exp(x[-1])))
    p_b = np.diff(stats.norm.cdf(cuts))
    if p_a.min() <= 0 or p_b.min() <= 0:
        return 1e9
    return -(a @ np.log(p_a) + b @ np.log(p_b))


@pytest.mark.parametrize(
    ("a", "b"), [([10, 30, 40, 20], [30, 40, 20, 10]), ([5, 9, 60, 200, 80], [40, 50, 60, 30, 4])]
)
def test_level_gap_agrees_with_a_plain_maximum_of_the_likelihood(a, b) -> None:
    a, b = np.array(a), np.array(b)
    found = level_gap(a, b)
    start = np.concatenate([stats.norm.ppf(np.cumsum(b)[:-1] / b.sum()), [0.5, 0.0]])
    best = optimize.minimize(
        plain_level_loss, start, args=(a, b), method="Nelder-Mead",
        options={"xatol": 1e-9, "fatol": 1e-11, "maxiter": 20000, "maxfev": 20000},
    )  # fmt: skip
    v = math.sqrt(2) * best.x[-2] / math.sqrt(math.exp(best.x[-1]) ** 2 + 1)
    assert found.v == pytest.approx(v, abs=2e-5)
    assert found.spread_ratio == pytest.approx(math.exp(best.x[-1]), rel=1e-4)
    turned = level_gap(b, a)
    assert turned.v == pytest.approx(-found.v, abs=1e-7)
    assert turned.se == pytest.approx(found.se, rel=1e-4)


def test_level_gap_with_two_cuts_by_hand() -> None:
    a, b = stats.norm.ppf([0.1, 0.4]), stats.norm.ppf([0.3, 0.7])
    sigma = (b[1] - b[0]) / (a[1] - a[0])
    mu = b[0] - sigma * a[0]
    found = level_gap(np.array([10, 30, 60]), np.array([30, 40, 30]))
    assert found.v == pytest.approx(math.sqrt(2) * mu / math.sqrt(1 + sigma**2), abs=1e-9)


def test_level_gap_finds_the_gap_that_made_the_levels_and_its_error_is_right() -> None:
    rng = np.random.default_rng(4)
    found, inside = [], 0
    for _ in range(200):
        a, b = rng.normal(0.6, 1.3, 300), rng.normal(0, 1, 300)
        cuts = [-0.7, 0.2, 1.1]
        counts = [np.bincount(np.searchsorted(cuts, g), minlength=4) for g in (a, b)]
        gap = level_gap(*counts)
        true = 0.6 * math.sqrt(2) / math.sqrt(1.3**2 + 1)
        found.append(gap.v)
        inside += gap.low <= true <= gap.high
    assert np.mean(found) == pytest.approx(true, abs=0.02)
    assert 0.91 <= inside / 200 <= 0.985


def test_level_gap_at_the_edges() -> None:
    one = level_gap(np.array([20, 80]), np.array([50, 50]))
    assert one.v == pytest.approx(stats.norm.ppf(0.8))
    assert one.labels == ("equal spread assumed",)
    merged = level_gap(np.array([0, 20, 0, 80]), np.array([10, 40, 0, 50]))
    assert merged.labels == ("empty levels merged", "equal spread assumed")
    assert merged.v == pytest.approx(one.v)
    apart = level_gap(np.array([0, 0, 9]), np.array([4, 6, 0]))
    assert apart.v == math.inf
    assert apart.beyond > 1
    assert "not identified" in apart.labels
    with pytest.raises(ValueError, match="empty"):
        level_gap(np.array([0, 0]), np.array([1, 2]))


def test_the_difference_of_differences_agrees_with_the_definition() -> None:
    rng = np.random.default_rng(5)
    row, column = rng.integers(0, 2, 300), rng.integers(0, 2, 300)
    y = rng.normal(size=300) * (1 + row) + row * column
    y[:5] = np.nan
    found = difference_of_differences(y, row, column)
    cells = [y[(row == i) & (column == j) & ~np.isnan(y)] for i in (0, 1) for j in (0, 1)]
    v = np.array([c.var(ddof=1) / len(c) for c in cells])
    df = v.sum() ** 2 / np.sum(v**2 / (np.array([len(c) for c in cells]) - 1))
    assert found.value == pytest.approx(
        cells[3].mean() - cells[2].mean() - cells[1].mean() + cells[0].mean()
    )
    assert found.df == pytest.approx(df)
    assert found.missing == 5


def test_larger_tables_agree_with_the_analysis_of_variance() -> None:
    """Unbalanced, with an empty cell: as an independent program takes the interaction apart."""
    rng = np.random.default_rng(6)
    row, column = rng.integers(0, 3, 900), rng.integers(0, 4, 900)
    y = rng.normal(size=900) + row * 0.5 + (column == 2) * 0.3
    y[(row == 2) & (column == 3)] = np.nan
    none = Noise(1.0, 0.0, np.nan, np.nan, 0)
    sample = Sample(y, y, np.full(900, -1), np.zeros(0, int), none)
    found = splits_interact(sample, np.arange(900), row, column)
    frame = pd.DataFrame({"y": y, "r": row, "c": column}).dropna()
    both = sm.OLS(frame["y"], pd.get_dummies(frame["r"] * 4 + frame["c"]).astype(float)).fit()
    each = pd.concat([pd.get_dummies(frame["r"], prefix="r"),
                      pd.get_dummies(frame["c"], prefix="c", drop_first=True)], axis=1)  # fmt: skip
    f, p, _ = both.compare_f_test(sm.OLS(frame["y"], each.astype(float)).fit())
    assert (found.f, found.df) == (pytest.approx(f), 5)
    assert found.p == pytest.approx(p, rel=1e-6)
    thin = splits_interact(sample, np.arange(2), row[:2], column[:2])
    assert thin.reason


def test_difference_of_share_gaps_adds_squares() -> None:
    counts, sizes = ((30, 10), (25, 20)), ((40, 40), (40, 40))
    found = difference_of_share_gaps(counts, sizes)
    first, second = newcombe(30, 40, 10, 40), newcombe(25, 40, 20, 40)
    assert found.value == pytest.approx(0.375)
    assert found.low == pytest.approx(
        0.375 - math.sqrt((0.5 - first.low) ** 2 + (second.high - 0.125) ** 2)
    )
    assert difference_of_share_gaps(((0, 1), (1, 1)), ((0, 2), (2, 2))).reason


def test_make_up_against_the_rest_and_against_everyone() -> None:
    found = make_up(15, 30, 20, 80)
    assert found.against_rest[0] == pytest.approx(2.0)
    assert found.against_everyone[0] == pytest.approx((15 / 30) / (35 / 110))
    assert np.isnan(found.exact_p)
    few = make_up(3, 4, 1, 4)
    assert few.exact_p == pytest.approx(stats.fisher_exact([[3, 1], [1, 3]]).pvalue)
    alone = make_up(3, 10, 0, 40)
    assert alone.against_rest[0] == math.inf
    assert alone.against_everyone[0] == pytest.approx(5.0)
    assert [m.in_rest for m in make_ups(np.array([3, 1]), np.array([5, 5]))] == [2, 4]
    with pytest.raises(ValueError, match="within"):
        make_ups(np.array([6, 1]), np.array([5, 5]))


@settings(max_examples=examples(60), deadline=None)
@given(st.integers(0, 12), st.integers(0, 12), st.integers(0, 12), st.integers(0, 12))
def test_fisher_agrees_with_scipy(a: int, b: int, c: int, d: int) -> None:
    theirs = stats.fisher_exact([[a, b], [c, d]]).pvalue
    assert fisher_exact(a, a + b, c, c + d) == pytest.approx(theirs, rel=1e-9)


def test_below_expectation_is_more_than_one_error() -> None:
    found = below_expectation(np.array([-5.0, -5.01, 0, np.nan]), 5.0)
    assert found.tolist() == [False, True, False, False]
