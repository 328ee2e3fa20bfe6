"""Who stands near a boundary: another sitting could have put them on its other side."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.spread.body import Near, NearOne, SpreadOptions
from bridge_chart.answers.what.cut_scores import cut_sets, cuts_of
from bridge_chart.answers.what.sheets import sheet_of
from bridge_chart.answers.what.values import tested_year_level
from bridge_chart.core.arrays import Floats
from bridge_chart.core.items.reliability import cronbach_alpha
from bridge_chart.store.codes import IN_FIGURES
from bridge_chart.store.reference_tables import Exactness, same
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Mark
from bridge_chart.terms.errors import NotFound

UNKNOWN = 1.0
"""Of the score's unit, where nothing says how exact it is."""


def near_boundaries(parts: Sequence[Slice]) -> Near | None:
    """Of everybody in the answer; None where several measures are looked at, or none has
    boundaries."""
    view = parts[0].view
    plain = view.quantity.part is None and view.quantity.worked is None
    if len(parts) > 1 or not plain or view.quantity.score not in IN_FIGURES:
        return None
    steps = dict.fromkeys(
        cut.step for held in cut_sets(view.snapshot, view.measure) for cut in held.cuts
    )
    # Of all who are asked about, in a group of the split or not: that is what the mark opens.
    at = np.flatnonzero(parts[0].people & view.meant & (parts[0].out.reasons == 0))
    if not steps or not len(at):
        return None
    values = parts[0].out.values[at]
    options = SpreadOptions.model_validate(view.question.options)
    within, because = (options.within, "as you said") if options.within else _error(view, values)
    levels = tested_year_level(view.snapshot, view.measure)
    found = [
        _near(view, step, values - cuts_of(view.snapshot, view.measure, step, levels)[at], within)
        for step in steps
    ]
    lowest = min(steps, key=list(steps).index)
    kept = [one for one in found if one.below.n + one.above.n or one.label != lowest]
    return Near(within=within, because=because, boundaries=kept)


def _near(view: View, step: str, away: Floats, within: float) -> NearOne:
    known = np.nan_to_num(away, nan=np.inf)
    below = int(np.count_nonzero((known < 0) & (known >= -within)))
    above = int(np.count_nonzero((known >= 0) & (known <= within)))
    return NearOne(label=step, below=_mark(view, step, within, "below", below),
                   above=_mark(view, step, within, "above", above))  # fmt: skip


def _mark(view: View, step: str, within: float, side: str, n: int) -> Mark:
    asked = q.MeasureIs.model_validate({
        "measure": view.quantity.measure, "boundary": step, "within": within, "side": side,
    })  # fmt: skip
    return Mark(n=n, opens=q.Open(add=(asked,), what=view.stands) if n else None)


def _error(view: View, values: Floats) -> tuple[float, str]:
    """The error of measurement: as a table declares it, else by the questions, else one unit."""
    key = view.measure
    subject = key.subject.name if key.subject else None
    told = view.snapshot.tables.exactness(
        key.assessment.name, subject, key.sitting.name, view.quantity.score
    )
    form = next((f.name for f in key.forms if f.id == view.quantity.form), "")
    for one in told:
        error = _declared(one, form, values)
        if error is not None:
            return error, "the error of measurement, as it is declared"
    if view.quantity.score == "raw":
        try:
            sheet = sheet_of(view.snapshot, key, view.quantity.form)
        except NotFound:
            return UNKNOWN, "nothing says how exact it is"
        found = cronbach_alpha(sheet.marks, optional_questions=sheet.by_choice)
        if found.sem > 0:
            return round(float(found.sem), 1), "the error of measurement, by its questions"
    return UNKNOWN, "nothing says how exact it is"


def _declared(one: Exactness, form: str, values: Floats) -> float | None:
    if one.form is not None and same(one.form) != same(form):
        return None
    if one.error is not None:
        return round(one.error, 1)
    if one.reliability is not None and len(values) > 1:
        return round(float(values.std(ddof=1) * np.sqrt(1 - one.reliability)), 1)
    return None
