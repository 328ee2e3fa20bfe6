"""The frame that every Answer shares: sentence, chips, scope, what was resolved."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart import __version__
from bridge_chart.answers.asking.answer import Answer
from bridge_chart.answers.bound.split import MEASURES
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.slices import Slice, measure_dimension
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.what.cut_scores import cuts_by_year_level
from bridge_chart.answers.what.values import figures_of_students
from bridge_chart.answers.who.population import chips, own_text, who_text
from bridge_chart.store.codes import IN_FIGURES
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Cut, MeasureInfo, Resolved, ScopeText, Slots, Warn
from bridge_chart.terms.wording import count, day, listed

ENGINE = f"bridge-chart {__version__}"


def framed(shown: Shown, parts: Sequence[Slice], narrowed: q.Question | None = None) -> Answer:
    """A show's body in the frame. `narrowed`: where the question is the list of a mark."""
    views = [part.view for part in parts]
    view = views[0]
    words = _slots(views if shown.about is None else [shown.about.view])
    if view.yardstick is None and shown.against is not None:
        words = words.model_copy(update={"against": shown.against})
    return Answer(
        question=view.question,
        narrowed=narrowed,
        engine=ENGINE,
        resolved=_resolved(parts),
        sentence=shown.sentence(words) if shown.sentence else _sentence(view, words),
        slots=words,
        chips=chips(view),
        scope=ScopeText(
            text="the whole district" if view.snapshot.scope.whole else own_text(view), opens=True
        ),
        measures=[_measure_info(v) for v in views],
        coverage=shown.coverage,
        body=shown.body,
        readings=shown.readings,
        method=shown.method,
        warnings=[*_tried(view), *_erased(views), *shown.warnings],
        page=shown.page,
    )


def _sentence(view: View, words: Slots) -> str:
    asked = (
        f"ow did {words.who} do in {words.what}, split by {words.split}, "
        f"measured against {words.against}?"
    )
    plan = view.question.plan
    if plan is None:
        return f"H{asked}"
    moved = count(len(plan.moves), "student")
    return f"A try, not results: with {moved} moved, h{asked}"


def _tried(view: View) -> list[Warn]:
    """Whatever a try has touched says so, first of all."""
    plan = view.question.plan
    if plan is None:
        return []
    moved = count(len(plan.moves), "student")
    text = (
        f"A try, not results: {moved} stand elsewhere here than in the record, which is as it was."
    )
    return [Warn(code="tried", text=text, instead={"plan": None})]


def _erased(views: Sequence[View]) -> list[Warn]:
    """An answer of a version that held students who are in no version any more."""
    sittings = {one.measure.sitting.id for one in views}
    gone = sum(one.students for one in views[0].snapshot.erased if one.sittings & sittings)
    if not gone:
        return []
    who = count(gone, "student") if views[0].snapshot.scope.whole else "Students"
    verb = "was" if who == "1 student" else "were"
    text = (
        f"{who} who sat this {verb} erased from the record after this version. What was printed "
        "of it before then may differ."
    )
    return [Warn(code="erased_since", text=text)]


def _slots(views: Sequence[View]) -> Slots:
    view = views[0]
    labels = iter([split.label for split in view.split])
    split = [d if isinstance(d, str) else next(labels) for d in view.question.split]
    if len(views) > 1 and view.question.show not in ("over_time", "students"):
        word = measure_dimension(views)[0]
        split = [word if d in MEASURES else d for d in split]
        split += [] if word in split else [word]
    listed_only = view.question.show == "students"
    return Slots(
        who=who_text(view),
        what=what_text(views[:1] if listed_only else views),
        split=" and ".join(split) or "nothing",
        against="nothing" if view.yardstick is None else view.yardstick.words,
    )


def what_text(views: Sequence[View]) -> str:
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


def _resolved(parts: Sequence[Slice]) -> Resolved:
    """What the question came to: its sittings, tables, and how many stand behind the fit."""
    view = parts[0].view
    sittings: dict[str, str] = {}
    tables: list[str] = []
    basis = None
    for part in parts:
        key, held = part.view.measure, part.out.held
        sittings[str(key.sitting.id)] = f"{key.about}, {key.sitting.name}, {day(key.date)}"
        if held is None:
            continue
        tables += held.tables
        if held.fit is not None:
            basis = held.fit.basis if basis is None else basis
            for prior in held.fit.priors:
                sittings[str(prior.key.sitting.id)] = f"{prior.label}, {day(prior.key.date)}"
    return Resolved(
        version=view.snapshot.version,
        today=str(view.snapshot.today) if view.snapshot.today else None,
        as_of=str(view.as_of),
        sittings=sittings,
        tables=list(dict.fromkeys(tables)),
        basis_n=basis,
    )


def _measure_info(view: View) -> MeasureInfo:
    measure, quantity = view.measure, view.quantity
    values = figures_of_students(view.snapshot, quantity)
    some = bool(np.isfinite(values).any())
    whole = quantity.score in IN_FIGURES and quantity.worked is None and quantity.part is None
    cuts = cuts_by_year_level(view.snapshot, measure, quantity.form) if whole else {}
    return MeasureInfo(
        asked=quantity.ask,
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
