"""The envelope that every Answer shares: sentence, chips, scope, what was resolved."""

from __future__ import annotations

import numpy as np

from bridge_chart import __version__
from bridge_chart.answers.cut_scores import cuts_by_year_level
from bridge_chart.answers.figures import Outcome
from bridge_chart.answers.grouping import FIELD_LABELS
from bridge_chart.answers.normalise import WORDS
from bridge_chart.answers.population import apply, chips, own_text, who_text
from bridge_chart.answers.slices import measure_dimension
from bridge_chart.answers.view import View
from bridge_chart.answers.yardstick import held_against
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import (
    Answer,
    Body,
    Coverage,
    Cut,
    LevelsRow,
    MeasureInfo,
    Method,
    PageInfo,
    Reading,
    Resolved,
    Row,
    ScopeText,
    Slots,
    Warn,
)
from bridge_chart.terms.wording import listed

ENGINE = f"bridge-chart {__version__}"


def envelope(
    views: list[View],
    out: Outcome,
    *,
    body: Body,
    coverage: list[Coverage],
    method: Method,
    reference: list[Row] | None = None,
    reference_levels: list[LevelsRow] | None = None,
    readings: list[Reading] | None = None,
    warnings: list[Warn] | None = None,
    page: PageInfo | None = None,
) -> Answer:
    """Wrap a body into the Answer. `out`: the figures of the first quantity."""
    view = views[0]
    words = _slots(views, out)
    return Answer(
        question=view.question,
        engine=ENGINE,
        resolved=_resolved(views),
        sentence=(
            f"How did {words.who} do in {words.what}, split by {words.split}, "
            f"measured against {words.against}?"
        ),
        slots=words,
        chips=chips(view),
        scope=ScopeText(
            text="the whole district" if view.scope.whole else own_text(view), opens=True
        ),
        measures=[_measure_info(v) for v in views],
        coverage=coverage,
        body=body,
        reference=reference or [],
        reference_levels=reference_levels or [],
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
    if isinstance(dimension, q.ByField):
        return FIELD_LABELS[dimension.field]
    if isinstance(dimension, q.ByBand):
        return "starting band"
    if isinstance(dimension, q.ByLevel):
        return "level"
    if isinstance(dimension, q.ByPopulations):
        return " and ".join(p.label for p in dimension.populations)
    return dimension


def _slots(views: list[View], out: Outcome) -> Slots:
    view = views[0]
    split = [split_label(view, d) for d in view.question.split]
    if len(views) > 1 and view.question.show != "over_time":
        word = measure_dimension(views)[0]
        split = [word if d in WORDS else d for d in split]
        split += [] if word in split else [word]
    return Slots(
        who=who_text(view),
        what=what_text(views),
        split=" and ".join(split) or "nothing",
        against=_against(view, out),
    )


def what_text(views: list[View]) -> str:
    """The second slot: one measure by its label; several by what they share."""
    if len(views) == 1:
        return views[0].quantity.label
    word, names = measure_dimension(views)
    key = views[0].quantity.key
    if word == "subject":
        return f"{listed(names, 3)}, {key.sitting.name}"
    if word == "sitting":
        return f"{key.about}, {listed(names, 3)}"
    if word == "figure":
        return f"{key.about}, {key.sitting.name}: {listed([n.lower() for n in names], 4)}"
    if word == "measure":
        return listed(names, 3)
    return f"{key.label}, by {word}"


def _against(view: View, out: Outcome) -> str:
    if isinstance(view.against, q.AgainstGroup):
        texts = [apply(c, view).text for c in view.against.group.who.all_]
        return f"the rest of {' and '.join(texts) or 'all students'}"
    return "nothing" if out.held is None else out.held.words


def _resolved(views: list[View]) -> Resolved:
    """What the question came to: its sittings, tables, and how many stand behind the fit."""
    view = views[0]
    sittings: dict[str, str] = {}
    tables: list[str] = []
    basis = None
    for one in views:
        key = one.measure
        sittings[str(key.sitting.id)] = f"{key.about}, {key.sitting.name}, {key.date}"
        held = held_against(one.snapshot, one.quantity, one.against)
        if held is None:
            continue
        tables += held.tables
        if held.fit is not None:
            basis = int(np.count_nonzero(held.fit.fitted)) if basis is None else basis
            for prior in held.fit.priors:
                sittings[str(prior.key.sitting.id)] = f"{prior.label}, {prior.key.date}"
    return Resolved(
        version=view.snapshot.version,
        today=str(view.snapshot.today) if view.snapshot.today else None,
        as_of=str(view.date_of(view.question.who.as_of)),
        sittings=sittings,
        tables=list(dict.fromkeys(tables)),
        basis_n=basis,
    )


def _measure_info(view: View) -> MeasureInfo:
    measure, quantity = view.measure, view.quantity
    values = view.values
    some = bool(np.isfinite(values).any())
    scaled = quantity.score == "scaled"
    cuts = cuts_by_year_level(view.snapshot, measure, quantity.form) if scaled else {}
    return MeasureInfo(
        key=quantity.name,
        label=quantity.label,
        assessment=measure.assessment.name,
        subject=measure.subject.name if measure.subject else None,
        sitting=measure.sitting.name,
        score=quantity.score_name,
        unit=quantity.unit,
        date=str(measure.date),
        minimum=float(np.nanmin(values)) if some else None,
        maximum=float(np.nanmax(values)) if some else None,
        decimals=quantity.decimals,
        cuts=[
            Cut(
                step=cut.step,
                year_level=None if level < 0 else level,
                lowest=cut.lowest,
                expected=cut.expected,
            )
            for level, lines in cuts.items()
            for cut in lines
        ],
    )
