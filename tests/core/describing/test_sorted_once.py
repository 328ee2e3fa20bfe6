"""The kept order gives the same figures as describing anew, for any filter and split."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from tests.effort import examples

from bridge_chart.core.describing import sorted_once
from bridge_chart.core.describing.describe import describe
from bridge_chart.core.describing.levels import level_shares, levels_of
from bridge_chart.core.describing.sorted_once import describe_sorted, sort_once

CUTS = np.array([40.0, 55.0])


@pytest.mark.parametrize("block", [1, 700, 65_536])
def test_one_split_with_filters(block: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sorted_once, "BLOCK_ROWS", block)
    rng = np.random.default_rng(1)
    values = rng.integers(0, 90, 4000).astype(float)
    values[::13] = np.nan
    school = rng.integers(-1, 30, 4000).astype(np.int16)
    school[school == 11] = 12  # an empty school
    meals, plan = rng.integers(-1, 3, 4000).astype(np.int8), rng.integers(0, 4, 4000)
    kept = sort_once(values, school, 30, CUTS)
    wanted, plans = np.array([True, False, True, False]), np.array([True, True, False, True])
    found = describe_sorted(kept, [(kept.arranged(meals), wanted), (kept.arranged(plan), plans)])
    some = wanted[meals] & plans[plan]
    anew = describe(values[some], school[some], 30)
    for name in ("n", "missing"):
        np.testing.assert_array_equal(getattr(found, name), getattr(anew, name))
    for name in ("mean", "sd", "q1", "median", "q3"):
        np.testing.assert_allclose(getattr(found, name), getattr(anew, name), rtol=1e-10)
    levels = level_shares(levels_of(values[some], CUTS), school[some], 30, 3)
    np.testing.assert_array_equal(found.levels, levels.counts)


@pytest.mark.parametrize("block", [1, 700, 65_536])
def test_two_splits(block: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sorted_once, "BLOCK_ROWS", block)
    rng = np.random.default_rng(2)
    values = rng.normal(60, 15, 3000).astype(np.float32)
    values[::7] = np.nan
    school, band = rng.integers(-1, 9, 3000), rng.integers(-1, 6, 3000)
    kept = sort_once(values, school, 9, CUTS)
    found = describe_sorted(kept, [], kept.arranged(band), 6)
    code = np.where((school >= 0) & (band >= 0), school * 6 + band, -1)
    anew = describe(values, code, 54)
    for name in ("n", "missing"):
        np.testing.assert_array_equal(getattr(found, name), getattr(anew, name))
    for name in ("mean", "sd", "q1", "median", "q3"):
        np.testing.assert_allclose(getattr(found, name), getattr(anew, name), rtol=1e-9)
    levels = level_shares(levels_of(values, CUTS), code, 54, 3)
    np.testing.assert_array_equal(found.levels, levels.counts)


@settings(max_examples=examples(60), deadline=None)
@example([(0, 1.0), (0, 1.0), (0, 1.0), (0, 5.0), (1, 5.0), (1, 5.0), (1, 5.0)])
@given(st.lists(st.tuples(st.integers(-1, 3), st.sampled_from([1.0, 2, 5, np.nan]))))
def test_any_small_set(rows: list[tuple[int, float]]) -> None:
    codes, values = np.array([r[0] for r in rows], int), np.array([r[1] for r in rows], float)
    found = describe_sorted(sort_once(values, codes, 4))
    anew = describe(values, codes, 4)
    np.testing.assert_array_equal(found.n, anew.n)
    np.testing.assert_allclose(found.median, anew.median)
    # A group without spread: sums of squares leave the root of the rounding, 3e-8 beside 5.
    np.testing.assert_allclose(found.sd, anew.sd, atol=1e-7)


def test_cuts_must_rise() -> None:
    with pytest.raises(ValueError, match="rise"):
        sort_once(np.ones(2), np.zeros(2, int), 1, np.array([2.0, 1.0]))
