"""Bands and expected outcomes: by hand, against a general library, and what must not move them."""

from __future__ import annotations

import numpy as np
import pandas as pd
import patsy
import pytest
import statsmodels.api as sm
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.effort import examples

from bridge_chart.core.expected.bands import bands
from bridge_chart.core.expected.cells import equal_prior_means, expected_by_table
from bridge_chart.core.expected.line import fit_linear, influence_of_groups
from bridge_chart.core.expected.regression import expected_outcome, residuals_by_prior


def test_terciles_with_too_many_ties_warn() -> None:
    found = bands(np.array([1.0, 2, 2, 2, 2, 2, 3]))
    assert found.counts == (6, 0, 1, 0)
    assert "middle band is empty" in found.warning


def test_bands_agree_with_pandas_and_leave_the_unknown_apart() -> None:
    rng = np.random.default_rng(1)
    prior = rng.normal(size=500)
    prior[::10] = np.nan
    found = bands(prior)
    q = pd.Series(prior).quantile([1 / 3, 2 / 3]).tolist()
    assert (found.lower_cut, found.upper_cut) == pytest.approx(q)
    theirs = pd.cut(prior, [-np.inf, *q, np.inf], labels=False)
    np.testing.assert_array_equal(found.band, np.where(np.isnan(prior), -1, theirs).astype(int))
    assert sum(found.counts) == 500
    own = bands(prior, cuts=(0.0, 1.0))
    assert own.counts[0] == int((prior <= 0).sum())
    assert bands(np.array([np.nan])).warning
    with pytest.raises(ValueError, match="rise"):
        bands(prior, shares=(0.5, 0.5))


def test_filtering_never_moves_a_band() -> None:
    prior = np.arange(90.0)
    whole = bands(prior)
    some = bands(prior[:20], cuts=(whole.lower_cut, whole.upper_cut))
    np.testing.assert_array_equal(some.band, whole.band[:20])
    basis = np.arange(90) < 60
    assert bands(prior, basis).upper_cut == pytest.approx(np.quantile(np.arange(60), 2 / 3))


def test_nothing_is_guessed_beyond_a_table() -> None:
    starts, outcomes = np.array([80.0, 100, 120]), np.array([90.0, 105, 128])
    found = expected_by_table(np.array([80.0, 90, 120, 121, 79, np.nan]), starts, outcomes)
    np.testing.assert_allclose(found.expected, [90, 97.5, 128, np.nan, np.nan, np.nan])
    assert found.outside == 2
    with pytest.raises(ValueError, match="rise"):
        expected_by_table(np.ones(1), np.array([2.0, 1]), np.ones(2))


def plain_cells(prior: np.ndarray, fewest: int) -> list[list[float]]:
    cells: list[list[float]] = [[]]
    for score in sorted(set(prior.tolist())):
        if len(cells[-1]) >= fewest:
            cells.append([])
        cells[-1] += [score] * int((prior == score).sum())
    if len(cells) > 1 and len(cells[-1]) < fewest:
        short = cells.pop()
        cells[-1] += short
    return cells


@settings(max_examples=examples(60), deadline=None)
@given(st.lists(st.integers(0, 12), min_size=1, max_size=90), st.integers(1, 9))
def test_cells_of_equal_priors_agree_with_the_rule_written_out(
    scores: list[int], fewest: int
) -> None:
    prior = np.array(scores, float)
    outcome = prior * 3 + np.arange(len(prior))
    found = equal_prior_means(outcome, prior, fewest=fewest)
    cells = plain_cells(prior, fewest)
    assert found.n.tolist() == [len(c) for c in cells]
    for k, cell in enumerate(cells):
        mine = np.isin(prior, cell)
        assert found.mean[k] == pytest.approx(outcome[mine].mean())
        np.testing.assert_allclose(found.expected[mine], outcome[mine].mean())


def test_cells_reach_everyone_with_a_prior_and_nobody_else() -> None:
    prior = np.concatenate([np.repeat(np.arange(5.0), 40), [-3, 9, 2.5, np.nan]])
    outcome = np.where(np.arange(204) < 200, prior, np.nan)
    found = equal_prior_means(outcome, prior)
    assert found.cell[200:].tolist() == [0, 4, 3, -1]
    assert equal_prior_means(np.full(3, np.nan), np.ones(3)).expected.shape == (3,)


@pytest.fixture
def district() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    rng = np.random.default_rng(2)
    x = rng.normal(250, 30, (1500, 2)).round()
    y = 30 + 0.5 * x[:, 0] + 0.3 * x[:, 1] + 1e-5 * (x[:, 0] - 250) ** 3 + rng.normal(0, 12, 1500)
    z = (rng.random((1500, 1)) < 0.4).astype(float)
    return y, x, z


@pytest.mark.parametrize("form", ["linear", "cubic", "spline"])
def test_regression_agrees_with_a_general_library(district, form: str) -> None:
    y, x, z = district
    found = expected_outcome(y, x, form=form, covariates=z)
    parts = [np.ones((1500, 1))]
    for k in range(2):
        s = (x[:, k] - x[:, k].mean()) / x[:, k].std(ddof=1)
        if form == "spline":
            knots = np.quantile(s, [0.05, 0.275, 0.5, 0.725, 0.95])
            spline = patsy.cr(s, knots=knots[1:-1], lower_bound=knots[0], upper_bound=knots[-1])
            parts.append(np.asarray(spline)[:, 1:])
        else:
            parts.append(np.column_stack([s**p for p in range(1, 4 if form == "cubic" else 2)]))
    theirs = sm.OLS(y, np.hstack([*parts, z])).fit()
    fit = found.fits[0]
    assert (fit.n, fit.r_squared) == (1500, pytest.approx(theirs.rsquared, rel=1e-8))
    assert fit.residual_sd == pytest.approx(np.sqrt(theirs.mse_resid), rel=1e-8)
    np.testing.assert_allclose(found.residual, theirs.resid, atol=1e-6)
    error = theirs.get_prediction().summary_frame()["mean_se"].to_numpy()
    np.testing.assert_allclose(
        found.prediction_error, np.sqrt(error**2 + theirs.mse_resid), rtol=1e-7
    )


def test_one_line_is_the_same_as_the_fast_one(district) -> None:
    y, x, _ = district
    strata = np.arange(1500) % 3
    slow = expected_outcome(y, x[:, 0], strata=strata)
    fast = fit_linear(y, x[:, 0], strata, 3, np.ones(1500, bool))
    np.testing.assert_allclose(slow.expected, fast.expected, rtol=1e-10)
    for fit in slow.fits:
        assert fit.residual_sd == pytest.approx(fast.residual_sd[fit.stratum])


def test_each_pattern_of_priors_is_held_against_everyone_with_these(district) -> None:
    y, x, _ = district
    x = x.copy()
    x[:300, 1] = np.nan
    x[300:310] = np.nan
    found = expected_outcome(y, x)
    assert {f.priors: f.n for f in found.fits} == {(0,): 1490, (0, 1): 1190}
    one = expected_outcome(y, x[:, 0])
    np.testing.assert_allclose(found.expected[:300], one.expected[:300])
    assert np.isnan(found.expected[300:310]).all()
    both = expected_outcome(y[310:], x[310:])
    np.testing.assert_allclose(found.expected[310:], both.expected)


def test_who_is_looked_at_never_moves_an_expectation(district) -> None:
    y, x, _ = district
    basis = np.arange(1500) < 1200
    found = expected_outcome(y, x, basis=basis, form="spline")
    alone = expected_outcome(np.where(basis, y, np.nan), x, form="spline")
    np.testing.assert_allclose(found.expected, alone.expected)
    moved = y.copy()
    moved[1200:] += 50  # outside the basis: nobody's expectation changes
    again = expected_outcome(moved, x, basis=basis, form="spline")
    np.testing.assert_array_equal(again.expected, found.expected)


def test_order_unit_and_far_away_scores(district) -> None:
    y, x, z = district
    turned = np.random.default_rng(0).permutation(1500)
    one = expected_outcome(y, x, form="cubic", covariates=z)
    other = expected_outcome(
        y[turned] * 10 + 1e6, x[turned] * 3 + 1e5, form="cubic", covariates=z[turned]
    )
    np.testing.assert_allclose(other.residual, 10 * one.residual[turned], atol=1e-4)


def test_degenerate_priors_are_named_and_dropped() -> None:
    rng = np.random.default_rng(3)
    y, x = rng.normal(size=300), rng.normal(size=300)
    found = expected_outcome(y, np.column_stack([x, np.full(300, 7.0)]))
    assert found.fits[0].dropped == (1,)
    np.testing.assert_allclose(found.expected, expected_outcome(y, x).expected)
    twice = expected_outcome(y, np.column_stack([x, 2 * x]))
    np.testing.assert_allclose(twice.expected, expected_outcome(y, x).expected, atol=1e-9)
    assert np.isnan(twice.fits[0].coefficients[1:]).all()
    few = expected_outcome(y[:19], x[:19])
    assert few.fits[0].reason == "too few students"
    assert np.isnan(few.expected).all()
    same = expected_outcome(y, np.full(300, 2.0))
    assert same.fits[0].reason == "the prior does not vary"
    binary = expected_outcome(y, (x > 0).astype(float), form="cubic")
    assert binary.fits[0].forms[0].form == "linear"
    single = expected_outcome(y.astype(np.float32), x.astype(np.float32))
    np.testing.assert_allclose(single.expected, expected_outcome(y, x).expected, atol=1e-5)
    with pytest.raises(ValueError, match="one row per student"):
        expected_outcome(y, x[:5])
    with pytest.raises(ValueError, match="form must be"):
        expected_outcome(y, x, form="square")


def test_residuals_by_tenth_show_the_wrong_form() -> None:
    rng = np.random.default_rng(4)
    x = rng.normal(size=4000)
    y = x**2 + rng.normal(0, 0.1, 4000)
    wrong = residuals_by_prior(expected_outcome(y, x).residual, x)
    right = residuals_by_prior(expected_outcome(y, x, form="spline").residual, x)
    assert wrong.n.tolist() == [400] * 10
    assert np.ptp(wrong.mean_residual) > 5 * np.ptp(right.mean_residual)
    assert residuals_by_prior(np.zeros(40), np.repeat([1.0, 2], 20)).n.sum() == 40


def test_influence_of_groups_is_what_fitting_without_each_gives() -> None:
    rng = np.random.default_rng(5)
    x, codes = rng.normal(250, 30, 400), rng.integers(-1, 6, 400)
    y = 20 + 0.9 * x + 8 * (codes == 2) * (x - 240) / 30 + rng.normal(0, 9, 400)
    x[3], y[4] = np.nan, np.nan
    codes[codes == 5] = 4
    found = influence_of_groups(y, x, codes, 6)
    used = ~np.isnan(x) & ~np.isnan(y)
    whole = np.polyfit(x[used], y[used], 1)
    for g in range(5):
        rest, mine = used & (codes != g), used & (codes == g)
        line = np.polyfit(x[rest], y[rest], 1)
        assert found.slope[g] == pytest.approx(line[0])
        moved = np.mean(np.polyval(whole, x[mine]) - np.polyval(line, x[mine]))
        assert found.moved[g] == pytest.approx(moved)
    assert np.isnan(found.slope[5])
    alone = influence_of_groups(y[used], x[used], np.zeros(int(used.sum()), int), 1)
    assert np.isnan(alone.slope[0])
    with pytest.raises(ValueError, match="one shape"):
        influence_of_groups(y, x[:3], codes, 6)
