"""Coverage: who is counted, who is not, and why; the counts add up."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.view import View
from bridge_chart.answers.yardstick import expectation
from bridge_chart.core.arrays import Codes, Mask
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import MeasureKey
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Coverage, MissingCount

REASONS = (
    "counted", "not_on_roll", "no_row", "absent", "exempt", "withheld", "not_sat",
    "no_finer_step", "no_prior", "no_yardstick", "too_few",
)  # fmt: skip
"""Why a student is not counted, the first that holds wins; the index is the code."""

LABELS = {
    "not_on_roll": "not on roll then",
    "no_row": "no row",
    "absent": "absent",
    "exempt": "exempt",
    "withheld": "withheld",
    "not_sat": "not sat",
    "no_finer_step": "no finer step",
    "no_prior": "no starting score",
    "no_yardstick": "no expectation",
    "too_few": "too few",
}


def label_of(reason: str) -> str:
    return LABELS[reason]


def reasons_for(view: View, key: MeasureKey, against: q.Yardstick | None) -> Codes:
    """Per student, the index in REASONS of why it is not counted; 0 = counted."""
    snapshot = view.snapshot
    values = snapshot.values(key)
    status = np.asarray(snapshot.status(key))
    by_status = np.array(
        [REASONS.index(name if name in REASONS else "no_row") for name in STATUSES], np.int8
    )
    without = by_status[status]
    roll = snapshot.roll_at(key.date)
    if roll is not None:
        away = (roll.school < 0) & (status == STATUSES.index("no_row"))
        without = np.where(away, REASONS.index("not_on_roll"), without)
    out = np.where(np.isnan(values), without, 0).astype(np.int8)
    if isinstance(against, q.AgainstPrior):
        held = expectation(view, key, against)
        counted = out == 0
        out[counted & np.isnan(held.expected)] = REASONS.index("no_yardstick")
        out[counted & np.isnan(held.prior)] = REASONS.index("no_prior")
    return out


def coverage(view: View, people: Mask, reasons: Codes) -> Coverage:
    """The counts for a population: counted + missing = population."""
    counts = np.bincount(reasons[people], minlength=len(REASONS))
    measure = view.question.what[0]
    assert isinstance(measure, q.Measure)
    missing = [
        MissingCount(
            reason=reason,
            label=label_of(reason),
            n=int(counts[at]),
            narrow=[
                q.Missing(
                    missing=reason,
                    measure=measure,
                    against=view.question.against,
                )
            ],
        )
        for at, reason in enumerate(REASONS)
        if at and counts[at]
    ]
    return Coverage(
        measure=view.measure.key,
        population=int(people.sum()),
        counted=int(counts[0]),
        missing=missing,
        set_aside=view.measure.set_aside,
    )
