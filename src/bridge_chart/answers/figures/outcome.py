"""A quantity's figures per student, before any split: counted, held against, why not."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.bound.yardstick import Elsewhere, Held, Yardstick
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.published.fits import Own, fitted
from bridge_chart.answers.what.share import Meets
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.answers.who.reasons import reasons_for
from bridge_chart.core.arrays import Codes, Floats, Mask
from bridge_chart.core.describing.describe import moments
from bridge_chart.store.snapshot import Snapshot


@dataclass(frozen=True)
class Outcome:
    """values: figures of those counted, NaN elsewhere. drawn: what is compared (the distance from
    the yardstick, else the figures). sd: the figures' sd within year levels, the district's; NaN
    without a yardstick. group: who is in the group that everything is held against, if any;
    elsewhere: its members whom the asker does not see.
    """

    values: Floats
    drawn: Floats
    reasons: Codes
    held: Held | None
    sd: float
    group: Mask | None = None
    elsewhere: Elsewhere | None = None

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
    found = outcome_of(snapshot, quantity, None if group is not None else yardstick)
    if group is None:
        return found
    beyond = None if yardstick is None else yardstick.beyond
    sd = _sd_within_year_levels(snapshot, quantity)
    return replace(found, group=group, sd=sd, elsewhere=beyond)


def outcome_of(snapshot: Snapshot, quantity: Quantity, yardstick: Yardstick | None) -> Outcome:
    """A quantity held against a yardstick that is no group, for every student of a snapshot."""
    asked = None if yardstick is None else yardstick.key
    return kept_for(
        snapshot, ("outcome", quantity.id, asked), lambda: _outcome(snapshot, quantity, yardstick)
    )  # fmt: skip


def _outcome(snapshot: Snapshot, quantity: Quantity, yardstick: Yardstick | None) -> Outcome:
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

    def make(whole: Snapshot) -> tuple[float, Mask]:
        strata = np.asarray(tested_year_level(whole, quantity.key)).astype(np.int64) + 1
        values = np.asarray(figures_of_students(whole, quantity))
        each = moments(values, strata, 130)
        free = np.maximum(each.n - 1, 0)
        if not free.sum():
            return float("nan"), ~np.isnan(values)
        sd = float(np.sqrt(np.nansum(free * each.sd**2) / free.sum()))
        return sd, ~np.isnan(values)

    def own_part(made: tuple[float, Mask], own: Own) -> tuple[float, Mask]:
        sd, behind = made
        return (sd if own.enough(behind, quantity.key) else float("nan")), behind[:0]

    if isinstance(quantity.worked, Meets):
        # Conditions are those of the asker's own snapshot.
        return kept_for(snapshot, ("sd", quantity.id), lambda: make(snapshot))[0]
    return fitted(snapshot, ("sd", quantity.id), make, own_part, (quantity.key,))[0]
