"""Why a student is not counted: the first reason that holds."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Yardstick
from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.what.parts import asked_part
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.core.arrays import Codes
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import Snapshot

REASONS = (
    "counted", "not_on_roll", "no_row", "absent", "exempt", "withheld", "not_sat",
    "not_reached", "no_finer_step", "no_prior", "no_yardstick", "too_few",
)  # fmt: skip
"""The first that holds wins; the index is the code."""

LABELS = {
    "not_on_roll": "not on roll then",
    "no_row": "no row",
    "absent": "absent",
    "exempt": "exempt",
    "withheld": "withheld",
    "not_sat": "not sat",
    "not_reached": "not reached",
    "no_finer_step": "no finer step",
    "no_prior": "no starting score",
    "no_yardstick": "no expectation",
    "too_few": "too few",
}


def label_of(reason: str, quantity: Quantity, yardstick: Yardstick | None) -> str:
    """A reason in words; what is lacking depends on the yardstick, or on what the quantity is
    worked out of."""
    if quantity.worked is not None and reason == "no_yardstick":
        return quantity.worked.lacks
    lacking = {} if yardstick is None else yardstick.lacking
    return lacking.get(reason, LABELS.get(reason, ""))


def reasons_for(snapshot: Snapshot, quantity: Quantity, yardstick: Yardstick | None) -> Codes:
    """Per student, the index in REASONS of why it is not counted; 0 = counted. Who is in a group
    that is the yardstick has no part in it."""
    asked = None if yardstick is None else yardstick.asked
    return kept_for(
        snapshot, ("reasons", quantity.id, asked), lambda: _reasons(snapshot, quantity, yardstick)
    )


def _reasons(snapshot: Snapshot, quantity: Quantity, yardstick: Yardstick | None) -> Codes:
    key = quantity.key
    values = figures_of_students(snapshot, quantity)
    status = np.asarray(snapshot.status(key))
    by_status = np.array(
        [REASONS.index(name if name in REASONS else "no_row") for name in STATUSES], np.int8
    )
    without = by_status[status] if key.role == "result" else np.full(len(status), 2, np.int8)
    roll = snapshot.roll_at(key.date)
    if roll is not None:
        away = ~roll.somewhere & (status == STATUSES.index("no_row"))
        without = np.where(away, REASONS.index("not_on_roll"), without)
    if quantity.part is not None and quantity.worked is None:
        sat = asked_part(snapshot, key, quantity.part)
        without = np.where(sat, REASONS.index("not_reached"), without)
    if quantity.id.grain == "half":
        whole = ~np.isnan(snapshot.values(key))
        without = np.where(whole, REASONS.index("no_finer_step"), without)
    if quantity.worked is not None:
        # What it is worked out from is there, so its own yardstick is what lacks.
        lacks = ~np.isnan(figures_of_students(snapshot, quantity.worked.of))
        without = np.where(lacks, REASONS.index("no_yardstick"), without)
    out = np.where(np.isnan(values), without, 0).astype(np.int8)
    held = None if yardstick is None else yardstick.held(snapshot)
    if yardstick is not None and held is not None:
        counted = out == 0
        out[counted & np.isnan(held.expected)] = REASONS.index(yardstick.lacks)
        if held.start is not None:
            out[counted & np.isnan(held.start)] = REASONS.index("no_prior")
    return out
