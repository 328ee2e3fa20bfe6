"""Quantities: one figure per student. A kept measure, a part of a test, or worked out from one."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.cut_scores import halves_of
from bridge_chart.answers.kept import kept_for
from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.store.codes import SCORE_NAMES, STEPPED, UNITS
from bridge_chart.store.reference_tables import QuestionInfo, same
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms import question as q

HALVES = ("lower", "upper")


@dataclass(frozen=True)
class Quantity:
    """What is looked at. `key`: the kept measure behind it (its sitting, its date, who sat it);
    `ask`: the same in a question; `score`: how it is expressed; `steps`: names from lowest."""

    key: MeasureKey
    ask: q.Measure | q.Derived
    name: str
    label: str
    score: str
    decimals: int
    steps: tuple[str, ...] = ()
    pass_at: int | None = None
    part: q.Part | None = None
    form: int | None = None
    of: Quantity | None = None
    """What it is worked out from, for a derived one."""

    @property
    def unit(self) -> str:
        """In words: “marks”, “%”, “scaled-score points”."""
        if isinstance(self.ask, q.Derived) and self.ask.derive == "steps":
            return "steps"
        return UNITS[self.score]

    @property
    def score_name(self) -> str:
        if isinstance(self.ask, q.Derived):
            return DERIVED_NAMES[self.ask.derive]
        return SCORE_NAMES[self.score]


DERIVED_NAMES = {"span": "span", "gain": "gain", "steps": "steps made",
                 "percentile": "national percentile rank"}  # fmt: skip


def plain(key: MeasureKey, ask: q.Measure) -> Quantity:
    """The kept measure as it is."""
    return Quantity(
        key, ask, key.key, key.label, key.score, key.decimals,
        key.steps if key.score in STEPPED else (), key.pass_at,
    )  # fmt: skip


def in_points(quantity: Quantity) -> Quantity:
    """Grades by the points that their scale gives them: a mean of grades needs points."""
    return replace(
        quantity, score="points", name=f"{quantity.name}.points", steps=(), decimals=1,
        ask=quantity.ask.model_copy(update={"score": "points"}),
    )  # fmt: skip


def in_halves(quantity: Quantity) -> Quantity:
    """Each level as a lower and an upper half."""
    steps = tuple(f"{name}, {half}" for name in quantity.steps for half in HALVES)
    pass_at = None if quantity.pass_at is None else 2 * quantity.pass_at
    ask = quantity.ask.model_copy(update={"grain": "half"})
    return replace(quantity, steps=steps, pass_at=pass_at, name=f"{quantity.name}.half", ask=ask)


def of_part(quantity: Quantity, part: q.Part, label: str) -> Quantity:
    """The marks of some questions, as a percentage of what they are worth (or raw)."""
    ask = quantity.ask.model_copy(update={"part": part, "score": quantity.score})
    return replace(
        quantity, part=part, ask=ask, name=f"{quantity.name}.{label}", steps=(), decimals=1,
        label=f"{quantity.key.about}, {label}, {quantity.key.sitting.name}",
    )  # fmt: skip


def on_form(quantity: Quantity, form: int) -> Quantity:
    """Only those who sat one form."""
    named = next(f.name for f in quantity.key.forms if f.id == form)
    ask = quantity.ask.model_copy(update={"form": form})
    return replace(quantity, form=form, ask=ask, name=f"{quantity.name}.form{form}",
                   label=f"{quantity.label}, form {named}")  # fmt: skip


def values_of(snapshot: Snapshot, quantity: Quantity) -> Floats:
    """(students,) float64, NaN where there is none; a step's place from 1 for levels and grades.
    Derived quantities are worked out by `yardstick.derived_values`."""
    whole = quantity.part is None and quantity.form is None and not _halved(quantity)
    if whole and quantity.score == quantity.key.score:
        return snapshot.values(quantity.key)
    return kept_for(snapshot, f"values {quantity.name}", lambda: _made(snapshot, quantity))


def _halved(quantity: Quantity) -> bool:
    return isinstance(quantity.ask, q.Measure) and quantity.ask.grain == "half"


def _made(snapshot: Snapshot, quantity: Quantity) -> Floats:
    key = quantity.key
    if quantity.part is not None:
        values = part_values(snapshot, key, quantity.part, quantity.score)
    elif quantity.score == "points" and key.score in STEPPED:
        points = np.array([np.nan, *(np.nan if p is None else p for p in key.points)])
        values = points[np.nan_to_num(snapshot.values(key), nan=0.0).astype(np.intp)]
    elif _halved(quantity):
        values = _halves(snapshot, key)
    else:
        values = np.array(snapshot.values(key))
    if quantity.form is not None:
        values = np.where(snapshot.form(key) == quantity.form, values, np.nan)
    return values


def questions_of(snapshot: Snapshot, key: MeasureKey, form: int | None) -> dict[str, QuestionInfo]:
    """What is known of a paper's questions, by lower-case name."""
    subject = key.subject.name if key.subject else None
    named = next((f.name for f in key.forms if f.id == form), None)
    return snapshot.tables.questions(key.assessment.name, subject, key.sitting.name, named)


def asked_of(part: q.Part, name: str, info: QuestionInfo | None) -> bool:
    """Whether a question belongs to a part."""
    if part.kind == "question":
        if part.is_ is not None:
            return same(str(part.is_)) == same(name)
        wanted = {same(tag) for tag in part.tagged or ()}
        return info is not None and bool(wanted & {same(tag) for tag in info.tags.values()})
    return info is not None and same(info.tags.get(part.kind)) == same(str(part.is_))


def part_values(snapshot: Snapshot, key: MeasureKey, part: q.Part, score: str) -> Floats:
    """Marks of a part for each student: raw, or as a percentage of what the questions that the
    student's own form asks are worth. A question without a mark counts as none won; a student
    without any mark in the part has no value."""
    out = np.full(snapshot.students, np.nan)
    for paper in snapshot.papers(key.sitting.id):
        known = questions_of(snapshot, key, paper.form)
        held = [
            n
            for n, name in enumerate(paper.questions)
            if asked_of(part, name, known.get(same(name)))
        ]
        if not held:
            continue
        marks = np.asarray(paper.marks)[:, held]
        worth = [
            info.maximum if (info := known.get(same(paper.questions[n]))) and info.maximum
            else max(1.0, float(paper.marks[:, n].max(initial=0)))
            for n in held
        ]  # fmt: skip
        some = (marks >= 0).any(axis=1)
        won = np.where(marks >= 0, marks, 0).sum(axis=1).astype(float)
        total = sum(worth)
        value = won if score == "raw" else 100 * won / total
        out[paper.at[some]] = value[some]
    return out


def parts_of(snapshot: Snapshot, key: MeasureKey, kind: str) -> list[str]:
    """The names of a test's parts of one kind, in the order of its questions."""
    names: dict[str, str] = {}
    for paper in snapshot.papers(key.sitting.id):
        known = questions_of(snapshot, key, paper.form)
        for name in paper.questions:
            info = known.get(same(name))
            own = None if info and info.whole else name
            called = own if kind == "question" else (info.tags.get(kind) if info else None)
            if called:
                names.setdefault(same(called), called)
    return list(names.values())


def _halves(snapshot: Snapshot, key: MeasureKey) -> Floats:
    """Half-levels from the score in figures; NaN where a student has none."""
    scores = numeric_sibling(snapshot, key)
    if scores is None:
        return np.full(snapshot.students, np.nan)
    levels = tested_year_level(snapshot, key)
    return halves_of(snapshot, key, np.asarray(snapshot.values(scores)), levels)


def numeric_sibling(snapshot: Snapshot, key: MeasureKey) -> MeasureKey | None:
    """The same sitting's score in figures: scaled, else raw, else percent."""
    mine = {
        m.score: m for m in snapshot.measures
        if m.sitting == key.sitting and m.role == "result"
    }  # fmt: skip
    return next((mine[s] for s in ("scaled", "raw", "percent") if s in mine), None)


def stepped_sibling(snapshot: Snapshot, key: MeasureKey) -> MeasureKey | None:
    """The same sitting's level, else grade."""
    mine = {
        m.score: m for m in snapshot.measures
        if m.sitting == key.sitting and m.role == "result"
    }  # fmt: skip
    return next((mine[s] for s in ("level", "grade") if s in mine), None)


def tested_year_level(snapshot: Snapshot, key: MeasureKey) -> Floats:
    """Year level at the sitting: as the file said, else as the roll said, −1 = unknown."""
    said = np.asarray(snapshot.tested_year_level(key))
    roll = snapshot.roll_at(key.date)
    return said if roll is None else np.where(said >= 0, said, roll.year_level)


def sat(snapshot: Snapshot, quantity: Quantity) -> Mask:
    """Who was meant to have it: everyone, or those who sat the form that is asked for."""
    if quantity.form is None:
        return np.ones(snapshot.students, bool)
    return np.asarray(snapshot.form(quantity.key) == quantity.form)
