"""Standing in the nation: published answers, general libraries, what must be refused."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import numpy as np
import pytest
from scipy import stats
from statsmodels.stats.proportion import confint_proportions_2indep, proportion_confint

from bridge_chart.core.norms.standing import (
    combined_forms,
    group_against_nation,
    levels_against_nation,
    normal_curve_equivalent,
    three_ranks,
)
from bridge_chart.core.norms.tables import (
    ReferenceTable,
    newest_table,
    percentile_rank,
    z_scores,
)

TABLE = ReferenceTable(
    "spring A, year 8", "spring", "A", 8, date(2026, 5, 1), True, mean=100, sd=15, n=12_000,
    scores=(70.0, 90, 100, 110, 130), percentile_ranks=(2.0, 25, 50, 75, 99.8),
    level_shares=(0.2, 0.5, 0.3),
)  # fmt: skip


def test_even_scale_of_the_published_ranks() -> None:
    ranks = np.array([1.0, 10, 25, 75, 90, 99])
    published = [1, 23.0066, 35.7932, 64.2068, 76.9934, 99]
    np.testing.assert_allclose(normal_curve_equivalent(ranks), published, atol=5e-5)
    with pytest.raises(ValueError, match="between 0 and 100"):
        normal_curve_equivalent(np.array([100.0]))


def test_ranks_are_linear_between_entries_and_kept_in_1_to_99() -> None:
    found = percentile_rank(np.array([60.0, 80, 95, 110, 129.9, 140, np.nan]), TABLE)
    np.testing.assert_allclose(found[:4], [2.0, 13.5, 37.5, 75.0])
    assert found[4] == 99.0
    assert found[5] == 99.0
    assert np.isnan(found[6])
    low = replace(TABLE, percentile_ranks=(0.2, 25, 50, 75, 99.8))
    assert percentile_rank(np.array([60.0]), low)[0] == 1.0


def test_the_newest_table_for_that_form_and_year_is_used_and_no_other() -> None:
    newer = replace(TABLE, name="newer", published=date(2026, 6, 1))
    final = replace(newer, name="final", provisional=False)
    other = replace(TABLE, name="other form", form="B", published=date(2026, 9, 1))
    tables = [TABLE, newer, final, other]
    found = newest_table(tables, "spring", "A", 8)
    assert found is not None
    assert found.name == "final"
    then = newest_table(tables, "spring", "A", 8, known_on=date(2026, 5, 20))
    assert then is TABLE
    assert newest_table(tables, "spring", "A", 9) is None
    assert newest_table(tables, "autumn", "A", 8) is None


def test_tables_that_cannot_be_right_are_refused() -> None:
    for wrong, said in (
        ({"scores": (1.0, 1.0, 2, 3, 4)}, "rise"),
        ({"percentile_ranks": (50.0, 25, 26, 27, 28)}, "fall"),
        ({"percentile_ranks": (0.0, 25, 50, 75, 101)}, "0 to 100"),
        ({"scores": (1.0, 2)}, "one percentile rank"),
        ({"level_shares": (0.5, 0.2)}, "add up"),
        ({"sd": 0.0}, "positive"),
    ):
        with pytest.raises(ValueError, match=said):
            replace(TABLE, **wrong)
    bare = ReferenceTable("bare", "s", "A", 8, date(2026, 1, 1), False)
    for call in (
        lambda: percentile_rank(np.ones(1), bare),
        lambda: z_scores(np.ones(1), bare),
        lambda: group_against_nation(np.ones(3), bare),
    ):
        with pytest.raises(ValueError, match="has no"):
            call()


def test_group_against_nation_by_hand_and_against_scipy() -> None:
    values = np.array([110.0, 104, 98, 112, np.nan, 120])
    held = values[~np.isnan(values)]
    found = group_against_nation(values, TABLE)
    se = np.sqrt(held.var(ddof=1) / 5 + 15**2 / 12_000)
    assert (found.difference.value, found.difference.se) == pytest.approx((held.mean() - 100, se))
    assert found.difference.low == pytest.approx(held.mean() - 100 - stats.t.ppf(0.975, 4) * se)
    assert found.effect == pytest.approx((held.mean() - 100) / 15)
    assert (found.difference.n, found.difference.missing) == (5, 1)
    known = group_against_nation(values, replace(TABLE, n=float("nan")))
    theirs = stats.ttest_1samp(held, 100)
    assert known.difference.p == pytest.approx(theirs.pvalue)
    assert group_against_nation(values[:1], TABLE).difference.reason


def test_three_ranks_are_three_things() -> None:
    values = np.array([70.0, 130])
    schools = replace(
        TABLE, name="schools", scores=(90.0, 100, 110), percentile_ranks=(5.0, 60, 95)
    )
    found = three_ranks(values, TABLE, schools)
    assert found.rank_of_mean_among_students == 50
    assert found.mean_of_students_ranks == pytest.approx((2 + 99) / 2)
    assert found.rank_among_group_means == 60
    assert three_ranks(np.array([np.nan]), TABLE).n == 0


def test_level_shares_against_a_known_and_an_exact_nation() -> None:
    counts = np.array([30, 50, 40])
    found = levels_against_nation(counts, TABLE)
    for k, share in enumerate((0.2, 0.5, 0.3)):
        theirs = confint_proportions_2indep(
            counts[k], 120, round(share * 12_000), 12_000, method="newcomb", compare="diff"
        )
        assert (found.low[k], found.high[k]) == pytest.approx(theirs)
    chi = stats.chisquare(counts, 120 * np.array([0.2, 0.5, 0.3]))
    assert (found.chi_square, found.p) == pytest.approx((chi.statistic, chi.pvalue))
    exact = levels_against_nation(counts, replace(TABLE, n=float("nan")))
    low, high = proportion_confint(30, 120, method="wilson")
    assert (exact.low[0], exact.high[0]) == pytest.approx((low - 0.2, high - 0.2))
    assert levels_against_nation(np.array([3, 3, 2]), TABLE).reason
    with pytest.raises(ValueError, match="3 levels"):
        levels_against_nation(np.array([1, 2]), TABLE)


def test_forms_are_never_put_together_on_raw_marks() -> None:
    easy = replace(TABLE, form="A", mean=40.0, sd=8.0)
    hard = replace(TABLE, form="B", mean=30.0, sd=10.0)
    scores, form = np.array([48.0, 40, 40, 55]), np.array([0, 1, -1, 2])
    found = combined_forms(scores, form, [easy, hard, None])
    np.testing.assert_allclose(found, [1.0, 1.0, np.nan, np.nan])
    even = combined_forms(np.array([100.0]), np.array([0]), [TABLE], by="nce")
    assert even[0] == pytest.approx(50)
    with pytest.raises(ValueError, match="z"):
        combined_forms(scores, form, [easy, hard, None], by="marks")
