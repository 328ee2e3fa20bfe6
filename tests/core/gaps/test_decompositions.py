"""Gaps taken apart: published answers, exact sums, brute force over orders, the bootstrap."""

from __future__ import annotations

from itertools import permutations

import numpy as np
import pytest
import statsmodels.api as sm
from statsmodels.stats.oaxaca import OaxacaBlinder

from bridge_chart.core.gaps.blinder_oaxaca import Block, blinder_oaxaca
from bridge_chart.core.gaps.kitagawa import kitagawa


def steps(found) -> dict[str, float]:
    return {step.name: step.value for step in found.steps}


def test_kitagawa_published() -> None:
    found = kitagawa(
        np.array([60.0, 40]), np.array([0.8, 0.5]), np.array([30.0, 70]), np.array([0.7, 0.4]),
        ["start"],
    )  # fmt: skip
    assert found.gap == pytest.approx(0.19)
    assert steps(found) == pytest.approx({"start": 0.09, "how each does": 0.10})


def shares_of(w: np.ndarray, order: tuple[int, ...]) -> list[np.ndarray]:
    """w as a product of conditionals in one order: w(f1)·w(f2 | f1)·…; one array per factor."""
    out = [np.ones(w.shape)] * w.ndim
    for k, f in enumerate(order):
        known = order[:k]
        top = w.sum(axis=tuple(a for a in range(w.ndim) if a not in (*known, f)), keepdims=True)
        bottom = w.sum(axis=tuple(a for a in range(w.ndim) if a not in known), keepdims=True)
        out[f] = np.broadcast_to(top / bottom, w.shape)
    return out


def brute(wa, ra, wb, rb):
    """Das Gupta's effects by averaging logs over all orders, then changes over all orders."""
    orders = list(permutations(range(wa.ndim)))
    terms = []
    for w in (wa, wb):
        logs = [np.zeros(w.shape) for _ in range(w.ndim)]
        for order in orders:
            for f, part in enumerate(shares_of(w, order)):
                logs[f] = logs[f] + np.log(part) / len(orders)
        terms.append([np.exp(log) for log in logs])
    effects = np.zeros(wa.ndim)
    for order in orders:
        now = list(terms[1])
        for f in order:
            before = np.prod(now, axis=0)
            now[f] = terms[0][f]
            effects[f] += np.sum((ra + rb) / 2 * (np.prod(now, axis=0) - before)) / len(orders)
    return effects, np.sum((ra - rb) * (wa + wb) / 2)


@pytest.mark.parametrize("shape", [(3,), (2, 3), (2, 3, 2), (2, 2, 2, 2)])
def test_several_factors_agree_with_all_orders_and_add_up(shape: tuple[int, ...]) -> None:
    rng = np.random.default_rng(len(shape))
    counts = [rng.integers(5, 60, shape).astype(float) for _ in range(2)]
    rates = [rng.random(shape) for _ in range(2)]
    names = [f"f{k}" for k in range(len(shape))]
    found = kitagawa(counts[0], rates[0], counts[1], rates[1], names)
    w = [c / c.sum() for c in counts]
    effects, did = brute(w[0], rates[0], w[1], rates[1])
    values = [step.value for step in found.steps]
    np.testing.assert_allclose(values, [*effects, did], atol=1e-12)
    assert sum(values) == pytest.approx(found.gap, abs=1e-14)
    turned = kitagawa(counts[1], rates[1], counts[0], rates[0], names)
    np.testing.assert_allclose([s.value for s in turned.steps], [-v for v in values], atol=1e-12)


def test_cells_with_one_group_only_are_a_step_of_their_own() -> None:
    found = kitagawa(
        np.array([50.0, 30, 20]), np.array([0.9, 0.5, 0.2]), np.array([40.0, 60, 0]),
        np.array([0.8, 0.4, np.nan]), ["school"],
    )  # fmt: skip
    assert found.no_counterpart.tolist() == [False, False, True]
    assert found.students_without == (20, 0)
    assert sum(s.value for s in found.steps) == pytest.approx(found.gap, abs=1e-14)
    alone = steps(found)["no counterpart in B"]
    assert alone == pytest.approx(found.rate_a - (50 * 0.9 + 30 * 0.5) / 80)
    with pytest.raises(ValueError, match="share at least one cell"):
        kitagawa(np.array([1.0, 0]), np.ones(2), np.array([0.0, 1]), np.ones(2), ["x"])
    with pytest.raises(ValueError, match="variances"):
        kitagawa(np.ones(2), np.full(2, 300.0), np.ones(2), np.ones(2), ["x"])
    with pytest.raises(ValueError, match="one factor per axis"):
        kitagawa(np.ones(2), np.ones(2), np.ones(2), np.ones(2), ["x", "y"])


def test_kitagawa_errors_agree_with_the_bootstrap() -> None:
    rng = np.random.default_rng(8)
    cells = np.array([[120, 80, 40], [60, 90, 110]])
    rates = np.array([[0.7, 0.5, 0.3], [0.8, 0.6, 0.35]])
    found = kitagawa(*(x for k in (0, 1) for x in (cells[k].astype(float), rates[k])), ["start"])
    drawn = []
    for _ in range(1500):
        args = []
        for k in (0, 1):
            n = rng.multinomial(cells[k].sum(), cells[k] / cells[k].sum()).astype(float)
            args += [n, rng.binomial(n.astype(int), rates[k]) / n]
        drawn.append([s.value for s in kitagawa(*args, ["start"]).steps])
    np.testing.assert_allclose([s.se for s in found.steps], np.std(drawn, axis=0), rtol=0.07)


def test_blinder_oaxaca_published() -> None:
    x, y = np.array([2.0, 4, 6, 0, 2, 4]), np.array([5.0, 9, 13, 1, 3, 5])
    a = np.repeat([True, False], 3)
    wanted = {"a": 4, "b": 2, "pooled_with_group": 3, "pooled_without_group": 3.81818}
    for reference, value in wanted.items():
        found = blinder_oaxaca(y, a, [Block("start", x)], reference)
        assert found.gap.value == 6
        assert found.explained.value == pytest.approx(value, abs=5e-6)
        assert sum(s.value for s in found.steps) == pytest.approx(6, abs=1e-12)


def made(seed: int, n: int = 800):
    rng = np.random.default_rng(seed)
    a = rng.random(n) < 0.4
    start = rng.normal(100, 15, n) + 6 * a
    school = rng.integers(0, 6, n)
    hours = rng.normal(size=(n, 2)) + a[:, None] * [0.3, -0.2]
    y = 10 + 0.7 * start + hours @ [2, 1] + school + 3 * a + rng.normal(0, 8, n)
    return y, a, start, school, hours


def test_blinder_oaxaca_agrees_with_a_general_library() -> None:
    y, a, start, _, hours = made(1)
    design = np.column_stack([a.astype(float), start, hours])
    theirs = OaxacaBlinder(y, sm.add_constant(design), 1, hasconst=True)
    blocks = [Block("start", start), Block("hours", hours)]
    ours = blinder_oaxaca(y, a, blocks, "pooled_with_group")
    unexplained, explained, gap = theirs.two_fold(two_fold_type="pooled").params
    assert (ours.gap.value, ours.explained.value) == pytest.approx((gap, explained))
    assert steps(ours)["unexplained"] == pytest.approx(unexplained)
    z = np.column_stack([start, hours])
    for reference, rows in (("a", a), ("b", ~a), ("pooled_without_group", a | ~a)):
        slopes = sm.OLS(y[rows], sm.add_constant(z[rows])).fit().params[1:]
        found = blinder_oaxaca(y, a, blocks, reference).explained.value
        assert found == pytest.approx((z[a].mean(axis=0) - z[~a].mean(axis=0)) @ slopes)


def test_pooled_with_group_is_least_squares_with_the_dummy() -> None:
    y, a, start, school, _ = made(2)
    dummies = (school[:, None] == np.arange(1, 6)).astype(float)
    fit = sm.OLS(y, np.column_stack([np.ones(len(y)), a, start, dummies])).fit()
    found = steps(blinder_oaxaca(y, a, [Block("start", start), Block("school", codes=school)]))
    assert found["unexplained"] == pytest.approx(fit.params[1])
    apart = start[a].mean() - start[~a].mean()
    assert found["start"] == pytest.approx(fit.params[2] * apart)
    away = dummies[a].mean(axis=0) - dummies[~a].mean(axis=0)
    assert found["school"] == pytest.approx(fit.params[3:] @ away)


def test_a_factors_sum_does_not_depend_on_how_its_categories_are_numbered() -> None:
    y, a, start, school, _ = made(3)
    one = blinder_oaxaca(y, a, [Block("start", start), Block("school", codes=school)])
    turned = (5 - school) % 6
    other = blinder_oaxaca(
        10 * y + 3, a, [Block("start", start / 7), Block("school", codes=turned)]
    )
    for mine, theirs in zip(one.steps, other.steps, strict=True):
        assert (10 * mine.value, 10 * mine.se) == pytest.approx((theirs.value, theirs.se), rel=1e-7)


def test_schools_with_one_group_only_are_set_apart_and_the_steps_still_add_up() -> None:
    y, a, start, school, _ = made(4)
    school = np.where(a & (school == 5), 6, school)  # school 5: B only, 6: A only
    start[7] = np.nan
    found = blinder_oaxaca(
        y, a, [Block("start", start), Block("school", codes=school, needs_both=True)]
    )
    alone = int(np.isin(school, (5, 6)).sum()) - int(school[7] in (5, 6))
    assert (found.alone, found.missing) == (alone, 1)
    assert "no counterpart" in steps(found)
    assert sum(s.value for s in found.steps) == pytest.approx(found.gap.value, abs=1e-12)


def test_intervals_agree_with_the_bootstrap() -> None:
    y, a, start, school, hours = made(5)
    blocks = [Block("start", start), Block("school", codes=school), Block("hours", hours)]
    found = blinder_oaxaca(y, a, blocks)
    rng = np.random.default_rng(1)
    drawn = []
    for _ in range(600):
        r = rng.integers(0, len(y), len(y))
        again = blinder_oaxaca(
            y[r], a[r],
            [Block("start", start[r]), Block("school", codes=school[r]), Block("hours", hours[r])],
        )  # fmt: skip
        drawn.append([*(s.value for s in again.steps), again.gap.value])
    ours = [*(s.se for s in found.steps), found.gap.se]
    np.testing.assert_allclose(ours, np.std(drawn, axis=0), rtol=0.12)
    welch = np.sqrt(y[a].var(ddof=1) / a.sum() + y[~a].var(ddof=1) / (~a).sum())
    assert found.gap.se == pytest.approx(welch, rel=0.01)


def test_clusters_widen_and_bad_input_is_refused() -> None:
    y, a, start, school, _ = made(6)
    y = y + 5 * np.random.default_rng(1).normal(size=6)[school]
    plain = blinder_oaxaca(y, a, [Block("start", start)])
    grouped = blinder_oaxaca(y, a, [Block("start", start)], clusters=school)
    assert grouped.explained.se != plain.explained.se
    assert grouped.gap.value == plain.gap.value
    with pytest.raises(ValueError, match="both groups"):
        blinder_oaxaca(y, np.ones(len(y), bool), [Block("start", start)])
    with pytest.raises(ValueError, match="one value or code"):
        blinder_oaxaca(y, a, [Block("start")])
    with pytest.raises(ValueError, match="reference"):
        blinder_oaxaca(y, a, [Block("start", start)], "other")
    with pytest.raises(ValueError, match="more students than columns"):
        blinder_oaxaca(y[:3], np.array([True, False, True]), [Block("x", np.eye(3))])
