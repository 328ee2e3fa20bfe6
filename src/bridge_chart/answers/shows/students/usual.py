"""The columns of a list of which nobody said what it shows: who they are, their figures, what
these are held against, and why not counted."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity, plain
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.answers.shows.students.body import StudentColumn
from bridge_chart.answers.shows.students.made import Made, figures, text
from bridge_chart.answers.what.values import IN_STEPS, figures_of_students, sibling
from bridge_chart.answers.who.reasons import REASONS, label_of
from bridge_chart.store.codes import IN_FIGURES, SCORE_NAMES
from bridge_chart.store.snapshot import Array
from bridge_chart.terms.wording import capitalised
from bridge_chart.terms.words import spoken


def named(view: View, at: Array) -> list[Made]:
    """Who they are: in every list."""
    snapshot = view.snapshot
    given, family = (
        snapshot.given_names[at].astype(object),
        snapshot.family_names[at].astype(object),
    )
    numbers = snapshot.numbers[at].astype(object)
    name = np.array([f"{g} {f}".strip() for g, f in zip(given, family, strict=True)], object)
    name = np.where(name == "", numbers, name)
    return [text("name", "Student", name), text("number", "Number", numbers)]


def usual(view: View, out: Outcome, at: Array) -> list[Made]:
    """Everything that the question's own measure says of each."""
    snapshot, roll = view.snapshot, view.roll
    schools = np.array([s.name for s in snapshot.schools] + [""], object)
    levels = np.asarray(roll.year_level)[at].astype(float)
    columns = [
        text("school", "School", schools[np.asarray(roll.school)[at]]),
        figures(
            "year_level", capitalised(spoken().year_level), np.where(levels < 0, np.nan, levels)
        ),
        text("class", "Class", _class_names(view, at)),
        *_figures(view, at),
    ]
    if out.held is not None:
        columns += _held(view, out, at)
    columns.append(text("origin", "From", _origins(view, at)))
    told = [label_of(r, view.quantity, view.yardstick) if n else "" for n, r in enumerate(REASONS)]
    columns.append(text("reason", "Not counted", np.array(told, object)[out.reasons[at]]))
    return columns


def _figures(view: View, at: Array) -> list[Made]:
    """The score in figures, the level or grade of the same sitting, whether a share counts them."""
    snapshot, quantity = view.snapshot, view.quantity
    columns = []
    if quantity.is_share:
        counted = np.asarray(figures_of_students(snapshot, quantity))[at]
        met = np.select([np.isnan(counted), counted > 0], ["", "yes"], "no").astype(object)
        columns.append(text("met", "Counted in the share", met))
    shown = _in_figures(view)
    if shown is not None:
        values = np.asarray(figures_of_students(snapshot, shown))[at]
        columns.append(figures("score", capitalised(shown.score_name), values))
    return [*columns, *_step(view, at)]


def _in_figures(view: View) -> Quantity | None:
    """The quantity in figures: of levels the same sitting's score, of a share what it is of."""
    quantity = view.quantity
    while quantity.worked is not None and (quantity.is_share or quantity.steps):
        quantity = quantity.worked.of
    if not quantity.steps:
        return quantity
    if view.yardstick is not None and view.yardstick.priors:
        return view.yardstick.in_figures
    other = sibling(view.snapshot, quantity.key, IN_FIGURES)
    return None if other is None else plain(other)


def _held(view: View, out: Outcome, at: Array) -> list[Made]:
    """What each is held against, the distance, and a mark beyond the error of prediction."""
    held, yardstick = out.held, view.yardstick
    assert held is not None
    assert yardstick is not None
    counted = out.reasons[at] == 0
    own = view.quantity if not yardstick.priors else yardstick.in_figures
    scores = np.asarray(figures_of_students(view.snapshot, own))
    # Of one student the plain line is the better guess: error is corrected for groups only.
    reached = held.fit.expected if held.fit is not None else held.expected
    span = np.where(counted, (scores - reached)[at], np.nan)
    columns = []
    if held.start is not None and yardstick.priors:
        columns.append(figures("prior", "Start", held.start[at]))
    expected = np.where(counted, reached[at], np.nan)
    columns += [
        figures("expected", yardstick.column, expected),
        figures("span", "Span", span, kind="signed"),
    ]
    if held.fit is not None:
        columns.append(_verdict(held.fit.error[at], span))
    return columns


def _step(view: View, at: Array) -> list[Made]:
    """The level or grade by its name: as counted, else that of the same sitting."""
    snapshot, quantity = view.snapshot, view.quantity
    if quantity.steps:
        steps, values = quantity.steps, figures_of_students(snapshot, quantity)
        called = quantity.score_name
    else:
        key = sibling(snapshot, view.measure, IN_STEPS)
        if key is None or view.measure.role != "result" or quantity.part is not None:
            return []
        steps, values, called = key.steps, snapshot.values(key), SCORE_NAMES[key.score]
    names = np.array(["", *steps], object)
    place = np.nan_to_num(np.asarray(values)[at], nan=0.0).astype(np.intp)
    return [text("level", capitalised(called), names[place])]


def _origins(view: View, at: Array) -> Array:
    """File and line that each score (or its absence) came from."""
    batch, line = (column[at] for column in view.snapshot.origin(view.measure))
    return np.array(
        [
            f"{view.snapshot.files[b]}, line {n}" if b else ""
            for b, n in zip(batch.tolist(), line.tolist(), strict=True)
        ],
        object,
    )


def _class_names(view: View, at: Array) -> Array:
    """Each student's classes, joined."""
    out = np.full(view.snapshot.students, "", object)
    members = np.asarray(view.roll.members)
    wanted = np.zeros(view.snapshot.students, bool)
    wanted[at] = True
    for student, place in members[wanted[members[:, 0]]].tolist():
        name = view.snapshot.classes[place].name
        out[student] = f"{out[student]}, {name}" if out[student] else name
    return out[at]


def beyond_error(span: Array, error: Array) -> Array:
    """(rows,) “ahead” or “behind” where a distance is more than one error of prediction."""
    with np.errstate(invalid="ignore"):
        return np.select(
            [np.isnan(span), span < -error, span > error], ["", "behind", "ahead"], "none"
        ).astype(object)


def _verdict(error: Array, span: Array) -> Made:
    spec = StudentColumn(key="verdict", label="", kind="verdict", values=[])
    return Made(spec, beyond_error(span, error))
