"""A quantity's figures per student, before any split: counted, held against, why not."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.bound.yardstick import Held
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.answers.who.reasons import reasons_for
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.describing.describe import moments
from bridge_chart.store.snapshot import Snapshot


@dataclass(frozen=True)
class Outcome:
    """values: figures of those counted, NaN elsewhere. drawn: what is compared (the distance from
    the yardstick, else the figures). sd: the figures' sd within year levels, the district's; NaN
    without a yardstick. group: who is in the group that everything is held against, if any.
    """

    values: Floats
    drawn: Floats
    reasons: Codes
    held: Held | None
    sd: float
    group: Mask | None = None

    @property
    def spans(self) -> bool:
        """Whether there is a yardstick, so that rows can be ahead or behind."""
        return self.held is not None or self.group is not None


def outcome(view: View) -> Outcome:
    """The view's quantity and yardstick, worked out for every student of the district.

    Neither scope nor conditions have a part in it, so it is kept for whoever asks next; only who
    belongs to a group that is the yardstick is asked anew.
    """
    snapshot, quantity, yardstick = view.snapshot, view.quantity, view.yardstick
    group = None if yardstick is None else yardstick.group(snapshot.students)
    asked = None if yardstick is None or group is not None else yardstick.asked
    found = kept_for(snapshot, ("outcome", quantity.id, asked), lambda: _outcome(view))
    if group is None:
        return found
    return replace(found, group=group, sd=_sd_within_year_levels(snapshot, quantity))


def _outcome(view: View) -> Outcome:
    snapshot, quantity, yardstick = view.snapshot, view.quantity, view.yardstick
    figures = figures_of_students(snapshot, quantity)
    reasons = reasons_for(snapshot, quantity, yardstick)
    counted = reasons == 0
    values = np.where(counted, figures, np.nan)
    held = None if yardstick is None else yardstick.held(snapshot)
    if held is None:
        return Outcome(values, values, reasons, None, float("nan"))
    drawn = np.where(counted, figures - held.expected, np.nan)
    return Outcome(values, drawn, reasons, held, _sd_within_year_levels(snapshot, quantity))


def _sd_within_year_levels(snapshot: Snapshot, quantity: Quantity) -> float:
    """√(Σ(n−1)s² / Σ(n−1)) of the outcome over the year levels that the question looks at."""

    def make() -> float:
        strata = np.asarray(tested_year_level(snapshot, quantity.key)).astype(np.int64) + 1
        each = moments(np.asarray(figures_of_students(snapshot, quantity)), strata, 130)
        free = np.maximum(each.n - 1, 0)
        if not free.sum():
            return float("nan")
        return float(np.sqrt(np.nansum(free * each.sd**2) / free.sum()))

    return kept_for(snapshot, ("sd", quantity.id), make)
