"""Coverage: who is counted, who is not, and why; the counts add up."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.kept import kept_for
from bridge_chart.answers.quantities import Quantity
from bridge_chart.answers.view import View
from bridge_chart.answers.yardstick import figures_of_students, held_against
from bridge_chart.core.arrays import Codes, Mask
from bridge_chart.store.codes import STATUSES
from bridge_chart.store.snapshot import Snapshot
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
LACKING = {
    "earlier": "no earlier result",
    "target": "no target",
    "predicted": "no prediction",
    "nation": "no national figure",
}


def label_of(reason: str, against: q.Yardstick | None = None) -> str:
    """A reason in words; what is lacking depends on the yardstick."""
    if reason in ("no_prior", "no_yardstick") and against is not None:
        kind = next(iter(type(against).model_fields))
        return LACKING.get(kind, LABELS[reason])
    return LABELS[reason]


def reasons_for(snapshot: Snapshot, quantity: Quantity, against: q.Yardstick | None) -> Codes:
    """Per student, the index in REASONS of why it is not counted; 0 = counted."""
    asked = "" if against is None else against.model_dump_json(by_alias=True)
    name = f"reasons {quantity.name} {asked}"
    return kept_for(snapshot, name, lambda: _reasons(snapshot, quantity, against))


def _reasons(snapshot: Snapshot, quantity: Quantity, against: q.Yardstick | None) -> Codes:
    key = quantity.key
    values = figures_of_students(snapshot, quantity)
    status = np.asarray(snapshot.status(key))
    by_status = np.array(
        [REASONS.index(name if name in REASONS else "no_row") for name in STATUSES], np.int8
    )
    without = by_status[status] if key.role == "result" else np.full(len(status), 2, np.int8)
    roll = snapshot.roll_at(key.date)
    if roll is not None:
        away = (roll.school < 0) & (status == STATUSES.index("no_row"))
        without = np.where(away, REASONS.index("not_on_roll"), without)
    if isinstance(quantity.ask, q.Measure) and quantity.ask.grain == "half":
        whole = ~np.isnan(snapshot.values(key))
        without = np.where(whole, REASONS.index("no_finer_step"), without)
    if quantity.of is not None:
        # What it is worked out from is there, so its own yardstick is what lacks.
        lacks = ~np.isnan(figures_of_students(snapshot, quantity.of))
        without = np.where(lacks, REASONS.index("no_yardstick"), without)
    out = np.where(np.isnan(values), without, 0).astype(np.int8)
    held = held_against(snapshot, quantity, against)
    if held is not None:
        counted = out == 0
        out[counted & np.isnan(held.expected)] = REASONS.index(held.lacks)
        if held.start is not None:
            out[counted & np.isnan(held.start)] = REASONS.index("no_prior")
    return out


def coverage(view: View, people: Mask, reasons: Codes) -> Coverage:
    """The counts for a population: counted + missing = population. Those who were not meant to
    have a result are beside it."""
    meant = people & view.meant
    counts = np.bincount(reasons[meant], minlength=len(REASONS))
    missing = [
        MissingCount(
            reason=reason,
            label=label_of(reason, _lacking(view)),
            n=int(counts[at]),
            narrow=[q.Missing(missing=reason, measure=view.quantity.ask, against=view.against)],
        )
        for at, reason in enumerate(REASONS)
        if at and counts[at]
    ]
    return Coverage(
        measure=view.quantity.name,
        population=int(meant.sum()),
        counted=int(counts[0]),
        missing=missing,
        not_entered=int(people.sum() - meant.sum()),
        set_aside=view.measure.set_aside,
        routes=_routes(view),
    )


def _lacking(view: View) -> q.Yardstick | None:
    """The yardstick whose absence a reason speaks of: the question's, or the derived figure's."""
    ask = view.quantity.ask
    if isinstance(ask, q.Derived):
        return q.AgainstNation(nation=q.NationSpec()) if ask.derive == "percentile" else ask.against
    return view.against


def _routes(view: View) -> list[dict[str, object]]:
    """By which priors how many students of the district are held."""
    held = held_against(view.snapshot, view.quantity, view.against)
    if held is None or held.fit is None or len(held.fit.priors) < 2:
        return []
    return [
        {"priors": [held.fit.priors[n].label for n in route.priors], "students": route.students}
        for route in held.fit.routes
    ]
