"""The yardstick: what similar starters reach, the nation, a target, an earlier sitting.

Fitted or looked up on the whole district, whoever asks.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from bridge_chart.answers.held import WORDS, Expectation, Form, Held, Route, YearFit
from bridge_chart.answers.kept import kept_for
from bridge_chart.answers.nation import national, percentile_ranks
from bridge_chart.answers.normalise import Names
from bridge_chart.answers.quantities import (
    Quantity,
    numeric_sibling,
    plain,
    tested_year_level,
    values_of,
)
from bridge_chart.core.arrays import Codes, Floats
from bridge_chart.core.expected.cells import equal_prior_means
from bridge_chart.core.expected.line import FEWEST_TO_FIT, fit_linear
from bridge_chart.core.expected.regression import expected_outcome
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion

MOST_YEAR_LEVELS = 129


def held_against(
    snapshot: Snapshot, quantity: Quantity, against: q.Yardstick | None
) -> Held | None:
    """The yardstick of a (bound) question for one quantity; None without one, and for a group,
    which has no figure per student. Scope and conditions have no part in it (the fit is not the
    view), so it is worked out once for everybody who asks at this version."""
    if against is None or isinstance(against, q.AgainstGroup):
        return None
    name = f"held {quantity.name} {against.model_dump_json(by_alias=True)}"
    return kept_for(snapshot, name, lambda: _held(snapshot, quantity, against))


def _held(snapshot: Snapshot, quantity: Quantity, against: q.Yardstick) -> Held:
    names = Names(snapshot)
    if isinstance(against, q.AgainstPrior):
        fit = expectation(snapshot, _in_figures(snapshot, quantity), against)
        by = "" if fit.form == "linear" else f", by {WORDS[fit.form]}"
        model = ", pooled" if against.prior.model == "multilevel" else ""
        return Held(
            "prior", f"where they started{by}{model}", fit.expected, "no_yardstick", fit.prior,
            fit.prior_label, fit,
        )  # fmt: skip
    if isinstance(against, q.AgainstEarlier):
        earlier = names.earlier(against.earlier.measure, quantity)
        values = figures_of_students(snapshot, earlier)
        return Held("earlier", earlier.label, values, "no_prior", values, earlier.label)
    if isinstance(against, q.AgainstTarget | q.AgainstPredicted):
        claim = names.claimed(against, quantity)
        named = f"the {claim.key.kind} target" if claim.key.kind else "the target"
        words = named if claim.key.role == "target" else "what was predicted"
        return Held(claim.key.role, words, figures_of_students(snapshot, claim), "no_yardstick")
    assert isinstance(against, q.AgainstNation)
    return national(snapshot, quantity)


def _in_figures(snapshot: Snapshot, quantity: Quantity) -> Quantity:
    """A level's own sitting in figures: that is what is expected of a start, and one fit serves
    both. Grades without figures stay as they are."""
    other = numeric_sibling(snapshot, quantity.key) if quantity.steps else None
    if other is None or not isinstance(quantity.ask, q.Measure):
        return quantity
    return plain(other, quantity.ask.model_copy(update={"score": other.score, "grain": None}))


def figures_of_students(snapshot: Snapshot, quantity: Quantity) -> Floats:
    """(students,) the quantity's figures, derived ones included; NaN where there is none."""
    if quantity.of is None:
        return values_of(snapshot, quantity)
    return kept_for(snapshot, f"values {quantity.name}", lambda: _derived(snapshot, quantity))


def _derived(snapshot: Snapshot, quantity: Quantity) -> Floats:
    ask, of = quantity.ask, quantity.of
    assert isinstance(ask, q.Derived)
    assert of is not None
    if ask.derive == "percentile":
        return percentile_ranks(snapshot, of)
    against = Names(snapshot).yardstick(ask.against, of)
    held = held_against(snapshot, of, against)
    if held is None:
        raise InvalidQuestion("A group is no yardstick for a single student's span.")
    return np.asarray(figures_of_students(snapshot, of) - held.expected)


def expectation(snapshot: Snapshot, quantity: Quantity, against: q.AgainstPrior) -> Expectation:
    """What similar starters reach in a quantity."""
    priors = Names(snapshot).prior_quantities(against.prior, quantity)
    form = against.prior.expect
    assert form != "table"
    name = f"fit {quantity.name} on {[p.name for p in priors]} by {form}"
    return kept_for(snapshot, name, lambda: _fit(snapshot, quantity, tuple(priors), form))


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
