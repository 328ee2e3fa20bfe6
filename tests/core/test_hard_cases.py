"""What real and unreal districts throw at the core: size, ties, emptiness, constants, float32."""

from __future__ import annotations

import numpy as np
import pytest

from bridge_chart.core.describing.describe import describe, moments
from bridge_chart.core.describing.sorted_once import describe_sorted, sort_once
from bridge_chart.core.expected.cells import equal_prior_means
from bridge_chart.core.expected.regression import expected_outcome
from bridge_chart.core.gaps.level_gap import level_gap
from bridge_chart.core.gaps.superiority import superiority
from bridge_chart.core.growth.percentiles import growth_of_groups, growth_percentiles
from bridge_chart.core.trust.chance import heterogeneity
from bridge_chart.core.trust.verdicts import verdicts
from bridge_chart.core.value_added.multilevel import multilevel
from bridge_chart.core.value_added.ranks import better_and_worse, rank_intervals
from bridge_chart.core.value_added.simple import simple_effects


def test_ten_million_rows() -> None:
    rng = np.random.default_rng(1)
    values = rng.integers(100, 400, 10_000_000).astype(np.float32)
    codes = rng.integers(0, 400, 10_000_000).astype(np.int16)
    plain = moments(values, codes, 400)
    kept = describe_sorted(sort_once(values, codes, 400))
    np.testing.assert_array_equal(kept.n, plain.n)
    np.testing.assert_allclose(kept.mean, plain.mean, rtol=1e-12)
    np.testing.assert_allclose(kept.sd, plain.sd, rtol=1e-9)
    mine = np.sort(values[codes == 17])
    assert kept.median[17] == np.median(mine)
    assert plain.n.sum() == 10_000_000


@pytest.fixture
def lonely() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """2,000 groups, most of a single student, one without any score."""
    rng = np.random.default_rng(2)
    size = np.where(rng.random(2000) < 0.7, 1, rng.integers(2, 40, 2000))
    codes = np.repeat(np.arange(2000), size)
    prior = rng.integers(0, 70, len(codes)).astype(float)
    outcome = np.round(0.8 * prior + rng.normal(0, 2, 2000)[codes] + rng.normal(0, 7, len(codes)))
    outcome[codes == 1999] = np.nan
    return outcome, prior, codes


def test_two_thousand_groups_of_which_many_are_one_student(lonely) -> None:
    outcome, prior, codes = lonely
    e = expected_outcome(outcome, prior)
    s = simple_effects(e.residual, codes, 2000, prior)
    single = s.n == 1
    assert single.sum() > 1000
    assert np.isnan(s.se[single]).all()
    assert np.isfinite(s.mean[single]).all()
    said = verdicts(s.mean, s.low, s.high, s.p, s.n, s.df, 10.0)
    assert {v for v, few in zip(said, s.n < 20, strict=True) if few} == {"few"}
    assert said[1999] == "few"
    assert np.isfinite(heterogeneity(s.mean, s.se).q)
    m = multilevel(outcome, prior[:, None], codes, 2000)
    assert m.converged
    small, large = m.classes.reliability[single], m.classes.reliability[s.n > 30]
    assert small.max() < large.min()
    assert np.nanmax(np.abs(m.classes.estimate[single])) < np.nanmax(np.abs(m.classes.raw[single]))
    ranks = rank_intervals(m.classes, draws=200)
    assert np.isnan(ranks.low[1999])
    assert np.nanmax(ranks.high) <= 2000
    pairs = better_and_worse(s.mean[s.n > 20], s.se[s.n > 20], s.df[s.n > 20])
    assert (pairs.low <= pairs.high).all()


def test_a_prior_with_seventy_values_and_an_outcome_of_six_grades(lonely) -> None:
    outcome, prior, codes = lonely
    cells = equal_prior_means(outcome, prior)
    assert (cells.n >= 30).all()
    assert len(np.unique(cells.expected[~np.isnan(cells.expected)])) <= 70
    grade = np.digitize(outcome, np.nanquantile(outcome, [0.1, 0.3, 0.5, 0.7, 0.9])).astype(float)
    grade[np.isnan(outcome)] = np.nan
    found = growth_percentiles(grade, prior)
    assert found.method == "mid-ranks"
    assert np.nanmean(found.percentile) == pytest.approx(50, abs=0.5)
    groups = growth_of_groups(found.percentile, codes, 2000)
    assert groups.n[1999] == 0
    assert np.isnan(groups.median[1999])


def test_everybody_has_the_same_score() -> None:
    same, codes = np.full(90, 7.0), np.repeat([0, 1, 2], 30)
    d = describe(same, codes, 3)
    assert d.sd.tolist() == [0, 0, 0]
    assert (d.low == 7).all()
    assert (d.q1 == 7).all()
    assert superiority(same[:30], same[30:]).probability == 0.5
    assert expected_outcome(same, np.arange(90.0)).residual == pytest.approx(np.zeros(90))
    assert growth_percentiles(np.full(300, 7.0), np.arange(300.0)).reason
    with pytest.raises(ValueError, match="must vary"):
        multilevel(same, np.empty((90, 0)), codes, 3)
    assert level_gap(np.array([30, 30]), np.array([15, 15])).v == pytest.approx(0, abs=1e-12)


def test_nobody_at_all() -> None:
    nobody, codes = np.empty(0), np.empty(0, np.int64)
    assert describe(nobody, codes, 2).n.tolist() == [0, 0]
    assert describe_sorted(sort_once(nobody, codes, 2)).n.tolist() == [0, 0]
    assert expected_outcome(nobody, nobody).fits == ()
    assert growth_percentiles(nobody, nobody).method == "refused"
    assert np.isnan(simple_effects(nobody, codes, 1).mean[0])
