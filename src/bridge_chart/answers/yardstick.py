"""The yardstick: what similar starters reach, fitted on the district whoever asks."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock

import numpy as np

from bridge_chart.answers.normalise import Names
from bridge_chart.answers.view import View
from bridge_chart.core.arrays import Codes, Floats
from bridge_chart.core.value_added import LinearFit, fit_linear
from bridge_chart.store.snapshot import MeasureKey
from bridge_chart.terms import question as q

MOST_YEAR_LEVELS = 129
_kept: OrderedDict[tuple[str, int, str, str], Expectation] = OrderedDict()
_lock = Lock()
MOST_KEPT = 8


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
    name = (str(view.snapshot.folder), view.snapshot.version, key.key, prior_key.key)
    with _lock:
        if name in _kept:
            _kept.move_to_end(name)
            return _kept[name]
    made = _fit(view, key, prior_key)
    with _lock:
        _kept[name] = made
        while len(_kept) > MOST_KEPT:
            _kept.popitem(last=False)
    return made


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
