"""Contrasts against their definition, and whether they are as sure as they say."""

from __future__ import annotations

import numpy as np
import pytest
from scipy import stats
from tests.core.reference.dense_contrast import variance
from tests.core.reference.dense_mixed import best

from bridge_chart.core.contrasts.components import class_components
from bridge_chart.core.contrasts.differ import groups_differ, splits_interact
from bridge_chart.core.contrasts.noise import Noise, alike_spreads, noise_of
from bridge_chart.core.contrasts.rows import Elsewhere, Sample, against_fit, against_rest, alone

WIDE = Noise(1.0, 0.0, 0.3, 0.2, 9)
"""Each row has its own variance; a class adds .3."""


def made(seed: int, schools: int = 4, missing: float = 0.1) -> Sample:
    rng = np.random.default_rng(seed)
    school_of_class = np.repeat(np.arange(schools), rng.integers(1, 4, schools))
    classes = rng.integers(-1, len(school_of_class), 200)
    values = rng.normal(size=200)
    values[rng.random(200) < missing] = np.nan
    return Sample(values, values - np.nanmean(values), classes, school_of_class, WIDE)


def there(sample: Sample, mask: np.ndarray) -> np.ndarray:
    return np.flatnonzero(mask & ~np.isnan(sample.values))


@pytest.mark.parametrize("seed", range(4))
def test_a_row_alone_is_its_definition(seed: int) -> None:
    sample, rng = made(seed), np.random.default_rng(seed)
    code = rng.integers(0, 5, 200)
    found = alone(sample, np.arange(200), code, 5)
    for row in range(5):
        mine = there(sample, code == row)
        own = float(sample.values[mine].var(ddof=1))
        total, spread = variance([(1, mine, own)], sample.classes, sample.school_of_class, 1, 0.3)
        assert found.value[row] == pytest.approx(sample.values[mine].mean())
        assert found.se[row] == pytest.approx(np.sqrt(total))
        assert found.classes[row] == pytest.approx(spread)
        student = own / len(mine)
        doubt = student**2 / (len(mine) - 1) + (spread * 0.2) ** 2 / 2
        assert found.df[row] == pytest.approx(total**2 / doubt)
        margin = stats.t.ppf(0.975, found.df[row]) * found.se[row]
        assert found.high[row] - found.value[row] == pytest.approx(margin)


@pytest.mark.parametrize("seed", range(6))
def test_a_row_against_the_rest_is_its_definition(seed: int) -> None:
    """Also where a student stands in two rows, and rows hold some who are no members."""
    sample, rng = made(seed), np.random.default_rng(seed)
    at = np.concatenate([np.arange(200), rng.choice(200, 20, replace=False)])
    code = np.concatenate([rng.integers(0, 4, 200), np.full(20, 4)])
    member = rng.random(200) < 0.8
    found = against_rest(sample, at, code, 5, member)
    for row in range(5):
        inside = np.zeros(200, bool)
        inside[at[code == row]] = True
        mine, rest = there(sample, inside), there(sample, member & ~inside)
        sides = [(1, mine, sample.values[mine].var(ddof=1)),
                 (-1, rest, sample.values[rest].var(ddof=1))]  # fmt: skip
        total, _ = variance(sides, sample.classes, sample.school_of_class, 1, 0.3)
        gap = sample.values[mine].mean() - sample.values[rest].mean()
        assert (found.value[row], found.rest_n[row]) == (pytest.approx(gap), len(rest))
        assert found.se[row] == pytest.approx(np.sqrt(total))


def test_without_classes_it_is_two_unequal_groups() -> None:
    plain = made(3)
    sample = Sample(plain.values, plain.residual, np.full(200, -1), np.zeros(0, int),
                    Noise(1.0, 0.0, np.nan, np.nan, 0))  # fmt: skip
    code = np.arange(200) % 3
    found = against_rest(sample, np.arange(200), code, 3, np.ones(200, bool))
    for row in range(3):
        one, two = (plain.values[m & ~np.isnan(plain.values)] for m in (code == row, code != row))
        test = stats.ttest_ind(one, two, equal_var=False)
        assert found.p[row] == pytest.approx(test.pvalue)
        assert found.df[row] == pytest.approx(test.df)


def test_others_elsewhere_are_part_of_the_rest() -> None:
    values = np.random.default_rng(1).normal(size=100)
    sample = Sample(values, values, np.full(100, -1), np.zeros(0, int), Noise(1.0, 0, 0, 0, 0))
    row = np.arange(20)
    all_of_them = against_rest(sample, row, np.zeros(20, int), 1, np.ones(100, bool))
    known = np.arange(100) < 60
    others = Elsewhere(40, values[60:].mean(), values[60:].std(ddof=1), 1.0)
    parted = against_rest(sample, row, np.zeros(20, int), 1, known, others)
    for name in ("value", "se", "df", "rest_n"):
        assert getattr(parted, name)[0] == pytest.approx(getattr(all_of_them, name)[0])


def test_a_row_that_drew_its_own_line_is_not_judged() -> None:
    sample = made(5, missing=0.0)
    strata = np.arange(200) % 2
    values = sample.values - np.array([sample.values[strata == k].mean() for k in (0, 1)])[strata]
    sample = Sample(values, values, sample.classes, sample.school_of_class, WIDE)
    found = against_fit(sample, np.arange(200), strata, 2, strata)
    assert np.isnan(found.se).all()
    assert found.rest_n.tolist() == [0, 0]
    assert found.value == pytest.approx([0, 0], abs=1e-12)


def test_a_line_is_drawn_anew_through_each_cohort() -> None:
    """The error of a mean residual, by drawing cohorts and fitting the line to each."""
    rng = np.random.default_rng(2)
    x, row = rng.normal(size=120), np.arange(120) < 50
    drawn = []
    for _ in range(4000):
        y = 0.8 * x + rng.normal(size=120)
        slope, start = np.polyfit(x, y, 1)
        drawn.append((y - slope * x - start)[row].mean())
    noise = Noise(1.0, 1e9, np.nan, np.nan, 0)
    sample = Sample(np.zeros(120), np.zeros(120), np.full(120, -1), np.zeros(0, int), noise)
    found = against_fit(sample, np.arange(120), np.where(row, 0, -1), 1, np.zeros(120, int))
    assert found.se[0] == pytest.approx(np.std(drawn), rel=0.05)


@pytest.mark.parametrize("seed", range(3))
def test_components_are_those_of_the_written_out_likelihood(seed: int) -> None:
    rng = np.random.default_rng(seed)
    strata_of = np.array([0, 0, 0, 1, 1, 2, 2, 2])
    classes = np.repeat(np.arange(8), rng.integers(4, 11, 8))
    y = rng.normal(size=len(classes)) + rng.normal(size=8)[classes] + strata_of[classes]
    x = (strata_of[classes][:, None] == np.arange(3)).astype(float)
    between, within = best(y, x, [classes], np.array([0.5, 1.0]))[0]
    found = class_components(y, classes, strata_of[classes])
    assert found.between == pytest.approx(between, rel=1e-3, abs=1e-4)
    assert found.within == pytest.approx(within, rel=1e-3)
    assert found.classes == 8


def test_the_error_of_a_component_is_how_far_it_strays() -> None:
    rng = np.random.default_rng(4)
    classes = np.repeat(np.arange(60), 20)
    found, said = [], []
    for _ in range(300):
        y = rng.normal(size=1200) + 0.4 * rng.normal(size=60)[classes]
        parts = class_components(y, classes, classes // 3)
        found.append(parts.between)
        said.append(parts.between_error)
    assert np.mean(found) == pytest.approx(0.16, abs=0.01)
    assert np.mean(said) == pytest.approx(np.std(found), rel=0.15)


def test_a_class_by_itself_says_nothing_of_classes() -> None:
    found = class_components(np.arange(20.0) % 7, np.arange(20) // 10, np.arange(20) // 10)
    assert (found.classes, np.isnan(found.between)) == (0, True)
    assert not noise_of(np.arange(20.0) % 7, np.full(20, -1), np.zeros(20, int)).known


def test_spreads_that_differ_are_not_taken_together() -> None:
    rng = np.random.default_rng(6)
    same = rng.chisquare(24, 60) / 24
    assert alike_spreads(same, np.full(60, 24)) == 30.0
    apart = same * rng.choice([0.3, 1.0, 3.0], 60)
    assert alike_spreads(apart, np.full(60, 24)) < 8


def test_whether_groups_differ_is_the_analysis_of_variance_where_classes_add_nothing() -> None:
    rng = np.random.default_rng(3)
    codes = rng.integers(0, 5, 600)
    y = rng.normal(size=600) + 0.2 * codes
    sample = Sample(y, y, np.full(600, -1), np.zeros(0, int), Noise(1.0, 0, np.nan, np.nan, 0))
    f, p = stats.f_oneway(*(y[codes == k] for k in range(5)))
    found = groups_differ(sample, np.arange(600), codes)
    assert (found.f, found.p) == (pytest.approx(f), pytest.approx(p))
    assert (found.df, found.df_error) == (4, pytest.approx(595))
    assert np.isnan(groups_differ(sample, np.arange(600), np.zeros(600, int)).p)


def district(rng: np.random.Generator, added: float) -> tuple[Sample, np.ndarray]:
    """Eleven schools in which only classes differ."""
    school_of_class = np.repeat(np.arange(11), rng.integers(2, 5, 11))
    classes = np.repeat(np.arange(len(school_of_class)), rng.poisson(22, len(school_of_class)))
    values = 0.6 * rng.normal(size=len(classes))
    values += added * rng.normal(size=len(school_of_class))[classes]
    school = school_of_class[classes]
    noise = noise_of(values - values.mean(), classes, school)
    return Sample(values, values - values.mean(), classes, school_of_class, noise), school


@pytest.mark.parametrize("added", [0.0, 0.1, 0.25])
def test_schools_that_do_not_differ_are_seldom_said_to(added: float) -> None:
    """Coverage of a school against the rest, and tests of schools and of school × sex."""
    rng = np.random.default_rng(7)
    inside = schools = apart = crossed = 0
    for _ in range(150):
        sample, school = district(rng, added)
        at, sex = np.arange(len(school)), rng.integers(0, 2, len(school))
        found = against_rest(sample, at, school, 11, np.ones(len(school), bool))
        inside += int(((found.low < 0) & (found.high > 0)).sum())
        schools += 11
        apart += groups_differ(sample, at, school).p < 0.05
        crossed += splits_interact(sample, at, school, sex).p < 0.05
    assert 0.93 < inside / schools < 0.985
    assert apart <= 14  # 7.5 are expected, with an sd of 2.7
    assert crossed <= 14


def test_schools_that_do_differ_are_found() -> None:
    rng = np.random.default_rng(8)
    found = 0
    for _ in range(40):
        sample, school = district(rng, 0.1)
        moved = sample.values + 0.4 * (school % 3 == 0)
        sample = Sample(moved, moved - moved.mean(), sample.classes, sample.school_of_class,
                        sample.noise)  # fmt: skip
        found += groups_differ(sample, np.arange(len(school)), school).p < 0.05
    assert found >= 30
