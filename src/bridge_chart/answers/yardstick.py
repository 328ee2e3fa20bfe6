"""The yardstick: what similar starters reach, fitted on the district whoever asks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np

from bridge_chart.answers.normalise import Names
from bridge_chart.answers.view import View, kept_for
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.expected.cells import equal_prior_means
from bridge_chart.core.expected.line import FEWEST_TO_FIT, fit_linear
from bridge_chart.core.expected.regression import expected_outcome
from bridge_chart.store.snapshot import MeasureKey
from bridge_chart.terms import question as q

MOST_YEAR_LEVELS = 129

Form = Literal["linear", "cubic", "spline", "equal_scores"]
WORDS: dict[str, str] = {
    "linear": "a straight line",
    "cubic": "a cubic curve",
    "spline": "a smooth curve",
    "equal_scores": "the mean of equal starters",
}


@dataclass(frozen=True)
class YearFit:
    """What was fitted in one year level (None: not known); None where a figure has no meaning."""

    year_level: int | None
    n: int
    residual_sd: float
    r_squared: float
    intercept: float | None = None
    slope: float | None = None


@dataclass(frozen=True)
class Expectation:
    """A fit on all students of the district, apart for each year level at the sitting.

    prior, expected, residual, error: (students,), NaN where there is none; error: the residual sd
    of the student's year level. fitted: the students behind it.
    """

    prior_key: MeasureKey
    form: Form
    prior: Floats
    expected: Floats
    residual: Floats
    error: Floats
    fitted: Mask
    years: tuple[YearFit, ...]


def expectation(view: View, key: MeasureKey, against: q.AgainstPrior) -> Expectation:
    """The expectation for a measure. Scope and conditions have no part in it (the fit is not the
    view), so one fit serves everybody who asks at this version."""
    priors = against.prior.priors
    assert priors != "declared"
    first = priors[0]
    assert isinstance(first, q.Measure)
    form = against.prior.expect
    assert form != "table"
    prior_key = Names(view.snapshot).measure(first)[1]
    name = f"fit {key.key} on {prior_key.key} by {form}"
    return kept_for(view, name, lambda: _fit(view, key, prior_key, form))


def _fit(view: View, key: MeasureKey, prior_key: MeasureKey, form: Form) -> Expectation:
    snapshot = view.snapshot
    levels = np.asarray(snapshot.tested_year_level(key))
    roll = snapshot.roll_at(key.date)
    if roll is not None:
        levels = np.where(levels >= 0, levels, roll.year_level)
    strata = levels.astype(np.int16) + 1
    prior = np.asarray(snapshot.values(prior_key))
    outcome = np.asarray(snapshot.values(key))
    error = np.full(snapshot.students, np.nan)
    if form == "linear":
        fit = fit_linear(outcome, prior, strata, MOST_YEAR_LEVELS, np.ones(len(prior), bool))
        expected, residual = fit.expected, fit.residual
        years = tuple(
            YearFit(
                _year(stratum), int(fit.n[stratum]), float(fit.residual_sd[stratum]),
                float(fit.correlation[stratum] ** 2), float(fit.intercept[stratum]),
                float(fit.slope[stratum]),
            )
            for stratum in np.flatnonzero(np.isfinite(fit.slope)).tolist()
        )  # fmt: skip
    elif form == "equal_scores":
        expected = np.full(snapshot.students, np.nan)
        years = tuple(_equal_starters(outcome, prior, strata, expected))
        residual = outcome - expected
    else:
        curve = expected_outcome(outcome, prior, form=form, strata=strata)
        expected, residual = curve.expected, curve.residual
        years = tuple(
            YearFit(_year(f.stratum), f.n, f.residual_sd, f.r_squared)
            for f in curve.fits
            if not f.reason
        )
    for year in years:
        error[strata == (0 if year.year_level is None else year.year_level + 1)] = year.residual_sd
    fitted = ~np.isnan(residual)
    return Expectation(prior_key, form, prior, expected, residual, error, fitted, years)


def _year(stratum: int) -> int | None:
    return int(stratum) - 1 if stratum else None


def _equal_starters(
    outcome: Floats, prior: Floats, strata: Codes, expected: Floats
) -> Iterator[YearFit]:
    """Fill `expected` year level by year level; as few students as for a line give none."""
    for stratum in np.unique(strata[strata >= 0]):
        rows = np.flatnonzero(strata == stratum)
        cells = equal_prior_means(outcome[rows], prior[rows])
        left = outcome[rows] - cells.expected
        n, df = int(cells.n.sum()), int(cells.n.sum()) - len(cells.n)
        if n < FEWEST_TO_FIT or df < 1:
            continue
        expected[rows] = cells.expected
        held = ~np.isnan(left)
        squares = float(np.sum(left[held] ** 2))
        total = float(np.sum((outcome[rows][held] - outcome[rows][held].mean()) ** 2))
        r_squared = 1 - squares / total if total > 0 else float("nan")
        yield YearFit(_year(int(stratum)), n, float(np.sqrt(squares / df)), r_squared)
