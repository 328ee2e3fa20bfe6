"""Levels, distributions, clustered figures: by hand, by definition, against general libraries."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
import statsmodels.api as sm
from hypothesis import given, settings
from hypothesis import strategies as st
from statsmodels.stats.proportion import proportion_confint
from tests.core.reference.brute import cr2
from tests.effort import examples

from bridge_chart.core.describing.clustered import (
    clustered_means,
    clustered_regression,
)
from bridge_chart.core.describing.densest import densest_half
from bridge_chart.core.describing.describe import describe, quantiles
from bridge_chart.core.describing.distribution import at_or_above, bin_edges, histogram
from bridge_chart.core.describing.levels import half_levels_of, level_shares, levels_of


def test_quantiles_agree_with_pandas_and_median_of_describe() -> None:
    rng = np.random.default_rng(2)
    values = rng.integers(0, 30, 2000).astype(float)
    values[::9] = np.nan
    codes = rng.integers(-1, 12, 2000)
    ours = quantiles(values, codes, 13, (0.0, 0.05, 0.5, 0.9, 1.0))
    theirs = pd.DataFrame({"c": codes, "v": values})[codes >= 0].groupby("c")["v"]
    for k, share in enumerate((0.0, 0.05, 0.5, 0.9, 1.0)):
        np.testing.assert_allclose(ours[:12, k], theirs.quantile(share), rtol=1e-12)
    np.testing.assert_array_equal(ours[:, 2], describe(values, codes, 13).median)
    assert np.isnan(ours[12]).all()
    with pytest.raises(ValueError, match="0 to 1"):
        quantiles(values, codes, 13, (1.2,))


def test_level_shares_by_hand_and_against_pandas() -> None:
    rng = np.random.default_rng(3)
    level, codes = rng.integers(-1, 5, 900), rng.integers(-1, 6, 900)
    ours = level_shares(level, codes, 6, 5)
    held = (level >= 0) & (codes >= 0)
    theirs = pd.crosstab(codes[held], level[held]).to_numpy()
    np.testing.assert_array_equal(ours.counts, theirs)
    np.testing.assert_array_equal(ours.n + ours.missing, np.bincount(codes[codes >= 0]))
    np.testing.assert_allclose(ours.at_or_above[:, 0], 1.0)
    np.testing.assert_allclose(ours.at_or_above[:, 3], theirs[:, 3:].sum(axis=1) / ours.n)
    low, high = proportion_confint(theirs[2, 1], ours.n[2], method="wilson")
    assert (ours.low[2, 1], ours.high[2, 1]) == pytest.approx((low, high), abs=1e-12)
    empty = level_shares(np.array([-1]), np.array([0]), 1, 3)
    assert np.isnan(empty.share).all()
    assert empty.missing[0] == 1


def test_cuts_belong_to_the_level_above_and_halves_split_at_the_middle() -> None:
    cuts = np.array([100.0, 120.0, 150.0])
    scores = np.array([99.999, 100, 119.5, 120, 150, 200, np.nan])
    assert levels_of(scores, cuts).tolist() == [0, 1, 1, 2, 3, 3, -1]
    halves = half_levels_of(scores, cuts, 60, 200)
    assert halves.tolist() == [1, 2, 3, 4, 6, 7, -1]
    np.testing.assert_array_equal(np.where(halves < 0, -1, halves // 2), levels_of(scores, cuts))
    with pytest.raises(ValueError, match="rise"):
        levels_of(scores, np.array([120.0, 100.0]))
    with pytest.raises(ValueError, match="enclose"):
        half_levels_of(scores, cuts, 100, 200)


def test_share_at_or_above_steps_down_after_each_score() -> None:
    values = np.array([1.0, 2, 2, 3])
    found = at_or_above(values, np.zeros(4, int), 1, np.array([1, 2, 2.1, 3, 3.5]))
    assert found.share[0].tolist() == [1.0, 0.75, 0.25, 0.25, 0.0]
    every = at_or_above(values, np.zeros(4, int), 1)
    assert every.at.tolist() == [1, 2, 3]


@settings(max_examples=examples(50), deadline=None)
@given(st.lists(st.tuples(st.integers(0, 2), st.integers(-20, 20)), min_size=1, max_size=80))
def test_share_at_or_above_is_the_definition(rows: list[tuple[int, int]]) -> None:
    codes, values = np.array([r[0] for r in rows]), np.array([r[1] for r in rows], float)
    found = at_or_above(values, codes, 3)
    for g in range(3):
        mine = values[codes == g]
        for k, x in enumerate(found.at):
            if len(mine):
                assert found.share[g, k] == np.mean(mine >= x)
            else:
                assert np.isnan(found.share[g, k])


def test_bins_hold_equally_many_marks_and_lose_nobody() -> None:
    rng = np.random.default_rng(1)
    marks = np.clip(rng.normal(60, 20, 3000).round(), 0, 120)
    edges = bin_edges(marks, "steps")
    assert len(set(np.diff(edges))) == 1
    assert float(np.diff(edges)[0]).is_integer()
    assert (edges % 1 == 0.5).all()
    codes = rng.integers(0, 3, 3000)
    made = histogram(marks, codes, 3, edges)
    assert made.density is None
    assert made.counts.sum() == 3000
    for g in range(3):
        np.testing.assert_array_equal(made.counts[g], np.histogram(marks[codes == g], edges)[0])
    halves = bin_edges(np.array([2.0, 2.5, 4]), "steps", 0.5)
    assert halves.tolist() == [1.75, 2.25, 2.75, 3.25, 3.75, 4.25]


def test_continuous_bins_are_round_and_density_has_area_one() -> None:
    values = np.random.default_rng(4).normal(0, 1, 5000)
    edges = bin_edges(values, "continuous")
    made = histogram(values, np.zeros(5000, int), 1, edges, "continuous")
    assert made.density is not None
    assert float(np.sum(made.density[0] * np.diff(edges))) == pytest.approx(1.0)
    np.testing.assert_allclose(made.density[0], np.histogram(values, edges, density=True)[0])
    assert bin_edges(np.full(9, 3.0), "continuous").tolist() == [1.5, 4.5]
    assert bin_edges(np.array([np.nan]), "steps").tolist() == [0.0, 1.0]
    with pytest.raises(ValueError, match="within the edges"):
        histogram(np.array([9.0]), np.zeros(1, int), 1, np.array([0.0, 1.0]))
    with pytest.raises(ValueError, match="positive"):
        bin_edges(values, "steps", 0)


@pytest.mark.parametrize("seed", [0, 1, 2])
def test_clustered_regression_agrees_with_dense_matrices(seed: int) -> None:
    rng = np.random.default_rng(seed)
    clusters = rng.integers(0, 9, 120)
    x = np.column_stack([np.ones(120), rng.normal(size=120), rng.random(120) < 0.3]).astype(float)
    y = x @ [1, 2, -1] + rng.normal(size=9)[clusters] + rng.normal(size=120)
    ours = clustered_regression(y, x, clusters, 9)
    for k in range(3):
        beta, se, df = cr2(y, x, clusters, np.eye(3)[k])
        assert ours.coefficient[k] == pytest.approx(beta, rel=1e-10)
        assert ours.se[k] == pytest.approx(se, rel=1e-8)
        assert ours.df[k] == pytest.approx(df, rel=1e-8)
    _, se, _ = cr2(y, x, clusters, np.array([1.0, 2.0, 3.0]))
    assert np.array([1, 2, 3]) @ ours.covariance @ [1, 2, 3] == pytest.approx(se**2, rel=1e-8)
    plain = sm.OLS(y, x).fit()
    np.testing.assert_allclose(ours.coefficient, plain.params, rtol=1e-10)


def test_a_column_within_one_cluster_takes_the_pseudo_inverse() -> None:
    rng = np.random.default_rng(5)
    clusters = np.repeat(np.arange(6), 10)
    x = np.column_stack([np.ones(60), clusters == 0]).astype(float)
    ours = clustered_regression(rng.normal(size=60), x, clusters, 6)
    assert np.isfinite(ours.se).all()
    with pytest.raises(ValueError, match="depend"):
        clustered_regression(np.arange(60.0), np.ones((60, 2)), clusters, 6)


def test_as_many_clusters_as_students_gives_the_plain_mean() -> None:
    rng = np.random.default_rng(6)
    y, codes = rng.normal(size=5000), rng.integers(0, 4, 5000)
    ours = clustered_means(y, codes, 4, np.arange(5000), 5000)
    for g in range(4):
        mine = y[codes == g]
        assert ours.se[g] == pytest.approx(mine.std(ddof=1) / np.sqrt(len(mine)), rel=1e-10)
        assert ours.df[g] == pytest.approx(len(mine) - 1, rel=1e-9)


def test_students_with_several_rows_count_once() -> None:
    rng = np.random.default_rng(7)
    student = np.repeat(np.arange(300), 3)
    y = np.repeat(rng.normal(size=300), 3)  # three rows that say the same
    ours = clustered_means(y, np.zeros(900, int), 1, student, 300)
    once = y[::3]
    assert ours.se[0] == pytest.approx(once.std(ddof=1) / np.sqrt(300), rel=1e-9)
    _, se, df = cr2(y[:60], np.ones((60, 1)), student[:60], np.ones(1))
    part = clustered_means(y[:60], np.zeros(60, int), 1, student[:60], 20)
    assert part.se[0] == pytest.approx(se, rel=1e-9)
    assert part.df[0] == pytest.approx(df, rel=1e-8)


def test_the_closest_half_of_a_normal_cloud_is_the_circle_that_theory_gives() -> None:
    """Half of two independent normals lies within a circle of √(2 ln 2) standard deviations."""
    x, y = np.random.default_rng(8).normal(0, 1, (2, 40_000))
    edges = np.linspace(-5, 5, 81)
    cells = densest_half(x, y, edges, edges)
    middle = (edges[:-1] + edges[1:]) / 2
    away = np.hypot(*np.meshgrid(middle, middle, indexing="ij"))
    radius = np.sqrt(2 * np.log(2))
    assert cells[away < radius - 0.15].all()
    assert not cells[away > radius + 0.15].any()
    assert densest_half(x[:0], y[:0], edges, edges).sum() == 0
    with pytest.raises(ValueError, match="share must be"):
        densest_half(x, y, edges, edges, 0.0)
