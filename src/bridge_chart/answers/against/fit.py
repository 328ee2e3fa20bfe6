"""What similar starters reach: fitted on the whole district, whoever asks."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Expectation, Form, Route, YearFit
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Codes, Floats
from bridge_chart.core.expected.cells import equal_prior_means
from bridge_chart.core.expected.line import FEWEST_TO_FIT, fit_linear
from bridge_chart.core.expected.regression import expected_outcome
from bridge_chart.store.snapshot import Snapshot

MOST_YEAR_LEVELS = 129


def expectation(
    snapshot: Snapshot, quantity: Quantity, priors: tuple[Quantity, ...], form: Form
) -> Expectation:
    """What similar starters reach in a quantity, by one start or several."""
    name = ("fit", quantity.id, tuple(prior.id for prior in priors), form)
    return kept_for(snapshot, name, lambda: _fit(snapshot, quantity, priors, form))


def _fit(
    snapshot: Snapshot, quantity: Quantity, priors: tuple[Quantity, ...], form: Form
) -> Expectation:
    strata = np.asarray(tested_year_level(snapshot, quantity.key)).astype(np.int16) + 1
    outcome = np.asarray(figures_of_students(snapshot, quantity))
    starts = [np.asarray(figures_of_students(snapshot, p)) for p in priors]
    if len(starts) > 1:
        return _fit_several(outcome, starts, strata, priors, form)
    prior = starts[0]
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
    return Expectation(priors, form, prior, expected, residual, error, fitted, years)


def _fit_several(
    outcome: Floats, starts: list[Floats], strata: Codes, priors: tuple[Quantity, ...], form: Form
) -> Expectation:
    """On several priors: each pattern of priors present is held against everyone who has them."""
    assert form != "equal_scores"
    fit = expected_outcome(outcome, np.stack(starts, 1), form=form, strata=strata)
    first = starts[0].copy()
    for other in starts[1:]:
        first = np.where(np.isnan(first), other, first)
    whole = tuple(range(len(priors)))
    told = [f for f in fit.fits if not f.reason]
    years = tuple(
        YearFit(_year(f.stratum), f.n, f.residual_sd, f.r_squared)
        for f in told
        if f.priors == whole
    )
    counted = ~np.isnan(fit.residual)
    routes: dict[tuple[int, ...], int] = {}
    for n, one in enumerate(fit.fits):
        students = int(np.count_nonzero(counted & (fit.fit == n)))
        if students:
            routes[one.priors] = routes.get(one.priors, 0) + students
    return Expectation(
        priors, form, first, fit.expected, fit.residual, fit.prediction_error, counted, years,
        tuple(Route(p, n) for p, n in sorted(routes.items(), key=lambda r: -len(r[0]))),
    )  # fmt: skip


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
