"""The columns that somebody chose for a list: measures with their level and distance, fields,
characteristics, notes."""

from __future__ import annotations

from typing import Any

import numpy as np

from bridge_chart.answers.bound.column import ListColumn
from bridge_chart.answers.bound.quantity import Quantity, of_part
from bridge_chart.answers.bound.split import Split
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.bound.yardstick import Held
from bridge_chart.answers.shows.students.body import StudentColumn
from bridge_chart.answers.shows.students.made import Made, decimals_of
from bridge_chart.answers.shows.students.usual import beyond_error
from bridge_chart.answers.what.award import award_behind
from bridge_chart.answers.what.derived import Span, Steps
from bridge_chart.answers.what.parts import left_out
from bridge_chart.answers.what.values import IN_STEPS, figures_of_students, sibling
from bridge_chart.answers.who.reasons import REASONS, label_of, reasons_for
from bridge_chart.store.snapshot import Array, Snapshot
from bridge_chart.terms.wording import capitalised

LEFT_OUT = "left out"
"""Of a question that counts as none won."""
DEEPEST = 3
"""The strongest shade, in steps from the line."""


def chosen(view: View, at: Array) -> list[Made]:
    """Each column of the question, for the students at these places."""
    return [_made(view, column, at) for column in view.columns]


def _made(view: View, column: ListColumn, at: Array) -> Made:
    if column.quantity is not None:
        return _measured(view.snapshot, column, column.quantity, at)
    if column.split is not None:
        return _grouped(view, column, column.split, at)
    told = [view.noted.get(int(one), "") for one in view.snapshot.student_ids[at]]
    spec = StudentColumn(
        key=column.key, label="Notes", kind="text", values=[], asked=column.asked
    )  # fmt: skip
    return Made(spec, np.array(told, object).reshape(-1))


def _grouped(view: View, column: ListColumn, split: Split, at: Array) -> Made:
    """The group of a split that each is in; the groups, where there are several."""
    people = np.zeros(view.snapshot.students, bool)
    people[at] = True
    grouping = split.group(people)
    told = np.full(view.snapshot.students, "", object)
    known = grouping.known()
    bare = f"{split.label}: "
    for student, code in zip(grouping.at.tolist(), grouping.code.tolist(), strict=True):
        label = grouping.groups[code].label.removeprefix(bare) if known[code] else ""
        told[student] = f"{told[student]}, {label}" if told[student] else label
    spec = StudentColumn(
        key=column.key, label=capitalised(split.label), kind="text", values=[],
        asked=column.asked,
    )  # fmt: skip
    return Made(spec, told[at])


def _measured(snapshot: Snapshot, column: ListColumn, own: Quantity, at: Array) -> Made:
    values = np.asarray(figures_of_students(snapshot, own), float)[at]
    reasons = reasons_for(snapshot, own, column.yardstick)[at]
    words = [label_of(r, own, column.yardstick) if n else "" for n, r in enumerate(REASONS)]
    beside: dict[str, Array] = {"why": np.array(words, object)[reasons]}
    if own.steps:
        beside["tone"] = _from_line(values, own.pass_at)
    elif own.part is not None and own.worked is None:
        beside["tone"] = _won(snapshot, own, at)
        if own.part.kind == "question" and own.part.name:
            blank = left_out(snapshot, own.key, own.part.name)[at]
            beside["why"] = np.where(blank, LEFT_OUT, beside["why"])
    elif own.worked is None:
        beside |= _level(snapshot, own, at)
    beside |= _away(snapshot, column, own, values, at)
    signed = isinstance(own.worked, Span)
    spec = StudentColumn(
        key=column.key, label=own.label, kind="signed" if signed else "number", values=[],
        group=_group(own), short=_short(own), decimals=_decimals(own, values), asked=column.asked,
        of_label="" if column.yardstick is None else column.yardstick.column,
    )  # fmt: skip
    if own.steps:
        spec = spec.model_copy(update={"kind": "text"})
        return Made(spec, _names(own.steps, values), rank=values, beside=beside)
    return Made(spec, values, beside=beside)


def _group(own: Quantity) -> str:
    """The heading above it: the subject, the test whose part it is, the award."""
    award = award_behind(own)
    if award is not None:
        return f"{award.rule.name}, {own.key.sitting.name}"
    return own.key.label if own.part is not None and own.worked is None else own.key.about


def _decimals(own: Quantity, values: Array) -> int:
    """Marks in a part are whole, where they are."""
    return decimals_of(values) if own.part is not None and own.score == "raw" else own.decimals


def _won(snapshot: Snapshot, own: Quantity, at: Array) -> Array:
    """Marks in a part as a shade: nothing won −2, all of it 2."""
    assert own.part is not None
    share = figures_of_students(snapshot, of_part(own, own.part, "percent"))
    return np.asarray(share, float)[at] / 25 - 2


def _short(own: Quantity) -> str:
    """Its heading below the one above it: the rest of what it is called."""
    award = award_behind(own)
    if award is not None:
        return award.condition.name if award.condition else "Conditions that hold"
    if own.part is not None and own.worked is None and own.part.name:
        return own.part.name
    about = own.key.about
    return capitalised(own.label.removeprefix(f"{about}, ")) if own.label != about else about


def _names(steps: tuple[str, ...], values: Array) -> Array:
    place = np.nan_to_num(values, nan=0.0).astype(np.intp)
    return np.array(["", *steps], object)[place]


def _from_line(values: Array, pass_at: int | None) -> Array:
    """Steps above or below the pass line, none on it: at the line is +1. NaN: no line."""
    if pass_at is None:
        return np.full(len(values), np.nan)
    above = values - 1 - pass_at
    return np.clip(np.where(above >= 0, above + 1, above), -DEEPEST, DEEPEST)


def _level(snapshot: Snapshot, own: Quantity, at: Array) -> dict[str, Array]:
    """The level or grade of the same sitting."""
    key = sibling(snapshot, own.key, IN_STEPS) if own.key.role == "result" else None
    if key is None:
        return {}
    values = np.asarray(snapshot.values(key), float)[at]
    return {"level": _names(key.steps, values), "tone": _from_line(values, key.pass_at)}


def _away(
    snapshot: Snapshot, column: ListColumn, own: Quantity, values: Array, at: Array
) -> dict[str, Array]:
    """What each is held against and how far away, or the mark of what is a distance itself."""
    if isinstance(own.worked, Span):
        held = own.worked.yardstick.held(snapshot)
        assert held is not None  # a group is refused when the measure is bound
        if isinstance(own.worked, Steps):
            return {"tone": np.clip(values, -DEEPEST, DEEPEST)}
        return _sign(held, values, at)
    held = None if column.yardstick is None else column.yardstick.held(snapshot)
    if held is None:
        return {}
    reached = held.fit.expected if held.fit is not None else held.expected
    of = np.asarray(reached, float)[at]
    away = values - of
    beside: dict[str, Any] = {"away": away, "of": of, **_sign(held, away, at)}
    if own.steps:
        beside |= {
            "of": _names(own.steps, np.where(np.isnan(values), np.nan, of)),
            "tone": np.clip(away, -DEEPEST, DEEPEST),
        }
    return beside


def _sign(held: Held, span: Array, at: Array) -> dict[str, Array]:
    """▲ and ▼ where the error of a prediction is known; without it nothing is marked."""
    return {} if held.fit is None else {"sign": beyond_error(span, held.fit.error[at])}
