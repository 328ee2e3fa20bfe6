"""Fairness where no question is unfair: how often one has a mark all the same."""

from __future__ import annotations

import numpy as np
import pytest

from bridge_chart.core.items.functioning import differential_functioning
from bridge_chart.core.items.marks import mark_sheet


@pytest.mark.parametrize("apart", [0.0, 0.6], ids=["alike", "unlike in ability"])
def test_few_tests_have_any_mark_where_nothing_is_unfair(apart: float) -> None:
    """Two hundred tests of 24 questions taken by five hundred, three in ten of whom are the group
    looked at; also where it is less able by .6 of a standard deviation, which is no unfairness."""
    rng = np.random.default_rng(2)
    maxima = np.array([1, 1, 2] * 8)
    wrong = 0
    for _ in range(200):
        group = (rng.random(500) < 0.3).astype(np.int64)
        able = rng.normal(size=500) - apart * group
        chance = 1 / (1 + np.exp(-(1.1 * able[:, None] + rng.normal(0, 0.7, 24))))
        marks = rng.binomial(maxima, chance)
        found = differential_functioning(mark_sheet(marks, maxima.astype(float)), group)
        wrong += any(one.stands and one.category in ("B", "C") for one in found.questions)
    assert wrong / 200 < 0.1
