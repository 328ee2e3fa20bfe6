"""What similar starters reach: fitted on the whole district, whoever asks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from bridge_chart.answers.against.covariates import as_columns, values_of
from bridge_chart.answers.against.start_error import start_alpha, start_reliability
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Expectation, Form, Route, YearFit
from bridge_chart.answers.published.fits import Own, fitted
from bridge_chart.answers.what.credit import Credit
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.expected.cells import equal_prior_means
from bridge_chart.core.expected.line import FEWEST_TO_FIT, fit_linear
from bridge_chart.core.expected.regression import expected_outcome
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.errors import NotPublished

MOST_YEAR_LEVELS = 129


def expectation(
    snapshot: Snapshot, quantity: Quantity, priors: tuple[Quantity, ...], form: Form,
    left_out: int | None = None, covariates: tuple[int, ...] = (),
) -> Expectation:  # fmt: skip
    """What similar starters reach in a quantity, by one start or several; left_out: a school whose
    students have no part in the fit, only where the whole district is seen; covariates:
    characteristics that are allowed for."""
    name = ("fit", quantity.id, tuple(prior.id for prior in priors), form, left_out, covariates)
    if left_out is not None and not snapshot.scope.whole:
        raise NotPublished("A line without one school would tell that school's results.")

    def own_part(made: Expectation, own: Own) -> Expectation:
        return _own_part(snapshot, quantity, made, own)

    of = (quantity.key, *(prior.key for prior in priors))
    return fitted(
        snapshot, name, lambda whole: _fit(whole, quantity, priors, form, left_out, covariates),
        own_part, of,
    )  # fmt: skip


def _own_part(snapshot: Snapshot, quantity: Quantity, made: Expectation, own: Own) -> Expectation:
    """The expectation of a scope's own students, by lines and curves that stand on enough others;
    one of a student whose start may not be seen would tell it."""
    of_levels = _by_own_level(quantity, made)
    if made.form == "equal_scores" and not of_levels:
        raise NotPublished(
            "The mean of equal starters is a curve at single scores, and behind one score may "
            "stand one student of another school.",
            next_step="Measure against where they started by a line or a smooth curve.",
            instead={"against": {"prior": {"expect": "linear"}}},
        )
    key, behind = quantity.key, ~np.isnan(made.residual)
    starts = np.stack([np.asarray(figures_of_students(snapshot, p)) for p in made.priors], 1)
    # A start that may not be seen would be told by what is expected of it; one that has changed
    # since the fit has nothing expected of it there.
    same = (starts == own.rows(made.starts, np.nan)) | (
        np.isnan(starts) & np.isnan(own.rows(made.starts, np.nan))
    )
    present, pattern = _pattern(starts), _pattern(made.starts)
    strata = own.rows(made.strata, -1)
    held_back = (present == 0) | ~same.all(axis=1)
    for stratum, mine in {*zip(strata.tolist(), present.tolist(), strict=True)}:
        rows = behind & (made.strata == stratum) & ((pattern & mine) == mine)
        if not own.enough(rows, key):
            held_back |= (strata == stratum) & (present == mine)
    if of_levels:
        held_back |= _thin_cells(made, own, behind, key)
    held_back |= _thin_values(made, own, behind, key)
    few = own.few(behind, made.strata, key)
    expected, error, lean = (
        np.where(held_back, np.nan, own.take(column, key, np.nan))
        for column in (made.expected, made.error, made.lean)
    )
    routes = [r for r in made.routes if own.enough(behind & (pattern == _bits(r.priors)), key)]
    return replace(
        made, prior=_first(starts), expected=expected, error=error, lean=lean,
        reliability=own.rows(made.reliability, np.nan),
        alpha=np.where(held_back, np.nan, own.rows(made.alpha, np.nan)),
        residual=np.asarray(figures_of_students(snapshot, quantity)) - expected,
        strata=made.strata[:0], starts=made.starts[:0], marks=None, routes=tuple(routes),
        years=tuple(y for y in made.years if _stratum(y.year_level) not in few),
        version=own.version,
    )  # fmt: skip


def _by_own_level(quantity: Quantity, made: Expectation) -> bool:
    """Whether it is the credit of those who were in the same level. A start of one's own choice, or
    one form alone, would make sets that could be taken from each other."""
    credit = quantity.worked
    return (
        made.form == "equal_scores" and isinstance(credit, Credit)
        and made.priors[0].id == credit.earlier.id
        and quantity.form is None and credit.earlier.form is None
    )  # fmt: skip


def _thin_values(made: Expectation, own: Own, behind: Mask, key: MeasureKey) -> Mask:
    """(students of the scope,) who share the value of a covariate with too few elsewhere: what it
    adds would tell theirs."""
    strata = own.rows(made.strata, -1)
    out = np.zeros(len(strata), bool)
    if made.marks is None:
        return out
    mine = own.rows(made.marks, -1)
    for n, values in enumerate(made.marks.T):
        pairs = np.stack([made.strata[behind], values[behind]], 1)
        for stratum, value in np.unique(pairs, axis=0).tolist():
            if not own.enough(behind & (made.strata == stratum) & (values == value), key):
                out |= (strata == stratum) & (mine[:, n] == value)
    return out


def _thin_cells(made: Expectation, own: Own, behind: Mask, key: MeasureKey) -> Mask:
    """(students of the scope,) whose equal starters, one mean in their year level, are too few
    elsewhere."""
    cell = np.where(behind, made.expected, np.nan)
    out = np.zeros(len(own.rows(made.strata, -1)), bool)
    theirs, strata = own.rows(made.expected, np.nan), own.rows(made.strata, -1)
    for stratum in np.unique(made.strata[behind]).tolist():
        inside = behind & (made.strata == stratum)
        for mean in np.unique(cell[inside]).tolist():
            if not own.enough(inside & (cell == mean), key):
                out |= (strata == stratum) & (theirs == mean)
    return out


def _first(starts: Floats) -> Floats:
    """(students,) the first start that each has."""
    first = starts[:, 0].copy()
    for other in starts.T[1:]:
        first = np.where(np.isnan(first), other, first)
    return first


def _pattern(starts: Floats) -> Codes:
    """(students,) which starts each has, as bits."""
    return np.asarray((~np.isnan(starts)) @ (1 << np.arange(starts.shape[1])), np.int32)


def _bits(priors: tuple[int, ...]) -> int:
    return sum(1 << prior for prior in priors)


def _fit(
    snapshot: Snapshot, quantity: Quantity, priors: tuple[Quantity, ...], form: Form,
    left_out: int | None, covariates: tuple[int, ...],
) -> Expectation:  # fmt: skip
    strata = np.asarray(tested_year_level(snapshot, quantity.key)).astype(np.int16) + 1
    outcome = _without(snapshot, quantity, left_out)
    starts = [np.asarray(figures_of_students(snapshot, p)) for p in priors]
    if len(starts) > 1 or covariates:
        return _fit_several(snapshot, quantity, outcome, starts, priors, form, covariates)
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
        error[strata == _stratum(year.year_level)] = year.residual_sd
    basis = int(np.count_nonzero(~np.isnan(residual)))
    return Expectation(
        priors, form, prior, expected, residual, error, strata, prior[:, None],
        _lean(expected, residual, strata), start_reliability(snapshot, priors),
        start_alpha(snapshot, priors), basis, years,
    )  # fmt: skip


def _fit_several(
    snapshot: Snapshot, quantity: Quantity, outcome: Floats, starts: list[Floats],
    priors: tuple[Quantity, ...], form: Form, covariates: tuple[int, ...],
) -> Expectation:  # fmt: skip
    """On several priors: each pattern of priors present is held against everyone who has them."""
    assert form != "equal_scores"
    stacked = np.stack(starts, 1)
    strata = np.asarray(tested_year_level(snapshot, quantity.key)).astype(np.int16) + 1
    marks = values_of(snapshot, covariates, quantity.key)
    fit = expected_outcome(
        outcome, stacked, form=form, strata=strata, covariates=as_columns(marks)
    )  # fmt: skip
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
        priors, form, _first(stacked), fit.expected, fit.residual, fit.prediction_error, strata,
        stacked, _lean(fit.expected, fit.residual, strata), start_reliability(snapshot, priors),
        start_alpha(snapshot, priors), int(np.count_nonzero(counted)), years,
        tuple(Route(p, n) for p, n in sorted(routes.items(), key=lambda r: -len(r[0]))),
        covariates=covariates, marks=marks if covariates else None,
    )  # fmt: skip


def _without(snapshot: Snapshot, quantity: Quantity, left_out: int | None) -> Floats:
    """(students,) figures; none of those who were in a school when it was sat."""
    outcome = np.asarray(figures_of_students(snapshot, quantity))
    roll = snapshot.roll_at(quantity.key.date)
    if left_out is None or roll is None:
        return outcome
    place = next(n for n, school in enumerate(snapshot.schools) if school.id == left_out)
    return np.where(np.asarray(roll.school) == place, np.nan, outcome)


def _lean(expected: Floats, residual: Floats, strata: Codes) -> Floats:
    """(students,) what is expected, from its mean among those on whom the year level's fit
    stands."""
    told = ~np.isnan(residual)
    size = np.bincount(strata[told], minlength=MOST_YEAR_LEVELS)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.bincount(strata[told], expected[told], MOST_YEAR_LEVELS) / size
    return np.asarray(expected - mean[strata])


def _stratum(year: int | None) -> int:
    return 0 if year is None else year + 1


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
