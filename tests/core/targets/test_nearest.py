"""Who would have to gain a step: against brute force over all choices of students."""

from __future__ import annotations

from fractions import Fraction
from itertools import combinations

import numpy as np
import pytest

from bridge_chart.core.targets.nearest import nearest_to_mean, nearest_to_share


@pytest.mark.parametrize("seed", range(20))
def test_no_fewer_students_would_do(seed: int) -> None:
    rng = np.random.default_rng(seed)
    grade = rng.integers(-1, 4, 8)
    known = grade[grade >= 0]
    distance = rng.normal(size=8)
    wanted = Fraction(int(rng.integers(0, 31)), 10)
    total = Fraction(int(known.sum()))
    found = nearest_to_mean(grade, 3, total, wanted * len(known), distance)
    can = [n for n in range(8) if 0 <= grade[n] < 3]
    enough = [
        size for size in range(len(can) + 1)
        if any((total + len(some)) >= wanted * len(known) for some in combinations(can, size))
    ]  # fmt: skip
    assert found.reachable == bool(enough)
    if enough:
        assert found.moved == enough[0] == found.needed
        moved = np.flatnonzero(found.steps)
        assert list(moved) == sorted(found.order[: found.needed].tolist())
    assert (grade + found.steps).max() <= 3
    assert (np.diff(distance[found.order]) >= 0).all()


@pytest.mark.parametrize("seed", range(20))
def test_a_share_is_reached_by_those_one_step_below(seed: int) -> None:
    rng = np.random.default_rng(seed)
    grade = rng.integers(-1, 4, 9)
    n, wanted = int((grade >= 0).sum()), Fraction(int(rng.integers(0, 11)), 10)
    found = nearest_to_share(grade, 2, wanted, rng.normal(size=9))
    have, below = int((grade >= 2).sum()), int((grade == 1).sum())
    need = max(0, int(np.ceil(float(wanted * n) - 1e-12)) - have)
    assert found.needed == need
    assert found.reachable == (need <= below)
    assert found.moved == min(need, below)
    assert set(grade[found.steps > 0].tolist()) <= {1}
    assert found.figure[0] == pytest.approx(have / max(n, 1))


def test_seven_of_ten_is_not_eight() -> None:
    """A share is counted in fractions: .7 of 10 is 7, which floats make a little more of."""
    grade = np.array([2] * 6 + [1] * 4)
    assert nearest_to_share(grade, 2, Fraction(7, 10), np.zeros(10)).needed == 1
