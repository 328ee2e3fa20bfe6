"""The columns of a list of students, and its order."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity, plain
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.outcome import Outcome
from bridge_chart.answers.shows.students.body import StudentColumn
from bridge_chart.answers.what.values import IN_FIGURES, IN_STEPS, figures_of_students, sibling
from bridge_chart.answers.who.reasons import REASONS, label_of
from bridge_chart.store.codes import SCORE_NAMES
from bridge_chart.store.snapshot import Array
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.wording import capitalised
from bridge_chart.terms.words import spoken

Column = tuple[StudentColumn, Array]


def columns_of(view: View, out: Outcome, at: Array) -> list[Column]:
    """Who they are, their figures, what they are held against, and why not counted."""
    snapshot, roll = view.snapshot, view.roll
    given, family = (
        snapshot.given_names[at].astype(object),
        snapshot.family_names[at].astype(object),
    )
    numbers = snapshot.numbers[at].astype(object)
    name = np.array([f"{g} {f}".strip() for g, f in zip(given, family, strict=True)], object)
    name = np.where(name == "", numbers, name)
    schools = np.array([s.name for s in snapshot.schools] + [""], object)
    levels = np.asarray(roll.year_level)[at].astype(float)
    columns = [
        _text("name", "Student", name),
        _text("number", "Number", numbers),
        _text("school", "School", schools[np.asarray(roll.school)[at]]),
        _number(
            "year_level", capitalised(spoken().year_level), np.where(levels < 0, np.nan, levels)
        ),
        _text("class", "Class", _class_names(view, at)),
        *_figures(view, at),
        *_groups(view, at),
    ]
    if out.held is not None:
        columns += _held(view, out, at)
    columns.append(_text("origin", "From", _origins(view, at)))
    told = [label_of(r, view.quantity, view.yardstick) if n else "" for n, r in enumerate(REASONS)]
    columns.append(_text("reason", "Not counted", np.array(told, object)[out.reasons[at]]))
    return columns


def _groups(view: View, at: Array) -> list[Column]:
    """The group of each split that a student is in; the groups, where there are several."""
    people = np.zeros(view.snapshot.students, bool)
    people[at] = True
    columns = []
    for n, split in enumerate(view.split):
        grouping = split.group(people)
        named = np.full(view.snapshot.students, "", object)
        for student, code in zip(grouping.at.tolist(), grouping.code.tolist(), strict=True):
            label = grouping.groups[code].label
            named[student] = f"{named[student]}, {label}" if named[student] else label
        columns.append(_text(f"split_{n + 1}", _capital(split.label), named[at]))
    return columns


def _figures(view: View, at: Array) -> list[Column]:
    """The score in figures, the level or grade of the same sitting, whether a share counts them."""
    snapshot, quantity = view.snapshot, view.quantity
    columns = []
    if quantity.is_share:
        figures = np.asarray(figures_of_students(snapshot, quantity))[at]
        met = np.select([np.isnan(figures), figures > 0], ["", "yes"], "no").astype(object)
        columns.append(_text("met", "Counted in the share", met))
    shown = _in_figures(view)
    if shown is not None:
        values = np.asarray(figures_of_students(snapshot, shown))[at]
        columns.append(_number("score", _capital(shown.score_name), values))
    return [*columns, *_step(view, at)]


def _in_figures(view: View) -> Quantity | None:
    """The quantity in figures: of levels the same sitting's score, of a share what it is of."""
    quantity = view.quantity
    if quantity.is_share and quantity.worked is not None:
        quantity = quantity.worked.of
    if not quantity.steps:
        return quantity
    if view.yardstick is not None and view.yardstick.priors:
        return view.yardstick.in_figures
    other = sibling(view.snapshot, quantity.key, IN_FIGURES)
    return None if other is None else plain(other)


def _held(view: View, out: Outcome, at: Array) -> list[Column]:
    """What each is held against, the distance, and a mark beyond the error of prediction."""
    held, yardstick = out.held, view.yardstick
    assert held is not None
    assert yardstick is not None
    counted = out.reasons[at] == 0
    own = view.quantity if not yardstick.priors else yardstick.in_figures
    figures = np.asarray(figures_of_students(view.snapshot, own))
    # Of one student the plain line is the better guess: error is corrected for groups only.
    reached = held.fit.expected if held.fit is not None else held.expected
    span = np.where(counted, (figures - reached)[at], np.nan)
    columns = []
    if held.start is not None and yardstick.priors:
        columns.append(_number("prior", "Start", held.start[at]))
    expected = np.where(counted, reached[at], np.nan)
    columns += [
        _number("expected", yardstick.column, expected),
        _number("span", "Span", span, "signed"),
    ]
    if held.fit is not None:
        columns.append(_verdict(held.fit.error[at], span))
    return columns


def _step(view: View, at: Array) -> list[Column]:
    """The level or grade by its name: as counted, else that of the same sitting."""
    snapshot, quantity = view.snapshot, view.quantity
    if quantity.steps:
        steps, values = quantity.steps, figures_of_students(snapshot, quantity)
        score = quantity.score
    else:
        key = sibling(snapshot, view.measure, IN_STEPS)
        if key is None or view.measure.role != "result" or quantity.part is not None:
            return []
        steps, values, score = key.steps, snapshot.values(key), key.score
    names = np.array(["", *steps], object)
    place = np.nan_to_num(np.asarray(values)[at], nan=0.0).astype(np.intp)
    return [_text("level", _capital(SCORE_NAMES[score]), names[place])]


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


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


def _verdict(error: Array, span: Array) -> Column:
    with np.errstate(invalid="ignore"):
        word = np.select(
            [np.isnan(span), span < -error, span > error], ["", "behind", "ahead"], "none"
        ).astype(object)
    return StudentColumn(key="verdict", label="", kind="verdict", values=[]), word


def _text(key: str, label: str, values: Array) -> Column:
    return StudentColumn(key=key, label=label, kind="text", values=[]), values


def _number(key: str, label: str, values: Array, kind: Any = "number") -> Column:
    return StudentColumn(key=key, label=label, kind=kind, values=[]), np.asarray(values, float)


def sorted_by(columns: list[Column], sort: Sequence[q.SortBy], first: str) -> Array:
    """Order of the students; empty values last either way. `first`: by what where nothing is
    asked for."""
    by = {column.key: values for column, values in columns}
    first = first if first in by else "level"
    order = np.arange(len(columns[0][1]))
    for wanted in reversed(sort or [q.SortBy(by=first), q.SortBy(by="name")]):
        if wanted.by not in by:
            raise InvalidQuestion(
                f"Students cannot be sorted by “{wanted.by}”.",
                next_step=f"They can by: {', '.join(by)}.",
            )
        values = by[wanted.by][order]
        empty = np.isnan(values) if values.dtype == float else values == ""
        if values.dtype != float:
            values = np.array([str(v).casefold() for v in values])
        ranked = np.unique(values, return_inverse=True)[1]
        ranked = -ranked if wanted.dir == "desc" else ranked
        order = order[np.lexsort((np.arange(len(order)), ranked, empty))]
    return order


def cut_to(column: Column, shown: Array) -> StudentColumn:
    """A column with the values of those shown."""
    spec, values = column
    cut = values[shown]
    if cut.dtype == float:
        plain = [None if np.isnan(v) else float(v) for v in cut]
        return spec.model_copy(update={"values": plain})
    return spec.model_copy(update={"values": [str(v) for v in cut]})
