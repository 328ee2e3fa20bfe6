"""Expected outcomes by regression on one or several priors, and covariates if asked."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Codes, Floats, Integers, Mask, check_codes
from bridge_chart.core.estimate import NAN
from bridge_chart.core.expected.design import Form, PriorForm, prior_form
from bridge_chart.core.expected.line import FEWEST_TO_FIT


@dataclass(frozen=True)
class Fit:
    """One regression: of one stratum (year level) and one pattern of priors present.

    priors: which of them enter; dropped: priors that do not vary here. coefficients: intercept,
    then each prior's columns, then covariates (NaN for a column that depends on the others).
    """

    stratum: int
    priors: tuple[int, ...]
    n: int
    coefficients: Floats
    residual_sd: float
    r_squared: float
    forms: tuple[PriorForm, ...]
    dropped: tuple[int, ...] = ()
    reason: str = ""


@dataclass(frozen=True)
class Expectation:
    """expected, residual, prediction_error: (students,), NaN where there is none.

    fit: (students,) which fit gives a student's expectation, −1 = none. prediction_error: the
    residual sd of that fit with the error of the fitted curve at that student's priors.
    """

    expected: Floats
    residual: Floats
    prediction_error: Floats
    fit: Integers
    fits: tuple[Fit, ...]


def expected_outcome(
    outcome: Floats,
    priors: Floats,
    *,
    form: Form = "linear",
    strata: Codes | None = None,
    basis: Mask | None = None,
    covariates: Floats | None = None,
) -> Expectation:
    """What students who started alike reach, by least squares.

    Apart in each stratum and each pattern of priors present (a student with two of three priors is
    held against everyone by these two): fitted on all of `basis` who have *at least* these
    priors. linear; cubic (the prior standardised first); spline (natural cubic, knots at the
    .05/.275/.5/.725/.95 quantiles). Covariates (students, k) enter as they are and must be there.
    A fit needs FEWEST_TO_FIT students and twice as many as it has columns, else its students have
    no expectation. Filtering never moves an expectation: basis is the district, not the view.

    outcome: (students,), priors: (students,) or (students, k), NaN = missing.
    Errors: ValueError on shapes. Source: Draper & Smith (1998); Harrell (2001).

    >>> x = np.arange(60.0); e = expected_outcome(3 * x + 1, x)
    >>> round(float(e.expected[10]), 6), e.fits[0].n, round(e.fits[0].r_squared, 6)
    (31.0, 60, 1.0)
    """
    y = np.asarray(outcome, np.float64)
    x = np.asarray(priors, np.float64)
    x = x[:, None] if x.ndim == 1 else x
    z = np.empty((len(y), 0)) if covariates is None else np.asarray(covariates, np.float64)
    z = z[:, None] if z.ndim == 1 else z
    if len(x) != len(y) or len(z) != len(y):
        raise ValueError("outcome, priors and covariates must have one row per student")
    if x.shape[1] > 20:
        raise ValueError(f"there must be at most 20 priors; there are {x.shape[1]}")
    stratum = np.zeros(len(y), np.int64) if strata is None else np.asarray(strata, np.int64)
    count = int(stratum.max(initial=-1)) + 1
    check_codes(stratum, len(y), count)
    pattern = (~np.isnan(x)) @ (1 << np.arange(x.shape[1]))
    usable = (pattern > 0) & (stratum >= 0) & ~np.isnan(z).any(axis=1)
    group = np.where(usable, stratum * (1 << x.shape[1]) + pattern, -1)
    fittable = usable & ~np.isnan(y)
    if basis is not None:
        fittable &= basis
    expected, error = np.full(len(y), np.nan), np.full(len(y), np.nan)
    which = np.full(len(y), -1, np.int64)
    fits: list[Fit] = []
    for code in np.unique(group[usable]):
        mine = int(code) % (1 << x.shape[1])
        level = int(code) >> x.shape[1]
        rows = fittable & (stratum == level) & ((pattern & mine) == mine)
        chosen = tuple(k for k in range(x.shape[1]) if mine >> k & 1)
        students = np.flatnonzero(group == code)
        fit, values, spread = _one_fit(y, x, z, rows, students, level, chosen, form)
        fits.append(fit)
        if not fit.reason:
            expected[students], error[students] = values, spread
            which[students] = len(fits) - 1
    return Expectation(expected, y - expected, error, which, tuple(fits))


def _one_fit(
    y: Floats, x: Floats, z: Floats, rows: Mask, students: Integers, level: int,
    chosen: tuple[int, ...], form: Form,
) -> tuple[Fit, Floats, Floats]:  # fmt: skip
    """The regression on `rows`, and what it gives for `students`: expected, prediction error."""
    n = int(np.count_nonzero(rows))
    none = np.empty(0)
    forms: list[PriorForm] = []
    kept: list[int] = []
    dropped: list[int] = []
    for k in chosen:
        made = prior_form(x[rows, k], form) if n else None
        (kept if made else dropped).append(k)
        if made:
            forms.append(made)
    if not kept:
        reason = "the prior does not vary" if n >= FEWEST_TO_FIT else "too few students"
        return Fit(level, chosen, n, none, NAN, NAN, (), tuple(dropped), reason), none, none

    def design(of: Mask | Integers) -> Floats:
        ones = np.ones((len(z[of]), 1))
        parts = [made.columns(x[of, k]) for made, k in zip(forms, kept, strict=True)]
        return np.hstack([ones, *parts, z[of]])

    fitted = design(rows)
    if n < max(FEWEST_TO_FIT, 2 * fitted.shape[1]):
        fit = Fit(level, chosen, n, none, NAN, NAN, (), tuple(dropped), "too few students")
        return fit, none, none
    centre = fitted[:, 1:].mean(axis=0)
    solved = _solve(fitted[:, 1:] - centre, y[rows])
    slopes, inverse, rank, determined = solved
    mean = float(y[rows].mean())
    left = y[rows] - mean - (fitted[:, 1:] - centre) @ slopes
    df = n - rank - 1
    total = float(np.sum((y[rows] - mean) ** 2))
    squares = float(left @ left)
    sd = float(np.sqrt(squares / df))
    r_squared = 1 - squares / total if total > 0 else NAN
    away = design(students)[:, 1:] - centre
    values = mean + away @ slopes
    spread = sd * np.sqrt(1 + 1 / n + np.einsum("ij,jk,ik->i", away, inverse, away))
    shown = np.where(determined, slopes, np.nan)
    coefficients = np.concatenate([[mean - centre @ slopes], shown])
    fit = Fit(level, chosen, n, coefficients, sd, r_squared, tuple(forms), tuple(dropped))
    return fit, values, spread


def _solve(x: Floats, y: Floats) -> tuple[Floats, Floats, int, Mask]:
    """Least squares on centred columns: slopes, (X'X)⁻¹, rank, which columns are determined.

    By singular values of the columns scaled to one length; columns that depend on others share
    the shortest solution, which leaves every fitted value right."""
    size = np.sqrt(np.sum(x * x, axis=0))
    live = size > 1e-12 * max(float(size.max(initial=0.0)), 1e-300)
    scaled = x[:, live] / size[live]
    u, s, vt = np.linalg.svd(scaled, full_matrices=False)
    kept = s > 1e-10 * s.max(initial=0.0)
    turned = vt[kept] / s[kept][:, None]
    slopes, inverse = np.zeros(x.shape[1]), np.zeros((x.shape[1], x.shape[1]))
    slopes[live] = turned.T @ (u[:, kept].T @ y) / size[live]
    inverse[np.ix_(live, live)] = turned.T @ turned / np.outer(size[live], size[live])
    determined = np.zeros(x.shape[1], bool)
    determined[live] = np.sum(vt[~kept] ** 2, axis=0) < 1e-12 if (~kept).any() else True
    return slopes, inverse, int(kept.sum()), determined


@dataclass(frozen=True)
class FitCheck:
    """Diagnostics of an expectation, by tenths of the prior: (tenths,) each.

    mean_residual should show no trend (a trend means the wrong form), sd no fan.
    """

    n: Integers
    prior: Floats
    mean_residual: Floats
    residual_sd: Floats


def residuals_by_prior(residual: Floats, prior: Floats, parts: int = 10) -> FitCheck:
    """Mean and sd of residuals in equal parts of the prior; equal priors stay together.

    residual, prior: (students,), NaN left out. Parts that ties leave empty have n = 0 and NaN.

    >>> residuals_by_prior(np.array([1., -1, 1, -1]), np.array([1., 2, 3, 4]), 2).n.tolist()
    [2, 2]
    """
    residual, prior = np.asarray(residual, np.float64), np.asarray(prior, np.float64)
    held = ~np.isnan(residual) & ~np.isnan(prior)
    r, x = residual[held], prior[held]
    cuts = np.quantile(x, np.arange(1, parts) / parts) if len(x) else np.zeros(parts - 1)
    part = np.searchsorted(cuts, x, side="left")
    n = np.bincount(part, minlength=parts).astype(np.int64)
    with np.errstate(invalid="ignore", divide="ignore"):
        middle = np.bincount(part, x, parts) / np.where(n > 0, n, np.nan)
        mean = np.bincount(part, r, parts) / np.where(n > 0, n, np.nan)
        squares = np.bincount(part, (r - mean[part]) ** 2, parts)
        sd = np.sqrt(squares / np.where(n > 1, n - 1.0, np.nan))
    return FitCheck(n, middle, mean, sd)
