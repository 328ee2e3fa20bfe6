"""Groups beside their rest on each question: against a plain loop, and where nothing is true."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats

from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.items.beside import beside_rest, spread_of
from bridge_chart.core.trust.discoveries import discoveries


def plain_spread(y: Floats, classes: Integers) -> tuple[float, float, int]:
    """Variance within and between, by the definition, one student at a time."""
    kept = [(float(v), int(c)) for v, c in zip(y, classes, strict=True) if v == v]
    groups: dict[int, list[float]] = {}
    for value, one in kept:
        groups.setdefault(one, []).append(value)
    inside = sum((v - sum(g) / len(g)) ** 2 for g in groups.values() for v in g)
    df = len(kept) - len(groups)
    known = {c: g for c, g in groups.items() if c >= 0}
    size = sum(map(len, known.values()))
    if len(known) < 2:
        return inside / df, 0.0, df
    mean = sum(map(sum, known.values())) / size
    square = sum(len(g) * (sum(g) / len(g) - mean) ** 2 for g in known.values()) / (len(known) - 1)
    typical = (size - sum(len(g) ** 2 for g in known.values()) / size) / (len(known) - 1)
    return inside / df, max(0.0, (square - inside / df) / typical), df


def plain_p(
    y: Floats, mine: Mask, others: Mask, used: Mask, classes: Integers
) -> tuple[float, float]:
    """Difference and p of one group on one question."""
    there = ~np.isnan(y)
    used = there & used
    within, between, df = plain_spread(y[used], classes[used])
    a, b = mine & there, others & ~mine & there
    own = {int(c) for c in classes[mine] if c >= 0}
    lean = 0.0
    for one in {int(c) for c in classes if c >= 0}:
        if own == {one}:
            continue
        w = np.count_nonzero(a & (classes == one)) / a.sum()
        lean += (w - np.count_nonzero(b & (classes == one)) / b.sum()) ** 2
    variance = within * (1 / a.sum() + 1 / b.sum()) + between * lean
    span = float(y[a].mean() - y[b].mean())
    return span, float(2 * stats.t.sf(abs(span) / np.sqrt(variance), df))


def district(rng: np.random.Generator, between: float = 0.0) -> tuple[Floats, Integers]:
    """Twelve classes of unlike size and eight questions of unlike difficulty."""
    sizes = rng.integers(15, 31, 12)
    classes = np.repeat(np.arange(12), sizes)
    lift = rng.normal(0, between, (12, 8))[classes]
    chance = np.clip(rng.uniform(0.2, 0.85, 8) + lift, 0.02, 0.98)
    share = (rng.random((len(classes), 8)) < chance).astype(float)
    share[rng.random(share.shape) < 0.03] = np.nan
    return share, classes


@pytest.mark.parametrize("seed", range(6))
def test_as_a_plain_loop_has_it(seed: int) -> None:
    rng = np.random.default_rng(seed)
    share, classes = district(rng, 0.1)
    share[:, 6] = np.round(share[:, 6] * rng.random(len(share)) * 4) / 4
    classes = np.where(rng.random(len(classes)) < 0.05, -1, classes)
    others = rng.random(len(classes)) < 0.9
    members = np.array([
        classes == 3, rng.random(len(classes)) < 0.5,
        (classes == 4) & (rng.random(len(classes)) < 0.5),
        np.isin(classes, (1, 2)), np.isin(classes, (5, -1)),
    ])  # fmt: skip
    found = beside_rest(share, members, others, classes)
    used = others | members.any(axis=0)
    for group, mine in enumerate(members):
        for question in range(share.shape[1]):
            span, p = plain_p(share[:, question], mine, others, used, classes)
            assert found.span[group, question] == pytest.approx(span)
            assert found.p[group, question] == pytest.approx(p)


def test_variances_are_those_of_a_balanced_layout() -> None:
    """Two classes of two: within ½ (each class ½, ½), between by hand."""
    spread = spread_of(np.array([[0.0], [1], [4], [5]]), np.array([0, 0, 1, 1]))
    assert spread.within.tolist() == [0.5]
    # Means ½ and 4½: mean square between is 2·(2² + 2²) = 16; (16 − ½) / 2.
    assert spread.between.tolist() == [7.75]


@pytest.mark.parametrize("between", [0.0, 0.12])
def test_where_no_class_differs_but_by_luck_few_are_told_apart(between: float, many: int) -> None:
    """Everybody of some classes against the rest: of districts in which that is but another draw of
    classes, one in twenty has any question marked."""
    rng = np.random.default_rng(5)
    districts = max(300, min(many, 3000))
    wrong = 0
    for _ in range(districts):
        share, classes = district(rng, between)
        mine = classes < 4
        found = beside_rest(share, mine[None, :], np.ones(len(classes), bool), classes)
        wrong += bool(discoveries(found.p[0]).any())
    assert wrong / districts < 0.085


def test_nobody_and_nothing_that_varies_have_no_figure() -> None:
    share = np.array([[1.0, np.nan], [1.0, 0.5], [1.0, 0.0]])
    members = np.array([[True, False, False], [False, False, False]])
    found = beside_rest(share, members, np.ones(3, bool), np.full(3, -1))
    assert found.n.tolist() == [[1, 0], [0, 0]]
    assert np.isnan(found.span[0, 1])
    assert np.isnan(found.span[1]).all()
    assert found.span[0, 0] == 0
    assert np.isnan(found.p[0, 0])
    with pytest.raises(ValueError, match="members must be"):
        beside_rest(share, members[:, :2], np.ones(3, bool), np.full(3, -1))
