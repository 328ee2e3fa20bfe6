"""A result in a unit that sittings of other tests have too."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.published.fits import Own, fitted
from bridge_chart.answers.what.nation import ranked_table, tables_for
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.describing.describe import moments
from bridge_chart.core.norms.tables import percentile_rank
from bridge_chart.store.snapshot import Snapshot

Turned = Callable[[float], float]
MOST_YEAR_LEVELS = 130


@dataclass(frozen=True)
class YearSpread:
    """(students,) mean and sd of the district's year level that each was tested in; NaN where it
    may not be told. strata, behind: of the whole district only."""

    mean: Floats
    sd: Floats
    strata: Codes
    behind: Mask


def in_percentiles(snapshot: Snapshot, quantity: Quantity, at: int) -> Turned | None:
    """A score as its national percentile rank, by the form and year level of a student."""
    for rows, table in tables_for(snapshot, quantity.key, quantity.score):
        if rows[at] and (found := ranked_table(quantity.key, table)) is not None:
            ranks = found
            return lambda score: float(percentile_rank(np.array([score]), ranks)[0])
    return None


def in_deviations(snapshot: Snapshot, quantity: Quantity, at: int) -> Turned | None:
    """A score in standard deviations from the district's mean of the same year level."""
    spread = year_spread(snapshot, quantity)
    mean, sd = float(spread.mean[at]), float(spread.sd[at])
    return (lambda score: (score - mean) / sd) if sd > 0 else None


def year_spread(snapshot: Snapshot, quantity: Quantity) -> YearSpread:
    """Of the whole district; for a scope where enough others stand behind it."""

    def make(whole: Snapshot) -> YearSpread:
        strata = np.asarray(tested_year_level(whole, quantity.key)).astype(np.int64) + 1
        values = np.asarray(figures_of_students(whole, quantity), float)
        found = moments(values, strata, MOST_YEAR_LEVELS)
        return YearSpread(found.mean[strata], found.sd[strata], strata, ~np.isnan(values))

    def own_part(made: YearSpread, own: Own) -> YearSpread:
        hidden = own.in_strata(made.strata, own.few(made.behind, made.strata, quantity.key))
        mean, sd = (np.where(hidden, np.nan, own.rows(one, np.nan)) for one in (made.mean, made.sd))
        return YearSpread(mean, sd, made.strata[:0], made.behind[:0])

    return fitted(snapshot, ("year spread", quantity.id), make, own_part, (quantity.key,))


def error_of_measurement(snapshot: Snapshot, quantity: Quantity, at: int) -> float | None:
    """By how much a student's score would vary (one standard deviation) if the test were sat
    again: as it is declared, or by its reliability; None where neither is."""
    key = quantity.key
    subject = key.subject.name if key.subject else None
    declared = snapshot.tables.exactness(
        key.assessment.name, subject, key.sitting.name, quantity.score
    )
    level = int(np.asarray(tested_year_level(snapshot, key))[at])
    form = next((f.name for f in key.forms if f.id == int(snapshot.form(key)[at])), None)
    fitting = [
        one for one in declared
        if one.year_level in (None, level) and one.form in (None, form)
    ]  # fmt: skip
    if not fitting:
        return None
    told = fitting[-1]
    if told.error is not None:
        return told.error
    sd = float(year_spread(snapshot, quantity).sd[at])
    if told.reliability is None or not sd > 0:
        return None
    return float(sd * np.sqrt(1 - told.reliability))
