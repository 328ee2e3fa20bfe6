"""What varies in a question's figures: its students, their classes, and the district's noise."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.outcome import Outcome, outcome_of
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.published.fits import Own, fitted
from bridge_chart.answers.what.share import Meets
from bridge_chart.answers.what.taught import YEAR_LEVELS, taught
from bridge_chart.answers.what.values import tested_year_level
from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.core.contrasts.noise import Noise, noise_of
from bridge_chart.core.contrasts.rows import Sample
from bridge_chart.core.describing.describe import moments
from bridge_chart.store.snapshot import MeasureKey, Snapshot

LEAST_RELIABLE, MOST_RELIABLE = 0.8, 0.95
"""A start of which nothing is declared: a mark holds at both, or it is none."""
LARGE = 0.1
"""No p-value from here on is ever a claim."""
SILENT = Noise(float("nan"), 0.0, float("nan"), float("nan"), 0)
"""Of whom too little may be seen: each row has its own variance, and students only count."""


@dataclass(frozen=True)
class Estimated:
    """The district's noise in what is compared; means: (year levels,) that vary is counted from;
    behind: (students of the district,) on whom it is estimated."""

    noise: Noise
    means: Floats
    behind: Mask


def sample_of(view: View, out: Outcome) -> Sample:
    """The students of a quantity, held against its yardstick, with the district's noise."""
    found = _estimated(view)
    share = view.quantity.is_share and out.held is None
    return sampled(view.snapshot, view.measure, out.drawn, found, share=share)


def shifts_of(view: View, out: Outcome) -> tuple[Floats, ...]:
    """How much more would be expected of each student, were where they started measured without
    the error that it has by what is declared, or may have at the most and at the least: regression
    dilution takes (1/ρ − 1) of how far it lies from its mean. None where no line was fitted, or
    where it is corrected for that."""
    fit = None if out.held is None else out.held.fit
    if fit is None or view.yardstick is None or view.yardstick.corrects:
        return ()
    found = []
    for otherwise in (LEAST_RELIABLE, MOST_RELIABLE):
        at_most = np.fmin(otherwise, fit.alpha)
        known = np.where(np.isnan(fit.reliability), at_most, fit.reliability)
        found.append(np.asarray((1 / known - 1) * fit.lean))
    return tuple(found)


def in_each(view: View, out: Outcome, test: Callable[[Sample], float]) -> float:
    """The p-value of a test, the largest of the sample's and of those without the error in the
    start, where it is small enough to matter."""
    own = sample_of(view, out)
    found = test(own)
    if found < LARGE:
        found = max(found, *(test(_moved(own, s)) for s in shifts_of(view, out)), 0.0)
    return found


def _moved(sample: Sample, shift: Floats) -> Sample:
    return replace(sample, values=sample.values - shift, residual=sample.residual - shift)


def sampled(
    snapshot: Snapshot, measure: MeasureKey, values: Floats, found: Estimated, *, share: bool
) -> Sample:
    """Figures of students as a sample with a noise that is known."""
    where = taught(snapshot, measure)
    level = np.asarray(tested_year_level(snapshot, measure)).astype(np.int64) + 1
    residual = values - found.means[level]
    return Sample(values, residual, where.classes, where.school_of_class, found.noise, share)


def estimated_on(snapshot: Snapshot, measure: MeasureKey, values: Floats) -> Estimated:
    """The noise of some figures of a whole district's students."""
    level = np.asarray(tested_year_level(snapshot, measure)).astype(np.int64) + 1
    means = np.nan_to_num(moments(values, level, YEAR_LEVELS).mean)
    where = taught(snapshot, measure)
    noise = noise_of(values - means[level], where.classes, where.strata)
    return Estimated(noise, means, ~np.isnan(values))


def _estimated(view: View) -> Estimated:
    """Once for a quantity and a yardstick, whoever asks and whatever of."""
    quantity, yardstick = view.quantity, view.yardstick
    if yardstick is not None and yardstick.is_group:
        yardstick = None
    asked = None if yardstick is None else yardstick.key

    def make(whole: Snapshot) -> Estimated:
        out = outcome_of(whole, quantity, yardstick)
        return estimated_on(whole, quantity.key, out.drawn)

    name = ("noise", quantity.id, asked)
    if isinstance(quantity.worked, Meets):
        # Conditions are those of the asker's own snapshot.
        return kept_for(view.snapshot, name, lambda: make(view.snapshot))
    priors = () if yardstick is None else yardstick.priors
    of = (quantity.key, *(prior.key for prior in priors))
    return fitted(
        view.snapshot, name, make, lambda made, own: read_off(made, own, quantity.key), of
    )  # fmt: skip


def read_off(made: Estimated, own: Own, measure: MeasureKey) -> Estimated:
    """What a scope may know of a noise: all of it, where enough others are behind."""
    if own.enough(made.behind, measure):
        return Estimated(made.noise, made.means, made.behind[:0])
    return Estimated(SILENT, np.zeros(YEAR_LEVELS), made.behind[:0])
