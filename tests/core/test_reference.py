"""Every calculation against an independent one: general libraries, or the definition itself."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
import statsmodels.api as sm
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats
from statsmodels.stats.meta_analysis import combine_effects
from statsmodels.stats.multitest import multipletests
from statsmodels.stats.proportion import proportion_confint
from tests.core.reference.brute import cr2
from tests.effort import examples

from bridge_chart.core import distributions as d
from bridge_chart.core.describing.clustered import clustered_difference, clustered_means
from bridge_chart.core.describing.describe import describe, moments, ranked
from bridge_chart.core.describing.shares import wilson
from bridge_chart.core.expected.line import FEWEST_TO_FIT, fit_linear
from bridge_chart.core.gaps.means import welch
from bridge_chart.core.trust.chance import heterogeneity
from bridge_chart.core.trust.discoveries import discoveries
from bridge_chart.core.trust.verdicts import verdicts


@pytest.fixture
def rng() -> np.random.Generator:
    return np.random.default_rng(7)


def test_distributions_agree_with_scipy_stats() -> None:
    for df in (1.0, 2.0, 4.3, 17.7765, 250.0):
        assert d.t_quantile(0.975, df) == pytest.approx(stats.t.ppf(0.975, df), rel=1e-9)
        assert d.t_two_sided(2.1, df) == pytest.approx(2 * stats.t.sf(2.1, df), rel=1e-9)
    assert d.normal_quantile(0.975) == pytest.approx(stats.norm.ppf(0.975), rel=1e-12)
    assert d.chi_square_tail(7.3, 4) == pytest.approx(stats.chi2.sf(7.3, 4), rel=1e-10)
    for n in (1, 8, 11, 40, 400):
        for p in (0.025, 0.5, 0.975):
            assert d.binomial_quantile(p, n, 0.05) == stats.binom.ppf(p, n, 0.05)
    assert np.isnan(d.t_quantile(0.975, np.nan))


def test_describe_agrees_with_pandas(rng: np.random.Generator) -> None:
    values = rng.normal(300, 30, 5000).round()
    values[rng.random(5000) < 0.1] = np.nan
    codes = rng.integers(-1, 40, 5000)
    ours = describe(values, codes, 41)
    frame = pd.DataFrame({"code": codes, "value": values})[codes >= 0]
    theirs = frame.groupby("code")["value"]
    assert ours.n[:40].tolist() == theirs.count().tolist()
    assert ours.missing[:40].tolist() == theirs.apply(lambda v: int(v.isna().sum())).tolist()
    np.testing.assert_allclose(ours.mean[:40], theirs.mean(), rtol=1e-13)
    np.testing.assert_allclose(ours.sd[:40], theirs.std(), rtol=1e-12)
    for share, mine in ((0.25, ours.q1), (0.5, ours.median), (0.75, ours.q3)):
        np.testing.assert_allclose(mine[:40], theirs.quantile(share), rtol=1e-13)
    low, high = stats.t.interval(0.95, ours.n[:40] - 1, ours.mean[:40], ours.se[:40])
    np.testing.assert_allclose(ours.low[:40], low, rtol=1e-12)
    np.testing.assert_allclose(ours.high[:40], high, rtol=1e-12)
    assert ours.n[40] == 0
    assert np.isnan([ours.mean[40], ours.sd[40], ours.median[40]]).all()


def test_kept_ranks_change_nothing(rng: np.random.Generator) -> None:
    values = rng.integers(0, 70, 900).astype(float)
    values[::7] = np.nan
    codes = rng.integers(-1, 5, 900).astype(np.int16)
    order = np.argsort(values, kind="stable")[: int(np.isfinite(values).sum())]
    some = np.flatnonzero(rng.random(900) < 0.4)
    kept = describe(values[some], codes[some], 5, ranks=ranked(values, order).of(some))
    plain = describe(values[some], codes[some], 5)
    for name in ("q1", "median", "q3", "mean"):
        np.testing.assert_array_equal(getattr(kept, name), getattr(plain, name))


def test_large_offsets_do_not_spoil_the_spread() -> None:
    values = np.array([1e9 + 1, 1e9 + 2, 1e9 + 3])
    assert moments(values, np.zeros(3, int), 1).sd[0] == pytest.approx(1.0, rel=1e-6)


@pytest.mark.parametrize("n", [0, 1, 2])
def test_tiny_groups_are_undefined_not_wrong(n: int) -> None:
    ours = describe(np.arange(float(n)), np.zeros(n, int), 1)
    assert ours.n[0] == n
    assert np.isnan(ours.sd[0]) == (n < 2)
    assert np.isnan(ours.mean[0]) == (n < 1)


def test_codes_out_of_range_are_refused() -> None:
    with pytest.raises(ValueError, match="codes"):
        describe(np.zeros(3), np.array([0, 1, 2]), 2)


@settings(max_examples=examples(40), deadline=None)
@given(st.lists(st.tuples(st.integers(0, 3), st.integers(-50, 50)), min_size=1, max_size=60))
def test_order_and_unit_do_not_matter(rows: list[tuple[int, int]]) -> None:
    codes, values = np.array([r[0] for r in rows]), np.array([r[1] for r in rows], float)
    turned = np.random.default_rng(1).permutation(len(rows))
    one = describe(values, codes, 4)
    other = describe(10 * values[turned] + 3, codes[turned], 4)
    np.testing.assert_allclose(other.mean, 10 * one.mean + 3, atol=1e-9)
    np.testing.assert_allclose(other.sd, 10 * one.sd, atol=1e-9)
    np.testing.assert_allclose(other.median, 10 * one.median + 3, atol=1e-9)


def test_wilson_agrees_with_statsmodels_and_the_published_values() -> None:
    for count, n in ((81, 263), (0, 20), (20, 20), (1, 1), (7, 10)):
        share, low, high = wilson(np.array(count), np.array(n))
        expected = proportion_confint(count, n, method="wilson")
        assert (low, high) == pytest.approx(expected, abs=1e-12)
        assert share == count / n
    assert wilson(np.array(0), np.array(20))[2] == pytest.approx(0.1611, abs=5e-5)
    with pytest.raises(ValueError, match="between 0 and n"):
        wilson(np.array(3), np.array(2))


def test_linear_fit_agrees_with_statsmodels(rng: np.random.Generator) -> None:
    strata = rng.integers(0, 3, 3000)
    prior = rng.normal(250, 30, 3000).round()
    outcome = 20 + strata * 14 + 0.85 * prior + rng.normal(0, 16, 3000)
    prior[rng.random(3000) < 0.05] = np.nan
    outcome[rng.random(3000) < 0.05] = np.nan
    fit = fit_linear(outcome, prior, strata, 3, np.ones(3000, bool))
    for stratum in range(3):
        rows = (strata == stratum) & ~np.isnan(prior) & ~np.isnan(outcome)
        theirs = sm.OLS(outcome[rows], sm.add_constant(prior[rows])).fit()
        assert fit.n[stratum] == rows.sum()
        assert (fit.intercept[stratum], fit.slope[stratum]) == pytest.approx(
            tuple(theirs.params), rel=1e-9
        )
        assert fit.residual_sd[stratum] == pytest.approx(np.sqrt(theirs.mse_resid), rel=1e-10)
        assert fit.correlation[stratum] ** 2 == pytest.approx(theirs.rsquared, rel=1e-9)
        np.testing.assert_allclose(fit.residual[rows], theirs.resid, atol=1e-8)


def test_a_student_without_outcome_still_has_an_expectation(rng: np.random.Generator) -> None:
    prior = np.append(rng.normal(0, 1, 50), 0.5)
    outcome = np.append(prior[:50] * 2, np.nan)
    fit = fit_linear(outcome, prior, np.zeros(51, int), 1, np.ones(51, bool))
    assert fit.expected[50] == pytest.approx(1.0)
    assert np.isnan(fit.residual[50])


def test_too_few_or_a_constant_prior_has_no_line() -> None:
    n = FEWEST_TO_FIT
    x = np.arange(float(n - 1))
    few = fit_linear(x, x, np.zeros(n - 1, int), 1, np.ones(n - 1, bool))
    same = fit_linear(np.arange(50.0), np.full(50, 3.0), np.zeros(50, int), 1, np.ones(50, bool))
    assert np.isnan(few.expected).all()
    assert np.isnan(same.expected).all()
    assert not few.fitted.any()


def test_cr2_of_means_agrees_with_the_matrices(rng: np.random.Generator) -> None:
    clusters = np.repeat(np.arange(6), [3, 9, 4, 12, 5, 7])
    codes = rng.integers(0, 3, 40)
    values = rng.normal(0, 1, 40) + 0.7 * rng.normal(0, 1, 6)[clusters]
    ours = clustered_means(values, codes, 3, clusters, 6)
    for group in range(3):
        rows = codes == group
        mean, se, df = cr2(values[rows], np.ones((rows.sum(), 1)), clusters[rows], np.ones(1))
        assert (ours.mean[group], ours.se[group], ours.df[group]) == pytest.approx(
            (mean, se, df), rel=1e-9
        )


def test_cr2_of_a_difference_agrees_with_the_matrices(rng: np.random.Generator) -> None:
    clusters = np.repeat(np.arange(7), [3, 9, 4, 12, 5, 7, 6])
    second = rng.integers(0, 2, 46)
    values = rng.normal(0, 1, 46) + 0.7 * rng.normal(0, 1, 7)[clusters] + 0.4 * second
    ours = clustered_difference(values, second, clusters, 7)
    design = np.column_stack([1.0 - second, second])
    value, se, df = cr2(values, design, clusters, np.array([-1.0, 1.0]))
    assert (ours.value, ours.se, ours.df) == pytest.approx((value, se, df), rel=1e-9)


def test_a_group_in_one_cluster_has_no_clustered_error() -> None:
    ours = clustered_means(np.arange(6.0), np.zeros(6, int), 1, np.zeros(6, int), 2)
    assert np.isnan(ours.se[0])
    assert ours.mean[0] == 2.5


def test_welch_agrees_with_scipy(rng: np.random.Generator) -> None:
    a, b = rng.normal(0, 1, 30), rng.normal(0.5, 3, 11)
    ours, theirs = welch(a, b), stats.ttest_ind(a, b, equal_var=False)
    low, high = theirs.confidence_interval()
    assert (ours.p, ours.low, ours.high, ours.df) == pytest.approx(
        (theirs.pvalue, low, high, theirs.df), rel=1e-9
    )
    assert np.isnan(welch(np.array([1.0]), b).value)


def test_discoveries_agree_with_statsmodels(rng: np.random.Generator) -> None:
    for _ in range(50):
        p = rng.random(20) ** 3
        assert discoveries(p).tolist() == multipletests(p, method="fdr_bh")[0].tolist()
    assert discoveries(np.array([np.nan, 0.04])).tolist() == [False, True]
    assert discoveries(np.array([])).tolist() == []


def test_heterogeneity_agrees_with_statsmodels(rng: np.random.Generator) -> None:
    mean, se = rng.normal(0, 2, 12), rng.uniform(0.5, 1.5, 12)
    ours = heterogeneity(mean, se)
    theirs = combine_effects(mean, se**2, method_re="dl")
    assert ours.q == pytest.approx(theirs.q, rel=1e-9)
    assert ours.spread**2 == pytest.approx(theirs.tau2, rel=1e-9)
    assert ours.p == pytest.approx(stats.chi2.sf(theirs.q, 11), rel=1e-9)
    assert np.isnan(heterogeneity(mean[:1], se[:1]).p)


def test_equal_groups_are_seldom_called_different(rng: np.random.Generator) -> None:
    """With nothing planted, fewer than one list in twenty names anybody (in expectation)."""
    false = 0
    for _ in range(400):
        values = rng.normal(0, 1, 440)
        each = moments(values, np.repeat(np.arange(11), 40), 11)
        p = d.t_two_sided(each.mean / each.se, each.df)
        told = verdicts(each.mean, each.low, each.high, p, each.n, each.df, 1.0)
        false += bool({"ahead", "behind"} & set(told))
    assert false / 400 < 0.09


def test_verdicts_need_enough_students() -> None:
    told = verdicts(
        np.array([-9.0, -9.0]), np.array([-12.0, -12.0]), np.array([-6.0, -6.0]),
        np.array([1e-6, 1e-6]), np.array([19, 20]), np.array([18.0, 19.0]), 10.0,
    )  # fmt: skip
    assert told == ["few", "behind"]
