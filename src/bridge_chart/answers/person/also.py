"""What else a result says: on another scale, and how much a student gains a year."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.person.page import Also
from bridge_chart.answers.what.convert import Converted, conversions_for
from bridge_chart.answers.what.pace import AHEAD, course_of, sittings_until
from bridge_chart.core.growth.gains import pace
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.wording import interval, number


def also_of(snapshot: Snapshot, quantity: Quantity, at: int) -> list[Also]:
    """Each scale that the district converts the score onto, out of range said; the pace of the
    results up to this one, and where it ends, with an interval only where the method allows one."""
    return [*_converted(snapshot, quantity, at), *_pace(snapshot, quantity, at)]


def _converted(snapshot: Snapshot, quantity: Quantity, at: int) -> list[Also]:
    out = []
    for table in conversions_for(snapshot, quantity):
        made = Converted(quantity, table)
        value = float(made.figures(snapshot)[at])
        words = made.lacks if np.isnan(value) else (
            table.steps[int(value) - 1] if table.steps else number(value)
        )  # fmt: skip
        out.append(Also(label=table.onto, value=words))
    return out


def _pace(snapshot: Snapshot, quantity: Quantity, at: int) -> list[Also]:
    try:
        sittings = sittings_until(snapshot, quantity)
    except (NotFound, InvalidQuestion):
        return []
    course = course_of(snapshot, quantity, sittings)
    sd = course.sd if course.sd > 0 else None
    found = pace(course.years, course.scores[at], AHEAD, sd)
    if found.points < 2 or np.isnan(course.scores[at, -1]) or np.isnan(found.slope.value):
        return []
    out = [Also(label="pace", value=f"{number(found.slope.value)} {quantity.unit} a year")]
    ends = found.projection
    if not np.isnan(ends.value):
        reach = "" if np.isnan(ends.low) else f" ({interval(ends.low, ends.high, 0)})"
        out.append(Also(label="a year on at this pace", value=f"{number(ends.value, 0)}{reach}"))
    return out
