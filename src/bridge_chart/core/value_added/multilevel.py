"""The multilevel model: groups' effects, shrunken by how much their figures can be trusted."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from scipy import special

from bridge_chart.core.arrays import Codes, Floats, Integers
from bridge_chart.core.distributions import normal_quantile
from bridge_chart.core.estimate import NAN, Estimate, interval_of, undefined
from bridge_chart.core.value_added.cross_products import CrossProducts, cross_products
from bridge_chart.core.value_added.reml import Solution, solve

FEWEST_GROUPS = 10
NONE_DETECTED = "no difference between groups detected"


@dataclass(frozen=True)
class GroupEffects:
    """One level's groups; arrays (groups,), NaN for a group without students.

    estimate: û, shrunken; comparative_se = √Var(û − u); conditional_se: the same were β known.
    reliability = 1 − Var(û − u)/σ²_u. raw: the mean residual, raw_se its sampling error given β
    (students', and for schools of three levels classes' too).
    low, high: NaN where the variance is 0 (`reason`): no bar of zero width.
    """

    n: Integers
    estimate: Floats
    comparative_se: Floats
    conditional_se: Floats
    reliability: Floats
    reliability_mean_known: Floats
    low: Floats
    high: Floats
    raw: Floats
    raw_se: Floats
    variance: float
    reason: str
    may_judge: bool
    # Var(û − u)/σ²_e = diag(own) + shared·shared'·spread within a school + lean·inverse·lean'
    own: Floats = field(repr=False)
    shared: Floats = field(repr=False)
    school: Integers = field(repr=False)
    spread: Floats = field(repr=False)
    lean: Floats = field(repr=False)
    inverse: Floats = field(repr=False)
    sigma2: float = field(repr=False)

    def covariance(self, i: int, j: int) -> float:
        """Cov(û_i − u_i, û_j − u_j) by the mixed-model equations (Henderson 1975)."""
        out = float(self.lean[i] @ self.inverse @ self.lean[j])
        if i == j:
            out += float(self.own[i])
        if self.school[i] == self.school[j]:
            out += float(self.shared[i] * self.shared[j] * self.spread[i])
        return out * self.sigma2

    def difference(self, i: int, j: int, confidence: float = 0.95) -> Estimate:
        """û_i − û_j with the interval from Var_i + Var_j − 2·Cov (normal)."""
        n = int(self.n[i] + self.n[j])
        if self.reason == NONE_DETECTED or not (self.n[i] and self.n[j]):
            return undefined(self.reason or "a group without students", n=n)
        if i == j:
            raise ValueError("a difference needs two groups")
        variance = self.covariance(i, i) + self.covariance(j, j) - 2 * self.covariance(i, j)
        value = float(self.estimate[i] - self.estimate[j])
        return interval_of(value, float(np.sqrt(variance)), np.inf, confidence).counted(n)


@dataclass(frozen=True)
class Multilevel:
    """A fit: coefficients [intercept, columns] (NaN: depends on the others), variances, groups.

    criterion: −2·log restricted likelihood. classes: effect within the school (two levels: the
    groups); schools and classes_in_all (class + its school) only with three levels.
    test_*: likelihood ratio and p against no variance at that level (½χ²₀ + ½χ²₁).
    explained_*: 1 − σ²/σ²(null model, same students); may be negative.
    """

    n: int
    missing: int
    coefficients: Floats
    coefficient_se: Floats
    sigma2_students: float
    sigma2_classes: float
    sigma2_schools: float
    criterion: float
    steps: int
    converged: bool
    classes: GroupEffects
    schools: GroupEffects | None
    classes_in_all: GroupEffects | None
    test_classes: tuple[float, float]
    test_schools: tuple[float, float]
    explained_students: float
    explained_classes: float
    explained_schools: float


def multilevel(
    outcome: Floats,
    columns: Floats,
    classes: Codes,
    class_count: int,
    school_of_class: Integers | None = None,
    offset: Floats | None = None,
    confidence: float = 0.95,
) -> Multilevel:
    """y = Xβ + u_school (+ u_class) + e by restricted maximum likelihood (Patterson & Thompson
    1971), groups by best linear unbiased prediction (Henderson 1975).

    Two levels: `classes` are the groups (schools, say). Three: classes nested in schools. Columns
    (students, p) come without the intercept, e.g. a prior's columns by `expected.design`; `offset`
    is an expected outcome from a table. Missing values and errors as `cross_products`. Fewer than
    FEWEST_GROUPS groups: estimates, but may_judge is False.

    >>> y = np.array([1545, 1440, 1440, 1520, 1580, 1540, 1555, 1490, 1560, 1495, 1595, 1550, 1605,
    ...  1510, 1560, 1445, 1440, 1595, 1465, 1545, 1595, 1630, 1515, 1635, 1625, 1520, 1455, 1450,
    ...  1480, 1445.])
    >>> m = multilevel(y, np.empty((30, 0)), np.repeat(np.arange(6), 5), 6)
    >>> round(float(m.coefficients[0]), 4), round(m.sigma2_classes, 2), round(m.sigma2_students, 2)
    (1527.5, 1764.05, 2451.25)
    >>> m.classes.estimate.round(4).tolist()
    [-17.6069, 0.3913, 28.5622, -23.0845, 56.7332, -44.9953]
    """
    stats = cross_products(outcome, columns, classes, class_count, school_of_class, offset)
    return multilevel_from(stats, confidence)


def multilevel_from(stats: CrossProducts, confidence: float = 0.95) -> Multilevel:
    """The same from kept cross-products: a refit without the students.

    >>> stats = cross_products(np.array([1., 2, 3, 2, 3, 4, 6, 7, 8]), np.empty((9, 0)),
    ...                        np.repeat([0, 1, 2], 3), 3)
    >>> m = multilevel_from(stats)
    >>> round(m.sigma2_classes, 6), round(m.sigma2_students, 6), m.classes.may_judge
    (6.666667, 1.0, False)
    """
    found = solve(stats)
    null = solve(stats.without_columns(), start=found.ratios) if len(stats.kept) else found
    coefficients, errors = _coefficients(stats, found)
    lc = float(found.ratios[0])
    ls = float(found.ratios[1]) if stats.first is not None else 0.0
    sigma2 = found.profile.sigma2
    null_sigma2 = null.profile.sigma2
    schools = in_all = None
    if stats.first is None:
        classes = _classes(stats, found, lc, 0.0, "within", confidence)
    else:
        classes = _classes(stats, found, lc, ls, "within", confidence)
        in_all = _classes(stats, found, lc, ls, "in all", confidence)
        schools = _schools(stats, found, lc, ls, confidence)
    return Multilevel(
        stats.n, stats.missing, coefficients, errors, sigma2, lc * sigma2, ls * sigma2,
        found.profile.criterion, found.steps, found.converged, classes, schools, in_all,
        _against_none(stats, found, 0),
        _against_none(stats, found, 1) if stats.first is not None else (NAN, NAN),
        _explained(sigma2, null_sigma2),
        _explained(lc * sigma2, float(null.ratios[0]) * null_sigma2),
        _explained(ls * sigma2, float(null.ratios[1]) * null_sigma2) if stats.schools else NAN,
    )  # fmt: skip


def _explained(now: float, before: float) -> float:
    return 1 - now / before if before > 0 else NAN


def _coefficients(stats: CrossProducts, found: Solution) -> tuple[Floats, Floats]:
    """In the caller's units: columns unscaled, the intercept moved back to zero."""
    beta, inverse = found.profile.coefficients, found.profile.inverse
    turn = np.diag(np.concatenate([[1.0], 1 / stats.scale]))
    turn[0, 1:] = -stats.centre / stats.scale
    out, errors = np.full(stats.columns + 1, np.nan), np.full(stats.columns + 1, np.nan)
    place = np.concatenate([[0], stats.kept + 1])
    out[place] = turn @ beta
    out[0] += stats.outcome_mean
    errors[place] = np.sqrt(found.profile.sigma2 * np.diag(turn @ inverse @ turn.T))
    return out, errors


def _against_none(stats: CrossProducts, found: Solution, level: int) -> tuple[float, float]:
    """Likelihood ratio against variance 0 at one level, p = ½P(χ²₁ ≥ LR) (Self & Liang 1987)."""
    if found.ratios[level] == 0:
        return 0.0, 1.0
    without = solve(stats, fixed_at_zero=(level,), start=found.ratios)
    ratio = max(without.profile.criterion - found.profile.criterion, 0.0)
    return ratio, float(special.chdtrc(1, ratio)) / 2


def _pieces(
    stats: CrossProducts, found: Solution, lc: float, ls: float
) -> tuple[Floats, Floats, Floats, Floats, Integers]:
    """Per class a = 1/(1+λ_c n) and residual sum; per school D and Σa·sums; class → school."""
    side = np.append(-found.profile.coefficients, 1.0)
    a = 1.0 / (1.0 + lc * stats.size)
    if stats.first is None:
        every = np.arange(len(a))
        return a, stats.sums @ side, np.zeros(len(a)), np.zeros_like(stats.sums), every
    place = np.repeat(np.arange(len(stats.first)), np.diff(stats.first, append=len(a)))
    r = np.add.reduceat(stats.sums * a[:, None], stats.first)
    w = np.add.reduceat(stats.size * a, stats.first)
    return a, stats.sums @ side, ls / (1.0 + ls * w), r, place


def _classes(
    stats: CrossProducts, found: Solution, lc: float, ls: float, kind: str, confidence: float
) -> GroupEffects:
    a, residual, spread, r, place = _pieces(stats, found, lc, ls)
    d = lc * a
    side = np.append(-found.profile.coefficients, 1.0)
    above = spread * (r @ side)  # û of each school
    lean_above = (spread[:, None] * r)[place]
    nd = stats.size * d
    estimate = d * residual - nd * above[place]
    lean = d[:, None] * stats.sums - nd[:, None] * lean_above
    shared = nd
    variance = lc
    if kind == "in all":
        estimate, lean, shared = estimate + above[place], lean + lean_above, a
        variance = lc + ls
    return _effects(
        stats, found, stats.class_code, stats.classes, stats.size, estimate, d, shared, place,
        spread[place], lean, residual / stats.size, 1 / stats.size, variance, confidence,
    )  # fmt: skip


def _schools(
    stats: CrossProducts, found: Solution, lc: float, ls: float, confidence: float
) -> GroupEffects:
    assert stats.first is not None
    assert stats.school is not None
    _, residual, spread, r, _ = _pieces(stats, found, lc, ls)
    side = np.append(-found.profile.coefficients, 1.0)
    n = np.add.reduceat(stats.size, stats.first)
    raw = np.add.reduceat(residual, stats.first) / n
    none = np.zeros(len(n))
    sampling = 1 / n + lc * np.add.reduceat(stats.size**2, stats.first) / n**2
    return _effects(
        stats, found, stats.school[stats.first], stats.schools, n, spread * (r @ side), spread,
        none, np.arange(len(n)), none, spread[:, None] * r, raw, sampling, ls, confidence,
    )  # fmt: skip


def _effects(
    stats: CrossProducts, found: Solution, codes: Integers, groups: int, n: Floats,
    estimate: Floats, own: Floats, shared: Floats, school: Integers, spread: Floats, lean: Floats,
    raw: Floats, sampling: Floats, ratio: float, confidence: float,
) -> GroupEffects:  # fmt: skip
    """Laid out by the caller's codes, with intervals and reliabilities."""
    sigma2, inverse = found.profile.sigma2, found.profile.inverse
    tilt = lean[:, :-1]
    known = own + shared**2 * spread
    total = known + np.einsum("ij,jk,ik->i", tilt, inverse, tilt)
    comparative, conditional = np.sqrt(sigma2 * total), np.sqrt(sigma2 * known)
    reach = normal_quantile(0.5 + confidence / 2) * comparative
    reason = "" if ratio > 0 else NONE_DETECTED
    if ratio == 0:
        reach = comparative = conditional = np.full(len(n), np.nan)
    elif len(n) < FEWEST_GROUPS:
        reason = f"fewer than {FEWEST_GROUPS} groups: no verdicts"
    with np.errstate(invalid="ignore", divide="ignore"):
        reliability, with_mean = 1 - total / ratio, 1 - known / ratio

    def laid(values: Floats) -> Floats:
        out = np.full(groups, np.nan)
        out[codes] = values
        return out

    counted = np.zeros(groups, np.int64)
    counted[codes] = n.astype(np.int64)
    schools = np.full(groups, -1, np.int64)
    schools[codes] = school
    leans = np.zeros((groups, tilt.shape[1]))
    leans[codes] = tilt
    return GroupEffects(
        counted, laid(estimate), laid(comparative), laid(conditional), laid(reliability),
        laid(with_mean), laid(estimate - reach), laid(estimate + reach), laid(raw),
        laid(np.sqrt(sigma2 * sampling)), ratio * sigma2, reason,
        ratio > 0 and len(n) >= FEWEST_GROUPS,
        laid(own), laid(shared), schools, laid(spread), leans, inverse, sigma2,
    )  # fmt: skip
