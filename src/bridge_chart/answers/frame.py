"""The envelope that every Answer shares: sentence, chips, scope, what was resolved."""

from __future__ import annotations

import numpy as np

from bridge_chart import __version__
from bridge_chart.answers.figures import Outcome
from bridge_chart.answers.grouping import FIELD_LABELS
from bridge_chart.answers.population import chips, own_text, who_text
from bridge_chart.answers.view import View
from bridge_chart.answers.yardstick import WORDS
from bridge_chart.store.codes import SCORE_NAMES, UNITS
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import (
    Answer,
    Coverage,
    MeasureInfo,
    Method,
    PageInfo,
    Reading,
    Resolved,
    Row,
    RowsBody,
    ScopeText,
    Slots,
    StripBody,
    StudentsBody,
    Warn,
)

ENGINE = f"bridge-chart {__version__}"


def envelope(
    view: View,
    out: Outcome,
    *,
    body: RowsBody | StudentsBody | StripBody,
    coverage: list[Coverage],
    method: Method,
    reference: list[Row] | None = None,
    readings: list[Reading] | None = None,
    warnings: list[Warn] | None = None,
    page: PageInfo | None = None,
) -> Answer:
    """Wrap a body into the Answer."""
    words = _slots(view, out)
    return Answer(
        question=view.question,
        engine=ENGINE,
        resolved=_resolved(view, out),
        sentence=(
            f"How did {words.who} do in {words.what}, split by {words.split}, "
            f"measured against {words.against}?"
        ),
        slots=words,
        chips=chips(view),
        scope=ScopeText(
            text="the whole district" if view.scope.whole else own_text(view), opens=True
        ),
        measures=[_measure_info(view)],
        coverage=coverage,
        body=body,
        reference=reference or [],
        readings=readings or [],
        method=method,
        warnings=warnings or [],
        page=page,
    )


def split_label(view: View, dimension: q.Dimension) -> str:
    """A dimension in words; a characteristic as the district writes it (SEN stays SEN)."""
    if isinstance(dimension, q.ByCharacteristic):
        named = {c.id: c.name for c in view.snapshot.characteristics}
        return named[int(dimension.characteristic)]
    assert isinstance(dimension, q.ByField)
    return FIELD_LABELS[dimension.field]


def _slots(view: View, out: Outcome) -> Slots:
    split = view.question.split
    return Slots(
        who=who_text(view),
        what=view.measure.label,
        split=split_label(view, split[0]) if split else "nothing",
        against=_against(out),
    )


def _against(out: Outcome) -> str:
    if out.held is None:
        return "nothing"
    by = "" if out.held.form == "linear" else f", by {WORDS[out.held.form]}"
    return f"where they started{by}"


def _resolved(view: View, out: Outcome) -> Resolved:
    sittings = {str(view.measure.sitting.id): f"{view.measure.label}, {view.measure.date}"}
    basis = None
    if out.held is not None:
        prior = out.held.prior_key
        sittings[str(prior.sitting.id)] = f"{prior.label}, {prior.date}"
        basis = int(np.count_nonzero(out.held.fitted))
    return Resolved(
        version=view.snapshot.version,
        today=str(view.snapshot.today) if view.snapshot.today else None,
        as_of=str(view.date_of(view.question.who.as_of)),
        sittings=sittings,
        basis_n=basis,
    )


def _measure_info(view: View) -> MeasureInfo:
    measure = view.measure
    values = view.values
    some = bool(np.isfinite(values).any())
    return MeasureInfo(
        key=measure.key,
        label=measure.label,
        assessment=measure.assessment.name,
        subject=measure.subject.name if measure.subject else None,
        sitting=measure.sitting.name,
        score=SCORE_NAMES[measure.score],
        unit=UNITS[measure.score],
        date=str(measure.date),
        minimum=float(np.nanmin(values)) if some else None,
        maximum=float(np.nanmax(values)) if some else None,
        decimals=measure.decimals,
    )
