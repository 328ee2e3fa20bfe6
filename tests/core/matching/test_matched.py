"""Matching against a plain loop, and on students of whom nothing, or something, is true."""

from __future__ import annotations

import numpy as np
import pytest

from bridge_chart.core.matching.matched import FEWEST, matched_difference


def by_hand(
    y: np.ndarray, x: np.ndarray, strata: np.ndarray, group: np.ndarray, k: int, caliper: float
) -> tuple[float, float, int]:
    """The same by loops over students: effect, standard error, how many were matched."""
    z = x / x.std(axis=0, ddof=1)
    mine, others = np.flatnonzero(group), np.flatnonzero(~group)
    matches = {}
    for i in mine:
        pool = [j for j in others if strata[j] == strata[i]]
        pool.sort(key=lambda j: (np.abs(z[i] - z[j]).max(), j))
        near = [j for j in pool if np.abs(z[i] - z[j]).max() <= caliper][:k]
        if near:
            matches[i] = near
    pool = sorted({j for near in matches.values() for j in near})
    design = np.array([[1, *z[j]] for j in pool])
    slope = np.linalg.solve(design.T @ design, design.T @ y[pool])[1:]
    each = {
        i: y[i] - np.mean([y[j] + (z[i] - z[j]) @ slope for j in near])
        for i, near in matches.items()
    }
    effect = np.mean(list(each.values()))
    total = sum((one - effect) ** 2 for one in each.values())
    level = y - z @ slope
    for j in pool:
        use = sum(1 / len(near) for near in matches.values() if j in near)
        squares = sum(1 / len(near) ** 2 for near in matches.values() if j in near)
        others_here = [o for o in pool if o != j and strata[o] == strata[j]]
        nearest = min(others_here, key=lambda o: np.linalg.norm(z[o] - z[j]))
        variance = 0.5 * (level[j] - level[nearest]) ** 2
        total += (use**2 - squares) * variance
    return float(effect), float(np.sqrt(total) / len(matches)), len(matches)


def chosen_low(
    rng: np.random.Generator, n: int, effect: float
) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Students chosen for a low result: half of those below, who then gain `effect` more."""
    ability = rng.normal(size=n)
    start, result, outcome = (ability + 0.5 * rng.normal(size=n) for _ in range(3))
    group = (result < -0.3) & (rng.random(n) < 0.4)
    return outcome + effect * group, np.stack([start, result], 1), rng.integers(0, 3, n), group


@pytest.mark.parametrize("seed", range(5))
def test_it_agrees_with_a_plain_loop(seed: int) -> None:
    y, x, strata, group = chosen_low(np.random.default_rng(seed), 400, 0.3)
    found = matched_difference(y, x, strata, group)
    effect, error, n = by_hand(y, x, strata, group, 4, 0.25)
    assert found.effect.n == n
    assert found.effect.value == pytest.approx(effect)
    assert found.effect.se == pytest.approx(error)
    assert found.unmatched == group.sum() - n


@pytest.mark.parametrize("truth", [0.0, 0.4])
def test_the_interval_holds_the_truth_as_often_as_it_says(truth: float) -> None:
    rng = np.random.default_rng(11)
    hits, naive = [], []
    for _ in range(200):
        y, x, strata, group = chosen_low(rng, 600, truth)
        found = matched_difference(y, x, strata, group).effect
        hits.append(found.low <= truth <= found.high)
        naive.append(y[group].mean() - x[group, 1].mean())
    # 95 % of 200, give or take three standard errors.
    assert 0.90 <= np.mean(hits) <= 0.995
    # What a look at the gain alone would claim: the low come back by themselves.
    assert np.mean(naive) > truth + 0.15


def test_matching_on_the_start_alone_would_praise_what_did_nothing() -> None:
    rng = np.random.default_rng(3)
    alone, both = [], []
    for _ in range(60):
        y, x, strata, group = chosen_low(rng, 600, 0.0)
        alone.append(matched_difference(y, x[:, :1], strata, group).effect.value)
        both.append(matched_difference(y, x, strata, group).effect.value)
    assert abs(np.mean(alone)) > 0.2
    assert abs(np.mean(both)) < 0.05


def test_without_others_like_them_there_is_no_figure() -> None:
    rng = np.random.default_rng(1)
    result = np.concatenate([rng.normal(-5, 0.2, 30), rng.normal(0, 1, 200)])
    group = np.arange(230) < 30
    found = matched_difference(result, result[:, None], np.zeros(230, int), group)
    assert np.isnan(found.effect.value)
    assert found.effect.reason
    assert found.unmatched == 30


def test_fewer_than_a_few_give_no_figure_and_the_missing_are_counted() -> None:
    rng = np.random.default_rng(2)
    y, x, _, _ = chosen_low(rng, 300, 0)
    group = np.arange(300) < FEWEST - 1
    assert np.isnan(matched_difference(y, x, np.zeros(300, int), group).effect.value)
    group = np.arange(300) < 40
    y[:5] = np.nan
    found = matched_difference(y, x, np.zeros(300, int), group)
    assert found.effect.missing == 5
    assert found.effect.n + found.unmatched == 35


def test_shapes_that_cannot_be_meant_are_refused() -> None:
    with pytest.raises(ValueError, match="covariates"):
        matched_difference(np.ones(3), np.ones(3), np.zeros(3, int), np.ones(3, bool))
