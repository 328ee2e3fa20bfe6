"""Keys, papers, mastery and chosen questions: against plain loops, and where nothing is true."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest

from bridge_chart.core.items.best import best_of
from bridge_chart.core.items.keys import doubtful_keys
from bridge_chart.core.items.mastery import mastered
from bridge_chart.core.items.uneven import uneven

OPTIONS = 4


def made(
    rng: np.random.Generator, students: int, questions: int, wrong: int | None
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Choices, key and totals of a test in which ability decides; `wrong`: its key is another."""
    ability = rng.normal(size=students)
    true = rng.integers(0, OPTIONS, questions)
    right = rng.random((students, questions)) < 1 / (1 + np.exp(-(ability[:, None] + 0.3)))
    other = (true + rng.integers(1, OPTIONS, (students, questions))) % OPTIONS
    choices = np.where(right, true, other)
    key = true.copy()
    if wrong is not None:
        key[wrong] = (true[wrong] + 1) % OPTIONS
    marked = np.eye(OPTIONS, dtype=bool)[key]
    return choices, marked, (choices == key).sum(axis=1).astype(float)


@pytest.mark.parametrize("students", [240, 600])
def test_a_wrong_key_is_found_and_no_right_one_is_called_wrong(students: int) -> None:
    rng = np.random.default_rng(5)
    for _ in range(20):
        choices, marked, totals = made(rng, students, 20, 7)
        found = doubtful_keys(choices, marked, totals, OPTIONS)
        assert [one.question for one in found] == [7]
        assert marked[7].argmax() == (found[0].option + 1) % OPTIONS


def test_where_every_key_is_right_hardly_one_is_doubted() -> None:
    rng = np.random.default_rng(6)
    tests = 200
    called = sum(bool(doubtful_keys(*made(rng, 90, 20, None), OPTIONS)) for _ in range(tests))
    assert called <= 0.05 * tests


def test_hard_questions_that_nobody_knows_are_hardly_called_wrong() -> None:
    """All guess, at random: no option is the best students' own."""
    rng = np.random.default_rng(7)
    tests, called = 200, 0
    for _ in range(tests):
        choices = rng.integers(0, OPTIONS, (150, 10))
        marked = np.eye(OPTIONS, dtype=bool)[rng.integers(0, OPTIONS, 10)]
        called += bool(doubtful_keys(choices, marked, rng.normal(size=150), OPTIONS))
    assert called <= 0.15 * tests


def test_where_both_papers_measure_the_same_few_stand_out() -> None:
    rng = np.random.default_rng(8)
    named = 0
    for _ in range(400):
        true = rng.normal(0.5, 0.15, 200)
        first, second = (true + rng.normal(0, 0.06, 200) for _ in range(2))
        found = uneven(first, second - 0.1, 0.06, 0.06)
        named += bool((found.first | found.second).any())
    assert named <= 0.08 * 400


def test_who_knows_one_half_is_found_on_the_right_side() -> None:
    rng = np.random.default_rng(9)
    true = rng.normal(0.5, 0.15, 200)
    first, second = (true + rng.normal(0, 0.05, 200) for _ in range(2))
    first[:3], second[:3] = 0.9, 0.2
    found = uneven(first, second, 0.05, 0.05)
    assert found.first[:3].all()
    assert not found.second.any()


def test_papers_without_an_error_cannot_be_compared() -> None:
    with pytest.raises(ValueError, match="above 0"):
        uneven(np.ones(3), np.ones(3), 0.0, 0.0)


def test_the_best_are_the_best_of_all_choices() -> None:
    rng = np.random.default_rng(10)
    marks = rng.integers(0, 9, (50, 6)).astype(float)
    for count in (1, 2, 4, 6, 9):
        own = [
            max(sum(row[list(held)]) for held in combinations(range(6), min(count, 6)))
            for row in marks
        ]
        assert best_of(marks, count).tolist() == own
    with pytest.raises(ValueError, match="at least one"):
        best_of(marks, 0)


def test_mastery_is_what_a_loop_says() -> None:
    rng = np.random.default_rng(11)
    shares = rng.integers(0, 11, (200, 5)) / 10
    shares[rng.random(shares.shape) < 0.1] = np.nan
    enough = np.array([0.8, 0.8, 0.5, 1.0, 0.3])
    for row, found in zip(shares, mastered(shares, enough), strict=True):
        there = [(s, e) for s, e in zip(row, enough, strict=True) if s == s]
        if there:
            assert found == sum(round(s, 6) >= e for s, e in there) / len(there)
        else:
            assert np.isnan(found)
    with pytest.raises(ValueError, match="enough"):
        mastered(shares, np.zeros(5))
