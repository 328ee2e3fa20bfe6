"""Parts of a test whose marks are kept by question: strands, topics, questions."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from bridge_chart.answers.bound.identity import PartId
from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.what.sheets import forms_of, questions_of
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.items.marks import NOT_REACHED, OMITTED
from bridge_chart.store.reference_tables import QuestionInfo, same
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.question import PART_KINDS


def asked_of(part: PartId, name: str, info: QuestionInfo | None) -> bool:
    """Whether a question belongs to a part."""
    if part.tagged:
        wanted = {same(tag) for tag in part.tagged}
        return info is not None and bool(wanted & {same(tag) for tag in info.tags.values()})
    if part.kind == "question":
        return same(str(part.name)) == same(name)
    return info is not None and same(info.tags.get(part.kind)) == same(str(part.name))


def part_values(snapshot: Snapshot, key: MeasureKey, part: PartId, score: str) -> Floats:
    """Marks of a part for each student: raw, or as a percentage of what the questions that the
    student's own form asks are worth. What was omitted, and what of a part was not reached, counts
    as none won; a student who reached nothing of the part has no value."""
    out = np.full(snapshot.students, np.nan)
    for read in forms_of(snapshot, key):
        form, infos = read.form, read.infos
        held = [
            n
            for n, (name, info) in enumerate(zip(form.questions, infos, strict=True))
            if asked_of(part, name, info)
        ]
        if not held:
            continue
        marks = read.marks[:, held]
        some = (marks != NOT_REACHED).any(axis=1)
        won = np.where(marks >= 0, marks, 0).sum(axis=1).astype(float)
        worth = available(marks, read.worth[held], [infos[n] for n in held])
        value = won if score == "raw" else 100 * won / np.where(worth > 0, worth, np.nan)
        out[form.at[some]] = value[some]
    return out


def available(marks: Integers, worth: Floats, infos: Sequence[QuestionInfo | None]) -> Floats:
    """(students,) what the questions were worth to each student: of a set to choose from, those
    that were answered.

    >>> free = QuestionInfo("Q2", choice="B")
    >>> marks = np.array([[1, NOT_REACHED, 4], [0, 3, NOT_REACHED]])
    >>> available(marks, np.array([1.0, 5, 5]), [None, free, free]).tolist()
    [6.0, 6.0]
    """
    free = np.array([bool(info and info.choice) for info in infos], bool)
    asked = ~free | (np.asarray(marks) != NOT_REACHED)
    return np.asarray((asked * worth).sum(axis=1))


def asked_part(snapshot: Snapshot, key: MeasureKey, part: PartId) -> Mask:
    """(students,) who sat a form that asks something of a part."""
    out = np.zeros(snapshot.students, bool)
    for read in forms_of(snapshot, key):
        pairs = zip(read.form.questions, read.infos, strict=True)
        if any(asked_of(part, name, info) for name, info in pairs):
            out[read.form.at] = True
    return out


def left_out(snapshot: Snapshot, key: MeasureKey, question: str) -> Mask:
    """(students,) who left a question out between two answers: none won of it."""
    out = np.zeros(snapshot.students, bool)
    for read in forms_of(snapshot, key):
        names = [same(name) for name in read.form.questions]
        if same(question) in names:
            out[read.form.at] = read.marks[:, names.index(same(question))] == OMITTED
    return out


def questions_in(snapshot: Snapshot, key: MeasureKey, part: PartId) -> int:
    """How many questions a part has, on the form that asks the fewest of it; 0 where none does."""
    asked = []
    for read in forms_of(snapshot, key):
        infos = zip(read.form.questions, read.infos, strict=True)
        mine = [info for name, info in infos if asked_of(part, name, info)]
        # A column that holds a whole strand says nothing of how many questions are behind it.
        if mine and not any(info and info.whole for info in mine):
            asked.append(len(mine))
    return min(asked, default=0)


def kinds_among(infos: Iterable[QuestionInfo | None]) -> list[str]:
    """By what questions can be put together: the kinds that everybody has, then the district's own
    in the order of the questions."""
    held = {kind: None for info in infos if info for kind, tag in info.tags.items() if tag}
    usual = [kind for kind in PART_KINDS if kind in held]
    return [*usual, *(kind for kind in held if kind not in usual)]


def kinds_in(snapshot: Snapshot, key: MeasureKey) -> list[str]:
    """The kinds of a test whose marks are kept by question."""
    forms = snapshot.marked_forms(key.sitting.id)
    known = [questions_of(snapshot, key, form.form) for form in forms]
    return ["question", *kinds_among(info for held in known for info in held.values())]


def one_of_kinds(said: str, kinds: Iterable[str]) -> str:
    """A kind as the table of questions writes it; as it was said where it has none such."""
    return next((kind for kind in kinds if same(kind) == same(said)), said)


def parts_of(snapshot: Snapshot, key: MeasureKey, kind: str) -> list[str]:
    """The names of a test's parts of one kind, in the order of its questions."""
    names: dict[str, str] = {}
    for read in forms_of(snapshot, key):
        for name, info in zip(read.form.questions, read.infos, strict=True):
            own = None if info and info.whole else name
            called = own if kind == "question" else (info.tags.get(kind) if info else None)
            if called:
                names.setdefault(same(called), called)
    return list(names.values())


def tags_of(snapshot: Snapshot, key: MeasureKey) -> list[str]:
    """Every tag that a question of the test carries, whatever it is a kind of."""
    names: dict[str, str] = {}
    for form in snapshot.marked_forms(key.sitting.id):
        for info in questions_of(snapshot, key, form.form).values():
            for tag in info.tags.values():
                names.setdefault(same(tag), tag)
    return list(names.values())


def chose(snapshot: Snapshot, quantity: Quantity, option: str) -> Mask:
    """(students,) who chose an option of a question."""
    assert quantity.part is not None
    out = np.zeros(snapshot.students, bool)
    for form in snapshot.marked_forms(quantity.key.sitting.id):
        if form.choices is None or quantity.form not in (None, form.form):
            continue
        places = [n for n, name in enumerate(form.options) if same(name) == same(option)]
        for n, name in enumerate(form.questions):
            if places and asked_of(quantity.part, name, None):
                out[form.at[np.asarray(form.choices)[:, n] == places[0]]] = True
    return out
