"""Inside a test: published figures, general libraries, simulated questions."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from scipy import stats
from statsmodels.stats.contingency_tables import StratifiedTable
from statsmodels.stats.proportion import proportion_confint

from bridge_chart.core.items.functioning import differential_functioning, merged_strata
from bridge_chart.core.items.marks import mark_sheet
from bridge_chart.core.items.questions import (
    borderline,
    facility,
    grid_order,
    item_rest_correlation,
    option_choice,
)
from bridge_chart.core.items.reliability import cronbach_alpha, strands, weakest_strand

PUBLISHED = mark_sheet(np.array([[1, 1, 1], [1, 1, 0], [1, 0, 0], [0, 0, 0]]), np.ones(3))


def simulated(seed: int, n: int = 900, questions: int = 20, harder: dict[int, float] | None = None):
    """Right or wrong answers of two groups of unequal ability; some questions harder for one."""
    rng = np.random.default_rng(seed)
    focal = (rng.random(n) < 0.4).astype(int)
    ability = rng.normal(size=n) - 0.5 * focal
    hard = np.linspace(-1.2, 1.2, questions)[None, :] + np.zeros((n, questions))
    for q, more in (harder or {}).items():
        hard[:, q] += more * focal
    p = 1 / (1 + np.exp(-1.5 * (ability[:, None] - hard)))
    return mark_sheet((rng.random((n, questions)) < p).astype(int), np.ones(questions)), focal


def test_omitted_is_nothing_and_not_reached_is_missing() -> None:
    sheet = mark_sheet(np.array([[2, -1, -2], [1, 3, np.nan]]), np.array([2.0, 4, 1]))
    assert sheet.omitted.tolist() == [0, 1, 0]
    assert sheet.not_reached.tolist() == [0, 0, 2]
    found = facility(sheet, np.zeros(2, int), 1)
    assert found.facility[0, :2].tolist() == [0.75, 0.375]
    assert found.n[0].tolist() == [2, 2, 0]
    assert np.isnan(found.facility[0, 2])
    for wrong in (5, -3, 2.5):
        with pytest.raises(ValueError, match=r"student 0, question 0 has"):
            mark_sheet(np.array([[wrong]]), np.array([2.0]))
    with pytest.raises(ValueError, match="one maximum"):
        mark_sheet(np.ones((2, 2)), np.array([1.0]))


def test_facility_takes_wilson_for_right_or_wrong_and_t_for_marks() -> None:
    rng = np.random.default_rng(1)
    marks = np.column_stack([rng.integers(0, 2, 60), rng.integers(0, 5, 60)])
    codes = rng.integers(0, 2, 60)
    found = facility(mark_sheet(marks, np.array([1.0, 4])), codes, 2)
    for g in (0, 1):
        mine = marks[codes == g]
        low, high = proportion_confint(mine[:, 0].sum(), len(mine), method="wilson")
        assert (found.low[g, 0], found.high[g, 0]) == pytest.approx((low, high))
        theirs = stats.ttest_1samp(mine[:, 1] / 4, 0).confidence_interval()
        assert (found.low[g, 1], found.high[g, 1]) == pytest.approx((theirs.low, theirs.high))
    ends = facility(mark_sheet(np.full((2, 1), 4), np.array([4.0])), np.zeros(2, int), 1)
    assert ends.high[0, 0] == 1.0


def test_item_rest_correlations_agree_with_pandas() -> None:
    sheet, _ = simulated(2)
    frame = pd.DataFrame(sheet.marks)
    ours = item_rest_correlation(sheet)
    for q in (0, 7, 19):
        assert ours[q] == pytest.approx(frame[q].corr(frame.drop(columns=q).sum(axis=1)))
    same = mark_sheet(np.column_stack([np.ones(9, int), np.arange(9) % 2, np.arange(9) % 3 > 0]),
                      np.ones(3))  # fmt: skip
    assert np.isnan(item_rest_correlation(same)[0])
    assert np.isnan(item_rest_correlation(mark_sheet(np.ones((2, 2)), np.ones(2)))).all()


def test_alpha_published_by_definition_and_withheld() -> None:
    found = cronbach_alpha(PUBLISHED)
    assert (found.alpha, found.sem) == pytest.approx((0.75, 0.645497), abs=5e-7)
    sheet, _ = simulated(3)
    covariance = np.cov(sheet.marks.T)
    by_definition = 20 / 19 * (1 - np.trace(covariance) / covariance.sum())
    assert cronbach_alpha(sheet).alpha == pytest.approx(by_definition)
    f = stats.f(899, 899 * 19)
    assert cronbach_alpha(sheet).low == pytest.approx(1 - (1 - by_definition) * f.ppf(0.975))
    against = cronbach_alpha(mark_sheet(np.array([[1, 0], [0, 1], [1, 0], [1, 1]]), np.ones(2)))
    assert against.alpha < 0
    assert np.isnan(against.sem)
    assert against.reason
    assert cronbach_alpha(sheet, optional_questions=True).reason
    assert np.isnan(cronbach_alpha(mark_sheet(np.ones((9, 3)), np.ones(3))).alpha)
    assert cronbach_alpha(mark_sheet(np.ones((2, 3)), np.ones(3))).reason


def test_alpha_interval_covers() -> None:
    """Parallel questions: α is the true reliability k·r/(1 + (k − 1)·r)."""
    rng = np.random.default_rng(4)
    inside = 0
    for _ in range(200):
        marks = rng.normal(size=(80, 1)) + rng.normal(size=(80, 8))
        sheet = mark_sheet(marks - marks.min(), np.full(8, 99.0))
        found = cronbach_alpha(sheet)
        inside += found.low <= 8 * 0.5 / (1 + 7 * 0.5) <= found.high
    assert 0.91 <= inside / 200 <= 0.985


def test_mantel_haenszel_agrees_with_a_general_library() -> None:
    sheet, focal = simulated(5, harder={4: 1.2})
    found = differential_functioning(sheet, focal)
    flagged = [q.flagged_in_matching for q in found.questions]
    assert flagged[4]
    for q in (0, 4, 11):
        others = [k for k in range(20) if not flagged[k] or k == q]
        total = sheet.marks[:, others].sum(axis=1)
        stratum = merged_strata(total, focal == 1)
        tables = []
        for s in np.unique(stratum):
            rows = stratum == s
            mark, group = sheet.marks[rows, q], focal[rows]
            tables.append([[np.sum((group == g) & (mark == m)) for m in (1, 0)] for g in (0, 1)])
        theirs = StratifiedTable([np.array(t, float) for t in tables])
        assert found.questions[q].delta == pytest.approx(-2.35 * np.log(theirs.oddsratio_pooled))
        assert found.questions[q].se == pytest.approx(2.35 * theirs.logodds_pooled_se)


def test_a_question_made_harder_for_one_group_is_found_and_the_others_are_not() -> None:
    sheet, focal = simulated(6, n=4000, harder={4: 1.0, 9: 0.35})
    found = differential_functioning(sheet, focal)
    categories = [q.category for q in found.questions]
    assert categories[4] == "C"
    assert categories[9] in ("A", "B")
    assert found.questions[4].delta < -1.5  # harder for the focal group
    assert found.questions[4].stands
    assert sum(c != "A" for k, c in enumerate(categories) if k not in (4, 9)) <= 1
    turned = differential_functioning(sheet, 1 - focal)
    assert turned.questions[4].delta == pytest.approx(-found.questions[4].delta, abs=0.2)


def test_questions_of_several_marks_take_the_matched_difference() -> None:
    rng = np.random.default_rng(7)
    focal = np.repeat([0, 1], 1500)
    ability = rng.normal(size=(3000, 1))
    marks = np.clip(np.round(2 + ability + rng.normal(0, 1, (3000, 10))), 0, 4)
    marks[focal == 1, 3] = np.clip(marks[focal == 1, 3] - (rng.random(1500) < 0.6), 0, 4)
    sheet = mark_sheet(marks, np.full(10, 4.0))
    found = differential_functioning(sheet, focal).questions
    assert np.isnan(found[3].delta)
    assert found[3].category == "C"
    kept = [k for k in range(10) if not found[k].flagged_in_matching or k == 3]
    total = marks[:, kept].sum(axis=1)
    stratum, value, weight = merged_strata(total, focal == 1), 0.0, 0.0
    for s in np.unique(stratum):
        rows = stratum == s
        n = np.sum(rows & (focal == 1))
        apart = marks[rows & (focal == 1), 3].mean() - marks[rows & (focal == 0), 3].mean()
        value, weight = value + n * apart, weight + n
    assert found[3].difference == pytest.approx(value / weight)


def test_too_few_are_not_judged() -> None:
    sheet, focal = simulated(8, n=150)
    assert differential_functioning(sheet, focal).reason
    with pytest.raises(ValueError, match="focal"):
        differential_functioning(sheet, focal + 5)


def test_strands_add_where_they_differ_and_not_where_they_do_not() -> None:
    rng = np.random.default_rng(9)
    two = rng.multivariate_normal([0, 0], [[1, 0.3], [0.3, 1]], 2000)
    marks = np.repeat(two, 12, axis=1) + rng.normal(size=(2000, 24)) > 0
    sheet = mark_sheet(marks.astype(int), np.ones(24))
    found = strands(sheet, np.repeat([0, 1], 12), 2)
    assert [s.report for s in found] == ["yes", "yes"]
    # PRMSE of the total for a strand, from the simulated truth: squared correlation of the total
    # with a long parallel strand, corrected for that strand's own error.
    long = (np.repeat(two[:, :1], 400, axis=1) + rng.normal(size=(2000, 400)) > 0).sum(axis=1)
    truth = np.corrcoef(long, marks.sum(axis=1))[0, 1] ** 2
    assert found[0].gain_total == pytest.approx(truth, abs=0.03)
    assert found[0].gain_own == pytest.approx(
        np.corrcoef(long, marks[:, :12].sum(axis=1))[0, 1] ** 2, abs=0.03
    )
    one = np.repeat(rng.normal(size=(2000, 1)), 24, axis=1) + rng.normal(size=(2000, 24)) > 0
    same = strands(mark_sheet(one.astype(int), np.ones(24)), np.repeat([0, 1], 12), 2)
    assert [s.adds for s in same] == [False, False]
    assert [s.report for s in same] == ["with caution", "with caution"]  # α is high enough alone
    none = strands(sheet, np.where(np.arange(24) < 12, 0, -1), 2)
    assert (none[1].report, none[1].questions) == ("no", 0)
    with pytest.raises(ValueError, match="below 2"):
        strands(sheet, np.full(24, 2), 2)


def test_the_weakest_strand_is_not_the_hardest() -> None:
    rng = np.random.default_rng(10)
    group = np.arange(400) < 60
    easy = rng.random((400, 6)) < np.where(group, 0.6, 0.9)[:, None]
    hard = rng.random((400, 6)) < 0.2
    middle = rng.random((400, 6)) < 0.5
    sheet = mark_sheet(np.hstack([easy, hard, middle]).astype(int), np.ones(18))
    found = weakest_strand(sheet, np.repeat([0, 1, 2], 6), 3, group)
    assert found.weakest == 0  # the easiest, but lowest against everyone
    share = np.hstack([easy, hard, middle]).reshape(400, 3, 6).mean(axis=2)
    np.testing.assert_allclose(found.difference, share[group].mean(axis=0) - share.mean(axis=0))
    theirs = stats.ttest_1samp(share[group][:, 0] - share[:, 0].mean(), 0).confidence_interval()
    assert (found.low[0], found.high[0]) == pytest.approx((theirs.low, theirs.high))
    rest = weakest_strand(sheet, np.repeat([0, 1, 2], 6), 3, ~group & (np.arange(400) < 90))
    assert rest.weakest == -1  # nothing sure
    assert weakest_strand(sheet, np.repeat([0, 1, 2], 6), 3, np.zeros(400)).weakest == -1


def test_options_by_thirds() -> None:
    rng = np.random.default_rng(11)
    totals = rng.normal(size=300)
    options = np.where(totals[:, None] > 0, 1, rng.integers(-1, 3, (300, 2)))
    options[:, 1] = np.where(totals > 0.8, 2, 0)  # the best go wrong
    found = option_choice(options, np.array([1, 0]), totals, 3)
    third = pd.qcut(totals, 3, labels=False)
    np.testing.assert_array_equal(found.n, np.bincount(third))
    for t in range(3):
        for o in range(3):
            assert found.share[t, 0, o] == pytest.approx(np.mean(options[third == t, 0] == o))
    assert found.draws_the_best == [(1, 2)]
    with pytest.raises(ValueError, match="options must lie"):
        option_choice(options, np.array([1, 0]), totals, 2)


def test_grid_order_makes_a_staircase_and_borderline_is_near() -> None:
    rows, columns = grid_order(PUBLISHED)
    assert (rows.tolist(), columns.tolist()) == ([0, 1, 2, 3], [0, 1, 2])
    sheet, _ = simulated(12)
    rows, columns = grid_order(sheet)
    assert (np.diff(sheet.marks.sum(axis=1)[rows]) <= 0).all()
    assert (np.diff(sheet.marks.sum(axis=0)[columns]) <= 0).all()
    late = mark_sheet(np.array([[-2, -2], [0, 1]]), np.ones(2))
    assert grid_order(late)[0].tolist() == [1, 0]
    below, above = borderline(np.array([47.9, 48, 50, 51, np.nan, 49.5]), 50, 2)
    assert (below.tolist(), above.tolist()) == ([5, 1], [2, 3])
    with pytest.raises(ValueError, match="negative"):
        borderline(np.ones(1), 50, -1)
