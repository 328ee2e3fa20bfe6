"""What stands beside a row's figure: how far the missing could move it, and those who stayed."""

from __future__ import annotations

from typing import Any

import numpy as np

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.figures import Figures
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.core.describing.describe import moments
from bridge_chart.core.trust.missing import share_bounds
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW


def worst_case(part: Slice, figures: Figures) -> dict[str, list[Any]]:
    """Of a share, the lowest and highest that it could be whatever the missing would have
    reached; both (rows,), in percent."""
    if not part.view.quantity.is_share or part.out.group is not None:
        return {}
    values = figures.values
    count = np.rint(np.nan_to_num(values.mean) / 100 * values.n).astype(np.int64)
    low, high = share_bounds(count, values.n, values.missing)
    return {"bound_low": _plain(100 * low), "bound_high": _plain(100 * high)}


def stayed(part: Slice) -> dict[str, list[Any]]:
    """The same figure of those alone who were in their school from the year's first day; nothing
    where no roster tells, or where nobody moved."""
    stable = _stable(part.view)
    grouping, out = part.grouping, part.out
    if stable is None or out.group is not None:
        return {}
    drawn = out.drawn[grouping.at]
    code = np.where(stable[grouping.at], grouping.code, -1)
    if np.array_equal(code >= 0, grouping.code >= 0):
        return {}
    found = moments(drawn, code, len(grouping.groups))
    value = np.where(found.n >= FEWEST_TO_SHOW, found.mean, np.nan)
    return {"stable_n": found.n.tolist(), "stable_value": _plain(value)}


def _stable(view: View) -> Mask | None:
    """(students,) in the same school on the first day of the sitting's school year and at the
    sitting; None where one roster serves for the whole year."""
    now = view.sitting_roll
    if now is None:
        return None
    rolls = [r for r in view.snapshot.rolls if r.academic_year == now.academic_year]
    first = min(rolls, key=lambda r: r.since, default=now)
    if first.key == now.key:
        return None

    def make() -> Mask:
        school = np.asarray(now.school)
        return np.asarray((school >= 0) & (school == np.asarray(first.school)))

    return kept_for(view.snapshot, ("stable", first.key, now.key), make)


def _plain(values: Floats) -> list[float | None]:
    return [float(x) if np.isfinite(x) else None for x in values]
