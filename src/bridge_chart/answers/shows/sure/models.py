"""Other ways of drawing the line that a question's rows are held against."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.against.prior import CURVES, WhereTheyStarted
from bridge_chart.answers.bound.split import grouped
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.bound.yardstick import Form
from bridge_chart.answers.figures.outcome import outcome
from bridge_chart.answers.figures.pooled import why_not_pooled
from bridge_chart.answers.figures.rows import rows_of
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Row
from bridge_chart.terms.errors import BridgeError

MOST_LEFT_OUT = 3
FORMS: tuple[Form, ...] = ("linear", "spline")


@dataclass(frozen=True)
class Tried:
    """A model with the rows that it gives."""

    key: str
    label: str
    rows: list[Row]


def tried(part: Slice, own: WhereTheyStarted) -> tuple[list[Tried], list[str]]:
    """The question's own model first, then the others; and why some have no figures."""
    found = [Tried("asked", f"as asked: {own.words}", rows_of(part))]
    why_not: list[str] = []
    for key, label, other in [*_forms(own), *_models(part, own, why_not)]:
        try:
            found.append(Tried(key, label, rows_of(_by(part, other))))
        except BridgeError as error:
            why_not.append(f"{label}: {error.message}")
    for key, label, other in _without(part, own, why_not):
        found.append(Tried(key, label, rows_of(_by(part, other))))
    return found, why_not


Model = tuple[str, str, WhereTheyStarted]


def _forms(own: WhereTheyStarted) -> list[Model]:
    simple = "simple"
    return [
        (form, CURVES[form], _as(own, form, simple))
        for form in FORMS
        if form != own.form or own.asked.prior.model != simple
    ]


def _models(part: Slice, own: WhereTheyStarted, why_not: list[str]) -> list[Model]:
    """Corrected for error in the start, and pooled, where they can be."""
    out: list[Model] = []
    asked = own.asked.prior.model
    if asked != "corrected" and len(own.starts) == 1:
        label = "corrected for error in the start"
        out.append(("corrected", label, _as(own, "linear", "corrected")))
    if asked != "multilevel":
        why = why_not_pooled(part.view, part.grouping)
        if why is None:
            out.append(("multilevel", "pooled", _as(own, own.form, "multilevel")))
        else:
            why_not.append(f"pooled: {why}")
    return out


def _without(part: Slice, own: WhereTheyStarted, why_not: list[str]) -> list[Model]:
    """The line without each school that stands out, the furthest first."""
    view = part.view
    if not view.snapshot.scope.whole:
        why_not.append("without single schools: that would tell other schools' results")
        return []
    by_school = (view.split_by(q.ByField(field="school")),)
    grouping = grouped(by_school, part.people & view.meant)
    rows = rows_of(replace(part, view=replace(view, split=by_school), grouping=grouping))
    names = {school.id: school.name for school in view.snapshot.schools}
    marked = sorted(
        (row for row in rows if row.verdict in ("ahead", "behind")),
        key=lambda row: -abs(row.effect or 0.0),
    )
    out = []
    for row in marked[:MOST_LEFT_OUT]:
        school = int(row.key.removeprefix("school-"))
        left = replace(own, left_out=school)
        out.append((f"without-{school}", f"line without {names[school]}", left))
    return out


def _as(own: WhereTheyStarted, form: Form, model: str) -> WhereTheyStarted:
    spec = own.asked.prior.model_copy(update={"expect": form, "model": model})
    return replace(own, form=form, asked=own.asked.model_copy(update={"prior": spec}))


def _by(part: Slice, yardstick: WhereTheyStarted) -> Slice:
    """The same part held against another line."""
    view = _against(part.view, yardstick)
    return replace(part, view=view, out=outcome(view))


def _against(view: View, yardstick: WhereTheyStarted) -> View:
    bound = view.elsewhere

    def elsewhere(snapshot: Snapshot) -> View:
        assert bound is not None
        return _against(bound(snapshot), yardstick)

    return replace(view, yardstick=yardstick, elsewhere=None if bound is None else elsewhere)


def column(rows: list[Row], keys: list[str]) -> tuple[np.ndarray, list[str]]:
    """Spans and verdicts in the order of some rows' keys."""
    by = {row.key: row for row in rows}
    held = [by.get(key) for key in keys]
    spans = [np.nan if row is None or row.span is None else row.span for row in held]
    return np.array(spans), ["few" if row is None else row.verdict for row in held]
