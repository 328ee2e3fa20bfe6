"""The multilevel model against dense definitions, a general library, and published figures."""

from __future__ import annotations

import numpy as np
import pytest
from statsmodels.regression.mixed_linear_model import MixedLM
from tests.core.reference import dense_mixed

from bridge_chart.core.value_added.cross_products import cross_products
from bridge_chart.core.value_added.multilevel import NONE_DETECTED, multilevel, multilevel_from
from bridge_chart.core.value_added.reml import profile, solve

YIELDS = np.array(
    [1545, 1440, 1440, 1520, 1580, 1540, 1555, 1490, 1560, 1495, 1595, 1550, 1605, 1510, 1560,
     1445, 1440, 1595, 1465, 1545, 1595, 1630, 1515, 1635, 1625, 1520, 1455, 1450, 1480, 1445.0]
)  # fmt: skip


def made(seed: int, classes: int, schools: int, spread=(4.0, 3.0, 10.0)):
    rng = np.random.default_rng(seed)
    school_of = np.sort(rng.integers(0, schools, classes))
    size = rng.integers(1, 9, classes)
    code = np.repeat(np.arange(classes), size)
    x = np.column_stack([rng.normal(50, 8, len(code)), rng.random(len(code)) < 0.4]).astype(float)
    y = (
        20 + 0.8 * x[:, 0] - 3 * x[:, 1] + rng.normal(0, spread[0], schools)[school_of[code]]
        + rng.normal(0, spread[1], classes)[code] + rng.normal(0, spread[2], len(code))
    )  # fmt: skip
    return y, x, code, school_of


def test_one_way_agrees_with_the_published_figures() -> None:
    m = multilevel(YIELDS, np.empty((30, 0)), np.repeat(np.arange(6), 5), 6)
    assert m.coefficients[0] == pytest.approx(1527.5)
    assert m.coefficient_se[0] == pytest.approx(19.3834, abs=5e-5)
    assert m.sigma2_classes == pytest.approx(1764.05, abs=5e-3)
    assert m.sigma2_students == pytest.approx(2451.25, abs=5e-3)
    assert m.classes.reliability_mean_known[0] == pytest.approx(0.782527, abs=5e-7)
    published = [-17.6069, 0.3913, 28.5622, -23.0845, 56.7332, -44.9953]
    np.testing.assert_allclose(m.classes.estimate, published, atol=5e-5)
    assert m.classes.conditional_se[0] == pytest.approx(19.5866, abs=5e-5)
    assert m.classes.comparative_se[0] == pytest.approx(24.7730, abs=5e-5)
    assert m.classes.difference(0, 3).se == pytest.approx(27.6996, abs=5e-5)
    assert not m.classes.may_judge  # six groups only


def test_three_small_groups_by_hand() -> None:
    y = np.array([1.0, 2, 3, 2, 3, 4, 6, 7, 8])
    m = multilevel(y, np.empty((9, 0)), np.repeat([0, 1, 2], 3), 3)
    assert (m.sigma2_classes, m.sigma2_students) == pytest.approx((20 / 3, 1.0))
    np.testing.assert_allclose(m.classes.estimate, [-40 / 21, -20 / 21, 20 / 7], rtol=1e-7)
    assert m.classes.difference(1, 0).se == pytest.approx(0.79682, abs=5e-6)


@pytest.mark.filterwarnings("ignore::statsmodels.tools.sm_exceptions.ConvergenceWarning")
@pytest.mark.parametrize("seed", [1, 2])
def test_two_levels_agree_with_a_general_library(seed: int) -> None:
    y, x, code, _ = made(seed, 60, 5)
    ours = multilevel(y, x, code, 60)
    design = np.column_stack([np.ones(len(y)), x])
    theirs = MixedLM(y, design, groups=code).fit(reml=True, method="bfgs", gtol=1e-9, maxiter=500)
    total = ours.sigma2_classes + ours.sigma2_students
    assert abs(ours.sigma2_classes - float(theirs.cov_re[0, 0])) <= 1e-4 * total
    assert abs(ours.sigma2_students - theirs.scale) <= 1e-4 * total
    assert np.all(np.abs(ours.coefficients - theirs.fe_params) <= 1e-5 * ours.coefficient_se)


@pytest.mark.parametrize("levels", [2, 3])
def test_criterion_gradient_and_optimum_agree_with_the_definition(levels: int) -> None:
    y, x, code, school_of = made(3, 30, 6)
    design = np.column_stack([np.ones(len(y)), x])
    groupings = [code] if levels == 2 else [code, school_of[code]]
    stats = cross_products(y, x, code, 30, None if levels == 2 else school_of)
    for ratios in ([0.0, 0.0], [0.3, 0.1], [2.0, 5.0]):
        at = profile(stats, np.array(ratios[: levels - 1]))
        variances = [r * at.sigma2 for r in ratios[: levels - 1]] + [at.sigma2]
        assert at.criterion == pytest.approx(
            dense_mixed.criterion(y, design, groupings, variances), abs=1e-8
        )
        for k in range(levels - 1):
            step = np.zeros(levels - 1)
            step[k] = 1e-6
            ahead = profile(stats, np.array(ratios[: levels - 1]) + step).criterion
            assert at.gradient[k] == pytest.approx(
                (ahead - at.criterion) / 1e-6, rel=2e-3, abs=1e-3
            )
    m = multilevel_from(stats)
    start = [m.sigma2_classes, m.sigma2_schools, m.sigma2_students]
    start = [max(v, 1.0) for v in (start if levels == 3 else [start[0], start[2]])]
    theirs, lowest = dense_mixed.best(y, design, groupings, start)
    ours = [m.sigma2_classes, m.sigma2_schools, m.sigma2_students]
    ours = ours if levels == 3 else [ours[0], ours[2]]
    assert m.criterion <= lowest + 1e-6
    np.testing.assert_allclose(ours, theirs, atol=1e-4 * sum(theirs))


def test_effects_and_their_errors_agree_with_hendersons_equations() -> None:
    y, x, code, school_of = made(4, 40, 8)
    m = multilevel(y, x, code, 40, school_of)
    design = np.column_stack([np.ones(len(y)), x])
    variances = [m.sigma2_classes, m.sigma2_schools, m.sigma2_students]
    assert min(variances) > 0
    held = np.unique(school_of)
    beta, effects, blocks, inverse = dense_mixed.henderson(
        y, design, [code, school_of[code]], variances
    )
    np.testing.assert_allclose(m.coefficients, beta, rtol=1e-8)
    np.testing.assert_allclose(m.coefficient_se**2, np.diag(inverse)[:3], rtol=1e-8)
    np.testing.assert_allclose(m.classes.estimate, effects[0], atol=1e-8)
    assert m.schools is not None
    np.testing.assert_allclose(m.schools.estimate[held], effects[1], atol=1e-8)
    np.testing.assert_allclose(m.classes.comparative_se**2, np.diag(blocks[0]), rtol=1e-8)
    np.testing.assert_allclose(m.schools.comparative_se[held] ** 2, np.diag(blocks[1]), rtol=1e-8)
    for i, j in ((0, 1), (0, 39), (5, 6)):
        assert m.classes.covariance(i, j) == pytest.approx(blocks[0][i, j], rel=1e-7, abs=1e-10)
    assert m.schools.covariance(held[0], held[2]) == pytest.approx(blocks[1][0, 2], rel=1e-7)
    assert m.classes_in_all is not None
    both = np.hstack([np.eye(40), (school_of[:, None] == held[None, :]).astype(float)])
    total = both @ inverse[3:, 3:] @ both.T
    np.testing.assert_allclose(m.classes_in_all.comparative_se**2, np.diag(total), rtol=1e-8)
    assert m.classes_in_all.covariance(3, 4) == pytest.approx(total[3, 4], rel=1e-7)
    np.testing.assert_allclose(
        m.classes_in_all.estimate, effects[0] + m.schools.estimate[school_of], atol=1e-8
    )


def test_no_variance_between_groups_is_said_and_gives_no_bars() -> None:
    y = np.tile([1.0, 5.0, 9.0], 15)  # every group the same
    m = multilevel(y, np.empty((45, 0)), np.repeat(np.arange(15), 3), 15)
    assert m.sigma2_classes == 0
    assert m.classes.reason == NONE_DETECTED
    assert np.isnan(m.classes.low).all()
    assert not m.classes.may_judge
    assert m.test_classes == (0.0, 1.0)
    assert m.classes.difference(0, 1).reason == NONE_DETECTED


def test_many_singletons_an_empty_group_a_constant_column_and_float32() -> None:
    rng = np.random.default_rng(9)
    size = np.where(rng.random(2000) < 0.6, 1, rng.integers(2, 30, 2000))
    size[7] = 0
    code = np.repeat(np.arange(2000), size)
    effect = rng.normal(0, 3, 2000)[code]
    x = np.column_stack([rng.integers(0, 70, len(code)), np.full(len(code), 4.0)])
    y = 10 + 0.5 * x[:, 0] + effect + rng.normal(0, 6, len(code))
    m = multilevel(y, x, code, 2000)
    assert m.converged
    assert np.isnan(m.coefficients[2])  # the constant column depends on the intercept
    assert m.coefficients[1] == pytest.approx(0.5, abs=0.02)
    assert m.sigma2_classes == pytest.approx(9, rel=0.15)
    assert m.classes.n[7] == 0
    assert np.isnan(m.classes.estimate[7])
    single = multilevel(y.astype(np.float32), x.astype(np.float32), code, 2000)
    assert single.sigma2_classes == pytest.approx(m.sigma2_classes, rel=1e-4)


def test_order_and_unit_do_not_matter_and_a_shift_of_far_away_scores_neither() -> None:
    y, x, code, school_of = made(6, 50, 7)
    one = multilevel(y, x, code, 50, school_of)
    turned = np.random.default_rng(1).permutation(len(y))
    other = multilevel(
        1e4 + 10 * y[turned], (x * [100, 1] + [1e5, 0])[turned], code[turned], 50, school_of
    )
    np.testing.assert_allclose(other.classes.estimate, 10 * one.classes.estimate, rtol=1e-5)
    assert other.sigma2_schools == pytest.approx(100 * one.sigma2_schools, rel=1e-5)
    assert other.coefficients[1] == pytest.approx(one.coefficients[1] / 10, rel=1e-6)


def test_missing_values_and_an_offset() -> None:
    y, x, code, _ = made(8, 25, 5)
    y[3] = np.nan
    x[5, 0] = np.nan
    code = code.copy()
    code[9] = -1
    m = multilevel(y, x, code, 25)
    assert (m.n, m.missing) == (len(y) - 3, 3)
    held = np.setdiff1d(np.arange(len(y)), [3, 5, 9])
    again = multilevel(y[held], x[held], code[held], 25)
    assert m.criterion == pytest.approx(again.criterion, rel=1e-12)
    moved = multilevel(y, np.empty((len(y), 0)), code, 25, offset=0.8 * x[:, 0])
    plain = multilevel(y - 0.8 * x[:, 0], np.empty((len(y), 0)), code, 25)
    assert moved.sigma2_classes == pytest.approx(plain.sigma2_classes)
    everyone_gone = np.where(code == 4, np.nan, y)
    assert multilevel(everyone_gone, x, code, 25).classes.n[4] == 0


def test_explained_and_the_tests_against_none() -> None:
    y, x, code, school_of = made(11, 80, 12)
    m = multilevel(y, x, code, 80, school_of)
    null = multilevel(y, np.empty((len(y), 0)), code, 80, school_of)
    assert m.explained_students == pytest.approx(1 - m.sigma2_students / null.sigma2_students)
    assert m.explained_schools == pytest.approx(1 - m.sigma2_schools / null.sigma2_schools)
    design = np.column_stack([np.ones(len(y)), x])
    _, without = dense_mixed.best(y, design, [code], [10.0, 100.0])
    ratio, p = m.test_schools
    assert ratio == pytest.approx(without - m.criterion, abs=1e-5)
    assert 0 < p < 0.5


def test_bad_input_is_refused() -> None:
    with pytest.raises(ValueError, match="at least two students"):
        multilevel(np.array([np.nan, 1]), np.empty((2, 0)), np.array([0, 0]), 1)
    with pytest.raises(ValueError, match="must vary"):
        multilevel(np.ones(9), np.empty((9, 0)), np.repeat([0, 1, 2], 3), 3)
    with pytest.raises(ValueError, match="rows"):
        multilevel(np.ones(9), np.empty((8, 0)), np.repeat([0, 1, 2], 3), 3)
    with pytest.raises(ValueError, match="two groups"):
        multilevel(YIELDS, np.empty((30, 0)), np.repeat(np.arange(6), 5), 6).classes.difference(
            1, 1
        )


def test_convergence_facts_are_handed_on() -> None:
    y, x, code, school_of = made(12, 400, 40)
    found = solve(cross_products(y, x, code, 400, school_of))
    assert found.converged
    assert found.slope < 1e-4
    assert found.steps < 30
