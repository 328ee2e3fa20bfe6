"""Students: the people behind a mark, as columns, sorted and in pages."""

from __future__ import annotations

from typing import Any

import numpy as np

from bridge_chart.answers.coverage import REASONS, coverage, label_of
from bridge_chart.answers.figures import Outcome, outcome
from bridge_chart.answers.frame import envelope
from bridge_chart.answers.population import population
from bridge_chart.answers.quantities import stepped_sibling
from bridge_chart.answers.view import View
from bridge_chart.store.codes import SCORE_NAMES
from bridge_chart.store.snapshot import Array
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import (
    Answer,
    FileLine,
    Method,
    PageInfo,
    StudentColumn,
    StudentsBody,
)
from bridge_chart.terms.errors import InvalidQuestion


def students(views: list[View]) -> Answer:
    """Everybody in the population: those counted with their figures, the others with the reason."""
    view = views[0]
    everybody = population(view)
    people = everybody & view.meant
    out = outcome(view)
    at = np.flatnonzero(people)
    columns = _columns(view, out, at)
    at_order = _sorted(columns, view.question.sort, out)
    page = view.question.page or q.Page()
    shown = at_order[page.after : page.after + page.size]
    body = StudentsBody(
        show="students",
        student=view.snapshot.student_ids[at[shown]].tolist(),
        origins=_lines(view, at[shown]),
        columns=[_cut(column, shown) for column in columns],
        counted=int(np.count_nonzero(out.reasons[at] == 0)),
    )
    says = ["One row for each student on roll who meets the conditions."]
    if out.held is not None and out.held.fit is not None:
        says.append(
            "▲ and ▼ mark a score more than one error of prediction from the expected one; "
            "one test says little about one student."
        )
    return envelope(
        views,
        out,
        body=body,
        coverage=[coverage(view, everybody, out.reasons)],
        method=Method(name="Students", says=says, facts={}, page="methods/value-added.md"),
        page=PageInfo(total=len(at), after=page.after, size=page.size),
    )


Column = tuple[StudentColumn, Array]
EXPECTED = {"earlier": "Before", "nation": "The nation", "target": "Target",
            "predicted": "Predicted"}  # fmt: skip


def _columns(view: View, out: Outcome, at: Array) -> list[Column]:
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
        _number("year_level", "Year", np.where(levels < 0, np.nan, levels)),
        _text("class", "Class", _class_names(view, at)),
        _number("score", _capital(view.quantity.score_name), view.values[at]),
        *_step(view, at),
    ]
    if out.held is not None:
        held = out.held
        expected = np.where(out.reasons[at] == 0, held.expected[at], np.nan)
        if held.start is not None and held.kind == "prior":
            columns.append(_number("prior", "Start", held.start[at]))
        columns += [
            _number("expected", EXPECTED.get(held.kind, "Expected"), expected),
            _number("span", "Span", out.drawn[at], "signed"),
        ]
        if held.fit is not None:
            columns.append(_verdict(held.fit.error[at], out.drawn[at]))
    columns.append(_text("origin", "From", _origins(view, at)))
    reason = np.array(["" if r == "counted" else label_of(r) for r in REASONS], object)
    columns.append(_text("reason", "Not counted", reason[out.reasons[at]]))
    return columns


def _step(view: View, at: Array) -> list[Column]:
    """The level or grade of the same sitting, by its name."""
    key = stepped_sibling(view.snapshot, view.measure)
    if key is None or view.measure.role != "result" or view.quantity.part is not None:
        return []
    names = np.array(["", *key.steps], object)
    place = np.nan_to_num(view.snapshot.values(key)[at], nan=0.0).astype(np.intp)
    return [_text("level", _capital(SCORE_NAMES[key.score]), names[place])]


def _capital(words: str) -> str:
    return words[:1].upper() + words[1:]


def _lines(view: View, at: Array) -> list[FileLine | None]:
    """Batch and line that each score (or its absence) came from."""
    batch, line = (column[at].tolist() for column in view.snapshot.origin(view.measure))
    return [FileLine(batch_id=b, line=n) if b else None for b, n in zip(batch, line, strict=True)]


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


def _sorted(columns: list[Column], sort: list[q.SortBy], out: Outcome) -> Array:
    """Order of the students; empty values last either way."""
    by = {column.key: values for column, values in columns}
    first = "span" if out.held is not None else "score"
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


def _cut(column: Column, shown: Array) -> StudentColumn:
    spec, values = column
    cut = values[shown]
    if cut.dtype == float:
        plain = [None if np.isnan(v) else float(v) for v in cut]
        return spec.model_copy(update={"values": plain})
    return spec.model_copy(update={"values": [str(v) for v in cut]})
