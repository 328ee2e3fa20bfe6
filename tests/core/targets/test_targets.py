"""Targets, and what it would take: by hand and by trying every way."""

from __future__ import annotations

from fractions import Fraction
from itertools import product

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.effort import examples

from bridge_chart.core.expected.line import fit_linear
from bridge_chart.core.targets.reach import (
    NOT_REACHABLE,
    reach_mean_fewest_steps,
    reach_mean_fewest_students,
    reach_share,
)
from bridge_chart.core.targets.status import STATUSES, target_status
from bridge_chart.core.targets.trying import try_edits


def test_statuses_by_hand() -> None:
    grade, target = np.array([4, 3, 3, 2, 1, -1, 2]), np.array([3, 3, 3, 3, 3, 3, -1])
    upper = np.array([0, 1, 0, 1, 0, 0, 0], bool)
    points = np.array([0.0, 10, 25, 40, 60])
    found = target_status(grade, target, points, np.zeros(7, int), 1, upper)
    assert [STATUSES[k] if k >= 0 else "" for k in found.status] == [
        "above", "on, upper half", "on, lower half", "one below", "two or more below", "", "",
    ]  # fmt: skip
    np.testing.assert_array_equal(found.steps[:5], [1, 0, 0, -1, -2])
    np.testing.assert_array_equal(found.points[:5], [20, 0, 0, -15, -30])
    assert found.counts[0].tolist() == [1, 1, 1, 1, 1]
    assert (found.n[0], found.missing[0]) == (5, 2)
    with pytest.raises(ValueError, match="points"):
        target_status(grade, target, np.array([np.nan] * 5), np.zeros(7, int), 1)


def test_seven_tenths_of_ten_is_seven_students() -> None:
    grade = np.array([1] * 5 + [0] * 5)
    found = reach_share(grade, 1, Fraction(7, 10), np.arange(10.0))
    assert (found.moved, found.figure_then) == (2, Fraction(7, 10))
    assert np.flatnonzero(found.steps).tolist() == [5, 6]  # those nearest
    exact = reach_share(np.array([1] * 7 + [0] * 3), 1, Fraction(7, 10), np.zeros(10))
    assert exact.moved == 0
    assert reach_share(np.array([-1, -1]), 1, Fraction(1, 2), np.zeros(2)).reachable is False
    with pytest.raises(ValueError, match="fraction"):
        reach_share(grade, 1, Fraction(3, 2), np.zeros(10))


def every_way(grade, points, wanted):
    """Fewest students and fewest steps over all ways of raising grades."""
    top = len(points) - 1
    best = (None, None)
    for steps in product(*[range(top - g + 1) for g in grade]):
        mean = sum(points[g + s] for g, s in zip(grade, steps, strict=True)) / Fraction(len(grade))
        if mean >= wanted:
            moved, total = sum(s > 0 for s in steps), sum(steps)
            best = (
                moved if best[0] is None else min(best[0], moved),
                total if best[1] is None else min(best[1], total),
            )
    return best


@settings(max_examples=examples(80), deadline=None)
@given(
    st.lists(st.integers(0, 3), min_size=1, max_size=5),
    st.lists(st.integers(1, 9), min_size=3, max_size=3),
    st.integers(0, 30),
)
def test_fewest_students_and_fewest_steps_agree_with_every_way(
    grade: list[int], rises: list[int], wanted: int
) -> None:
    points = [Fraction(sum(rises[:k]), 2) for k in range(4)]
    goal = Fraction(wanted, 2)
    students, steps = every_way(grade, points, goal)
    codes = np.array([*grade, -1])  # one without a result is never counted
    one = reach_mean_fewest_students(codes, points, goal)
    other = reach_mean_fewest_steps(codes, points, goal)
    if students is None:
        assert not one.reachable
        assert other.reason == NOT_REACHABLE
        return
    assert (one.moved, other.steps_total) == (students, steps)
    for found in (one, other):
        after = codes + found.steps
        assert after.max() <= 3
        assert found.steps[-1] == 0
        then = sum(points[g] for g in after[:-1]) / Fraction(len(grade))
        assert then == found.figure_then
        assert then >= goal
        assert (found.moved, found.steps_total) == (
            np.count_nonzero(found.steps),
            found.steps.sum(),
        )


def test_a_school_of_three_hundred_and_points_that_do_not_rise() -> None:
    grade = np.random.default_rng(1).integers(0, 9, 300)
    points = [Fraction(k * 10) + (5 if k > 4 else 0) for k in range(10)]
    now = sum(points[g] for g in grade) / Fraction(300)
    found = reach_mean_fewest_steps(grade, points, now + 3)
    assert found.reachable
    assert found.figure_then >= now + 3
    assert found.steps_total <= 90  # ten points a step would need 90; steps of 15 need fewer
    with pytest.raises(ValueError, match="rise"):
        reach_mean_fewest_steps(grade, [Fraction(1)] * 10, now)
    with pytest.raises(ValueError, match="one group"):
        reach_mean_fewest_steps(np.zeros(20_000, int), points, Fraction(60))


def test_a_try_holds_the_model_and_shows_the_refit_beside_it() -> None:
    rng = np.random.default_rng(2)
    prior = rng.normal(size=200)
    y, codes = prior + rng.normal(size=200), np.repeat([0, 1], 100)

    def refit(outcome: np.ndarray) -> np.ndarray:
        return fit_linear(outcome, prior, np.zeros(200, int), 1, np.ones(200, bool)).expected

    kept = refit(y)
    found = try_edits(y, kept, np.arange(20), y[:20] + 5, codes, 2, refit)
    assert found.changed == 20
    assert found.held_fixed.mean[0] == pytest.approx(found.now.mean[0] + 1.0)
    assert found.held_fixed.mean[1] == found.now.mean[1]
    assert found.refitted.mean[1] < found.now.mean[1]  # the edits raise everyone's expectation
    nobody = try_edits(y, kept, np.arange(3), y[:3], codes, 2, refit)
    assert nobody.changed == 0
    with pytest.raises(ValueError, match="different students"):
        try_edits(y, kept, np.array([1, 1]), np.zeros(2), codes, 2, refit)
    with pytest.raises(ValueError, match="must lie"):
        try_edits(y, kept, np.array([200]), np.zeros(1), codes, 2, refit)
