"""Coverage: who is counted, who is not, and why; the counts add up."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.who.reasons import REASONS, label_of
from bridge_chart.core.arrays import Codes, Mask
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Coverage, MissingCount


def coverage(view: View, people: Mask, reasons: Codes) -> Coverage:
    """The counts for a population: counted + missing = population. Those who were not meant to
    have a result are beside it."""
    meant = people & view.meant
    counts = np.bincount(reasons[meant], minlength=len(REASONS))
    asked = None if view.yardstick is None else view.yardstick.asked
    missing = [
        MissingCount(
            reason=reason,
            label=label_of(reason, view.quantity, view.yardstick),
            n=int(counts[at]),
            opens=q.Open(
                add=(q.Missing(missing=reason, measure=view.quantity.ask, against=asked),),
                what=view.stands,
            ),
        )
        for at, reason in enumerate(REASONS)
        if at and counts[at]
    ]
    return Coverage(
        measure=view.at,
        population=int(meant.sum()),
        counted=int(counts[0]),
        missing=missing,
        not_entered=int(people.sum() - meant.sum()),
        set_aside=view.measure.set_aside,
        routes=_routes(view),
        opens=q.Open(what=view.stands),
    )


def _routes(view: View) -> list[dict[str, object]]:
    """By which priors how many students of the district are held."""
    held = None if view.yardstick is None else view.yardstick.held(view.snapshot)
    if held is None or held.fit is None or len(held.fit.priors) < 2:
        return []
    return [
        {"priors": [held.fit.priors[n].label for n in route.priors], "students": route.students}
        for route in held.fit.routes
    ]
