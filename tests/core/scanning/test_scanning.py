"""Scanning: the sums against a general library, findings against their definitions."""

from __future__ import annotations

import numpy as np
import pandas as pd
import pytest
from statsmodels.stats.meta_analysis import combine_effects
from statsmodels.stats.multitest import multipletests

from bridge_chart.core.scanning.stands_out import fold_repeats, stands_out
from bridge_chart.core.scanning.sums import scan_sums


@pytest.fixture
def district():
    rng = np.random.default_rng(1)
    values = rng.normal(1000, 15, (3000, 4))
    values[rng.random((3000, 4)) < 0.1] = np.nan
    values[:, 3] = np.round(values[:, 3])
    characteristics = [rng.integers(-1, k, 3000).astype(np.int16) for k in (2, 5)]
    return values, characteristics, rng.integers(-1, 9, 3000)


@pytest.mark.parametrize("ordered", [False, True])
def test_sums_agree_with_pandas(district, ordered: bool) -> None:
    values, characteristics, school = district
    if ordered:
        order = np.argsort(school, kind="stable")
        order = order[school[order] >= 0]
        values, school = values[order], school[order]
        characteristics = [c[order] for c in characteristics]
    found = scan_sums(values, characteristics, [2, 5], school, 9, workers=1 + ordered)
    assert found.first == [0, 2]
    for c, (codes, size) in enumerate(zip(characteristics, (2, 5), strict=True)):
        for m in (0, 3):
            frame = pd.DataFrame({"s": school, "k": codes, "v": values[:, m]})
            frame = frame[(frame.s >= 0) & (frame.k >= 0)]
            theirs = frame.groupby(["s", "k"])["v"].agg(["count", "mean", "std"])
            mine = np.s_[:, found.first[c] : found.first[c] + size, m]
            for name, ours in (("count", found.n), ("mean", found.mean), ("std", found.sd)):
                table = theirs[name].unstack().to_numpy()
                np.testing.assert_allclose(ours[mine], table, rtol=1e-10)
            rest = frame[(frame.s == 4) & (frame.k != 1)]["v"]
            at = 4, found.first[c] + 1, m
            assert found.rest_n[at] == rest.count()
            assert found.rest_mean[at] == pytest.approx(rest.mean())
            assert found.rest_sd[at] == pytest.approx(rest.std())


def test_order_unit_and_a_measure_that_nobody_has(district) -> None:
    values, characteristics, school = district
    values = np.column_stack([values, np.full(3000, np.nan)])
    turned = np.random.default_rng(2).permutation(3000)
    one = scan_sums(values, characteristics, [2, 5], school, 9)
    other = scan_sums(
        values[turned] * 10 + 1e6, [c[turned] for c in characteristics], [2, 5], school[turned], 9
    )
    np.testing.assert_allclose(other.sd[..., :4], 10 * one.sd[..., :4], rtol=1e-6)
    np.testing.assert_array_equal(other.n, one.n)
    assert (one.n[..., 4] == 0).all()
    assert np.isnan(one.mean[..., 4]).all()
    single = scan_sums(values.astype(np.float32), characteristics, [2, 5], school, 9)
    np.testing.assert_allclose(single.mean[..., 0], one.mean[..., 0], rtol=1e-6)
    with pytest.raises(ValueError, match="codes must lie"):
        scan_sums(values, characteristics, [2, 4], school, 9)
    with pytest.raises(ValueError, match="one size"):
        scan_sums(values, characteristics, [2], school, 9)


def test_findings_are_tested_raw_and_shown_shrunken() -> None:
    rng = np.random.default_rng(3)
    se = rng.uniform(0.5, 2, 60)
    raw = np.where(np.arange(60) < 6, 5.0, 0.0) + rng.normal(size=60) * se
    family = np.repeat([0, 1], 30)
    found = stands_out(raw, se, np.full(60, 200.0), family)
    from scipy import stats

    p = 2 * stats.t.sf(np.abs(raw / se), 200)
    np.testing.assert_allclose(found.p, p)
    for code in (0, 1):
        rows = family == code
        np.testing.assert_array_equal(
            found.stands[rows], multipletests(p[rows], method="fdr_bh")[0]
        )
        theirs = combine_effects(raw[rows], se[rows] ** 2, method_re="chi2")
        tau2 = max(theirs.tau2, 0)
        centre = np.average(raw[rows], weights=1 / (se[rows] ** 2 + tau2))
        keep = tau2 / (tau2 + se[rows] ** 2)
        np.testing.assert_allclose(found.shrunken[rows], centre + keep * (raw[rows] - centre))
        np.testing.assert_allclose(found.comparative_se[rows], np.sqrt(keep) * se[rows])
    best = found.evidence[found.order]
    assert (np.diff(best) <= 0).all()
    assert (found.evidence >= 0).all()
    assert set(found.order) == set(np.flatnonzero(found.stands))


def test_under_nothing_at_all_families_rarely_speak() -> None:
    rng = np.random.default_rng(4)
    spoke = 0
    for _ in range(400):
        drawn = rng.normal(size=50)
        found = stands_out(drawn, np.ones(50), np.full(50, 1e6), np.zeros(50, int))
        spoke += bool(found.stands.any())
    assert spoke / 400 < 0.085  # 5% held, give or take


def test_untestable_comparisons_and_bad_shapes() -> None:
    raw = np.array([9.0, np.nan, 9, 9])
    found = stands_out(raw, np.array([1.0, 1, 0, 1]), np.full(4, 50.0), np.array([0, 0, 0, -1]))
    assert found.order.tolist() == [0]
    assert np.isnan(found.p[1:]).all()
    assert (found.shrunken[0], found.comparative_se[0]) == (9.0, 1.0)  # alone in its family
    with pytest.raises(ValueError, match="one shape"):
        stands_out(raw, np.ones(3), np.ones(4), np.zeros(4, int))


def test_identical_sets_fold() -> None:
    sets = [np.array([3, 1, 2]), np.array([1]), np.array([1, 2, 3, 3]), np.array([], int)]
    assert fold_repeats(sets) == [[0, 2], [1], [3]]
