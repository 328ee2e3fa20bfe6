"""What may be said: discoveries, sizes, missing data, sensitivity, years."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats
from statsmodels.stats.multitest import multipletests
from tests.effort import seeds

from bridge_chart.core.trust.discoveries import discoveries, holm
from bridge_chart.core.trust.missing import (
    coverage,
    floor_and_ceiling,
    missing_priors,
    share_bounds,
)
from bridge_chart.core.trust.sensitivity import sensitivity, several_years
from bridge_chart.core.trust.sizes import practical_size
from bridge_chart.core.trust.verdicts import Judging, firmness, verdicts, verdicts_together

PUBLISHED = np.array(
    [.0001, .0004, .0019, .0095, .0201, .0278, .0298, .0344, .0459, .3240, .4262, .5719, .6528,
     .7590, 1]
)  # fmt: skip


def test_published_p_values() -> None:
    assert int(discoveries(PUBLISHED).sum()) == 4
    assert int(discoveries(PUBLISHED, any_dependence=True).sum()) == 3
    assert int((holm(PUBLISHED) <= 0.05).sum()) == 3
    assert int((PUBLISHED * 15 <= 0.05).sum()) == 3  # Bonferroni


@pytest.mark.parametrize("seed", seeds(5))
def test_corrections_agree_with_a_general_library(seed: int) -> None:
    p = np.random.default_rng(seed).random(40) ** 3
    np.testing.assert_array_equal(discoveries(p), multipletests(p, method="fdr_bh")[0])
    np.testing.assert_array_equal(
        discoveries(p, any_dependence=True), multipletests(p, method="fdr_by")[0]
    )
    np.testing.assert_allclose(holm(p), multipletests(p, method="holm")[1], rtol=1e-12)


def test_untested_comparisons_do_not_count() -> None:
    padded = np.concatenate([PUBLISHED, np.full(30, np.nan)])
    np.testing.assert_array_equal(discoveries(padded)[:15], discoveries(PUBLISHED))
    assert not discoveries(padded)[15:].any()
    assert np.isnan(holm(padded)[15:]).all()
    assert not discoveries(np.array([])).any()
    with pytest.raises(ValueError, match="0 to 1"):
        discoveries(np.array([1.2]))


def test_low_reliability_is_few_and_middling_is_indicative() -> None:
    args = (np.array([9.0, 9.0]), np.array([5.0, 5]), np.array([13.0, 13]), np.array([1e-6, 1e-6]))
    said = verdicts(*args, np.array([90, 90]), np.array([89.0, 89]), 10.0, np.array([0.49, 0.6]))
    assert said == ["few", "ahead"]
    assert firmness(np.array([0.49, 0.5, 0.69, 0.7, np.nan])) == [
        "few", "indicative", "indicative", "firm", "few",
    ]  # fmt: skip


def test_months_only_where_a_year_is_worth_something() -> None:
    size = practical_size(6.0, 30.0, level_width=20, yearly_gain=12, vertical=True)
    assert (size.sd, size.levels, size.months) == (0.2, 0.3, 5.0)
    flat = practical_size(6.0, 30.0, yearly_gain=4.4, vertical=True)  # .147 sd a year
    assert np.isnan(flat.months)
    assert "under 0.15" in flat.reason
    assert "not vertical" in practical_size(6.0, 30.0, yearly_gain=12).reason
    assert practical_size(6.0, 30.0, yearly_gain=4.5, vertical=True).months == pytest.approx(40 / 3)
    with pytest.raises(ValueError, match="positive"):
        practical_size(1.0, 0.0)


def test_coverage_of_exactly_ninety_percent_does_not_warn() -> None:
    values = np.ones(30)
    values[[0, 10, 11]] = np.nan
    found = coverage(values, np.repeat([0, 1, 2], 10), 4)
    assert found.low.tolist() == [False, True, False, False]
    assert found.share[:3].tolist() == [0.9, 0.8, 1.0]
    assert np.isnan(found.share[3])


def test_priors_of_the_missing_are_compared_by_welch() -> None:
    rng = np.random.default_rng(1)
    prior, outcome = rng.normal(100, 15, 400), rng.normal(size=400)
    outcome[prior < 95] = np.nan
    found = missing_priors(prior, outcome)
    theirs = stats.ttest_ind(prior[prior >= 95], prior[prior < 95], equal_var=False)
    assert found.difference.value / found.difference.se == pytest.approx(theirs.statistic)
    assert found.difference.p == pytest.approx(theirs.pvalue)
    assert found.warns
    whole = missing_priors(prior, np.ones(400))
    assert not whole.warns
    assert whole.difference.reason


def test_worst_case_bounds_enclose_every_completion() -> None:
    low, high = share_bounds(np.array([30, 0]), np.array([50, 0]), np.array([10, 0]))
    assert (low[0], high[0]) == (30 / 60, 40 / 60)
    assert np.isnan(low[1])
    for reached in range(11):
        assert low[0] <= (30 + reached) / 60 <= high[0]
    with pytest.raises(ValueError, match="0 to n"):
        share_bounds(np.array(3), np.array(2), np.array(0))


def test_floor_and_ceiling_warn_above_a_tenth() -> None:
    values = np.array([0.0] * 1 + [5] * 8 + [10] * 1 + [0] * 2 + [5] * 8)
    found = floor_and_ceiling(values, np.repeat([0, 1], 10), 2, 0, 10)
    assert found.floor.tolist() == [0.1, 0.2]
    assert found.floor_warns.tolist() == [False, True]
    assert found.ceiling_warns.tolist() == [False, False]
    with pytest.raises(ValueError, match="must lie in"):
        floor_and_ceiling(np.array([11.0]), np.zeros(1, int), 1, 0, 10)


def test_a_verdict_flips_between_kinds_only_and_few_has_no_opinion() -> None:
    found = sensitivity(
        {"a": np.array([1.0, 2, np.nan]), "b": np.array([3.0, -2, np.nan])},
        {"a": ["ahead", "unclear", "few"], "b": ["few", "alike", "few"]},
    )
    assert found.flips.tolist() == [False, False, False]
    assert found.highest_model == ["b", "a", ""]
    turned = sensitivity({"a": np.ones(1), "b": -np.ones(1)}, {"a": ["ahead"], "b": ["unclear"]})
    assert turned.flips.tolist() == [True]
    with pytest.raises(ValueError, match="same models"):
        sensitivity({"a": np.ones(1)}, {"b": ["ahead"]})


def test_several_years_by_hand_and_with_no_change_but_error() -> None:
    one = several_years(
        np.array([[1.0, 3, 2]]), np.full((1, 3), 0.1), np.array([[100.0, 100, 200]])
    )
    assert one.mean[0] == 2.0
    between2 = (2 - 3 * 0.01 * (1 - 1 / 3)) / 2  # Σ(m − m̄)² = 2, less the errors' part, over 2
    assert one.between**2 == pytest.approx(between2)
    weights = np.array([0.25, 0.25, 0.5])
    assert one.se[0] ** 2 == pytest.approx(float(np.sum(weights**2) * (0.01 + between2)))
    reach = stats.t.ppf(0.975, 2) * one.se[0]
    assert one.high[0] == pytest.approx(2 + reach)
    rng = np.random.default_rng(3)
    steady = rng.normal(0, 5, 800)[:, None] + rng.normal(0, 1, (800, 3))
    assert several_years(steady, np.ones((800, 3)), np.ones((800, 3))).between < 0.2
    moving = steady + rng.normal(0, 2, (800, 3))
    found = several_years(moving, np.ones((800, 3)), np.ones((800, 3)))
    assert found.between == pytest.approx(2, rel=0.05)
    alone = several_years(np.array([[1.0, np.nan]]), np.ones((1, 2)), np.ones((1, 2)))
    assert alone.mean[0] == 1.0
    assert np.isnan(alone.se[0])


def test_several_measures_are_one_family() -> None:
    """As if their rows stood in one list; what may not be judged has no part in it."""
    rng = np.random.default_rng(8)

    def some(rows: int, sd: float, *, may_judge: bool = True) -> Judging:
        span, se = rng.normal(0, 3, rows), rng.uniform(0.5, 2, rows)
        p = 2 * stats.norm.sf(np.abs(span / se))
        n = rng.integers(5, 90, rows)
        return Judging(span, span, span - 1.96 * se, span + 1.96 * se, p, n, n - 1.0, sd,
                       may_judge=may_judge)  # fmt: skip

    one, other, unjudged = some(12, 10.0), some(7, 4.0), some(3, 10.0, may_judge=False)
    told = verdicts_together([one, unjudged, other])
    enough = np.concatenate([one.n, other.n]) >= 20
    p = np.where(enough, np.concatenate([one.p, other.p]), np.nan)
    marked = [verdict in ("ahead", "behind") for part in (0, 2) for verdict in told[part].verdicts]
    assert marked == discoveries(p).tolist()
    assert sum(marked) > 0
    assert told[1].verdicts == ["none"] * 3
    assert verdicts_together([unjudged])[0].verdicts == ["none"] * 3


def test_a_family_is_larger_than_what_is_shown() -> None:
    """A row has one verdict, whoever looks at how many others."""
    rng = np.random.default_rng(4)
    span = np.concatenate([[4.0, 3.1, 2.4], rng.normal(size=37)])
    p, n = 2 * stats.norm.sf(np.abs(span)), np.full(40, 50)
    every = Judging(span, span, span - 1.96, span + 1.96, p, n, n - 1.0, 10.0)
    told = verdicts_together([every])[0].verdicts
    for some in (np.arange(3), np.arange(1, 2), np.arange(10, 20)):
        part = Judging(span[some], span[some], span[some] - 1.96, span[some] + 1.96, p[some],
                       n[some], n[some] - 1.0, 10.0, family=p)  # fmt: skip
        assert verdicts_together([part])[0].verdicts == [told[k] for k in some]


def test_a_mark_must_hold_under_the_other_assumptions_too() -> None:
    one = np.ones(3)
    span, p = 3 * one, 0.001 * one
    again = np.array([[2.5, 2.5, -1.0], [2.0, 0.5, 2.0]])
    p_again = np.array([[0.01, 0.01, 0.3], [0.012, 0.6, 0.01]])
    told = verdicts_together([
        Judging(span, span, span - 1, span + 1, p, np.full(3, 50), 49 * one, 10.0, again=again,
                p_again=p_again)
    ])[0]  # fmt: skip
    assert told.verdicts == ["ahead", "unclear", "unclear"]
    assert told.shaken.tolist() == [False, True, True]


def test_thirty_measures_of_nothing_are_called_different_as_often_as_is_said() -> None:
    """Each measure alone would give one in twenty: four times in five some would stand."""
    rng = np.random.default_rng(9)
    claimed = 0
    for _ in range(300):
        z = rng.normal(size=30)
        p, se = 2 * stats.norm.sf(np.abs(z)), np.ones(1)
        rows = [
            Judging(one, one, one - 1.96 * se, one + 1.96 * se, p[k : k + 1], np.array([80]),
                    np.array([79.0]), 10.0)
            for k, one in enumerate(z[:, None])
        ]  # fmt: skip
        told = verdicts_together(rows)
        claimed += any(one.verdicts[0] in ("ahead", "behind") for one in told)
    assert 4 <= claimed <= 29  # 15 are expected, with an sd of 3.8
