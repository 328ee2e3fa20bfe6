"""The yardstick: what similar starters reach, fitted on the district whoever asks."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.normalise import Names
from bridge_chart.answers.view import View, kept_for
from bridge_chart.core.arrays import Codes, Floats
from bridge_chart.core.expected.line import LinearFit, fit_linear
from bridge_chart.store.snapshot import MeasureKey
from bridge_chart.terms import question as q

MOST_YEAR_LEVELS = 129


@dataclass(frozen=True)
class Expectation:
    """A fit on all students of the district, apart for each year level at the sitting.

    strata: (students,) year level + 1, 0 = year level unknown. prior: (students,).
    """

    prior_key: MeasureKey
    prior: Floats
    strata: Codes
    fit: LinearFit


def expectation(view: View, key: MeasureKey, against: q.AgainstPrior) -> Expectation:
    """The expectation for a measure. Scope and conditions have no part in it (the fit is not the
    view), so one fit serves everybody who asks at this version."""
    priors = against.prior.priors
    assert priors != "declared"
    first = priors[0]
    assert isinstance(first, q.Measure)
    prior_key = Names(view.snapshot).measure(first)[1]
    return kept_for(view, f"fit {key.key} on {prior_key.key}", lambda: _fit(view, key, prior_key))


def _fit(view: View, key: MeasureKey, prior_key: MeasureKey) -> Expectation:
    snapshot = view.snapshot
    levels = np.asarray(snapshot.tested_year_level(key))
    roll = snapshot.roll_at(key.date)
    if roll is not None:
        levels = np.where(levels >= 0, levels, roll.year_level)
    strata = levels.astype(np.int16) + 1
    prior = np.asarray(snapshot.values(prior_key))
    everyone = np.ones(snapshot.students, bool)
    fit = fit_linear(snapshot.values(key), prior, strata, MOST_YEAR_LEVELS, everyone)
    return Expectation(prior_key, prior, strata, fit)
