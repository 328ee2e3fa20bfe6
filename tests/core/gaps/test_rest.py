"""Each part against the rest: by hand, against SciPy's Welch, and what must not change it."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from bridge_chart.core.gaps.rest import against_rest

RNG = np.random.default_rng(7)
VALUES = RNG.normal(300, 30, 400)
VALUES[RNG.random(400) < 0.1] = np.nan
CODES = RNG.integers(0, 5, 400)
MEMBER = RNG.random(400) < 0.8


def test_every_row_is_welch_against_those_not_in_it() -> None:
    found = against_rest(VALUES, np.arange(400), CODES, 5, MEMBER)
    for group in range(5):
        own = VALUES[group == CODES]
        rest = VALUES[(group != CODES) & MEMBER]
        own, rest = own[~np.isnan(own)], rest[~np.isnan(rest)]
        test = stats.ttest_ind(own, rest, equal_var=False)
        bounds = test.confidence_interval(0.95)
        assert found.value[group] == pytest.approx(own.mean() - rest.mean(), rel=1e-12)
        assert found.p[group] == pytest.approx(test.pvalue, rel=1e-9)
        assert found.df[group] == pytest.approx(test.df, rel=1e-9)
        assert found.low[group] == pytest.approx(bounds.low, rel=1e-9)
        assert found.high[group] == pytest.approx(bounds.high, rel=1e-9)
        assert found.rest_n[group] == len(rest)


def test_a_student_in_two_rows_is_in_the_rest_of_neither() -> None:
    values = np.array([1.0, 2.0, 4.0, 8.0, 16.0])
    at, codes = np.array([0, 1, 1, 2]), np.array([0, 0, 1, 1])
    found = against_rest(values, at, codes, 2, np.ones(5, bool))
    assert found.value[0] == pytest.approx(1.5 - (4 + 8 + 16) / 3)
    assert found.value[1] == pytest.approx(3.0 - (1 + 8 + 16) / 3)


def test_order_unit_and_shift_do_not_matter() -> None:
    order = RNG.permutation(400)
    plain = against_rest(VALUES, np.arange(400), CODES, 5, MEMBER)
    mixed = against_rest(VALUES, order, CODES[order], 5, MEMBER)
    np.testing.assert_allclose(mixed.se, plain.se, rtol=1e-12)
    scaled = against_rest(10 * VALUES + 1e6, np.arange(400), CODES, 5, MEMBER)
    np.testing.assert_allclose(scaled.value, 10 * plain.value, rtol=1e-8)
    np.testing.assert_allclose(scaled.se, 10 * plain.se, rtol=1e-7)


def test_nothing_left_is_undefined_and_bad_input_is_refused() -> None:
    values = np.array([1.0, 2.0, 3.0])
    whole = against_rest(values, np.arange(3), np.zeros(3, int), 1, np.ones(3, bool))
    assert np.isnan(whole.value[0])
    assert np.isnan(whole.low[0])
    assert whole.rest_n[0] == 0
    missing = against_rest(values * np.nan, np.arange(3), np.array([0, 0, 1]), 2, np.ones(3, bool))
    assert np.isnan(missing.value).all()
    with pytest.raises(ValueError, match="one entry per student"):
        against_rest(values, np.arange(3), np.zeros(3, int), 1, np.ones(2, bool))
    with pytest.raises(ValueError, match="codes"):
        against_rest(values, np.arange(3), np.array([0, 1, 2]), 2, np.ones(3, bool))
