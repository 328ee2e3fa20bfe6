"""Marks by question of one form, made ready: what each question is worth, what was omitted and what
was not reached."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.published.fits import fitted
from bridge_chart.core.arrays import Codes, Floats, Integers, Mask
from bridge_chart.core.items.marks import NOT_REACHED, OMITTED, MarkSheet, mark_sheet
from bridge_chart.store.reference_tables import QuestionInfo, same
from bridge_chart.store.snapshot import MarkedForm, MeasureKey, Snapshot
from bridge_chart.terms.errors import NotFound

NONE = "none chosen"
"""The option of who chose none."""


@dataclass(frozen=True)
class Sheet:
    """at: (sat,) the places of those who sat the form; marks: theirs, of the questions of which
    somebody has one; left_out: (sat, questions) where a question was omitted; infos: what the
    question table says of each question, where it says anything; choices: (sat, questions) place in
    `options`, −1 = none, None: no question has options; unmarked: questions of which nobody has a
    mark, for want of a key."""

    form: int | None
    at: Integers
    questions: tuple[str, ...]
    marks: MarkSheet
    left_out: Mask
    infos: tuple[QuestionInfo | None, ...]
    choices: Codes | None = None
    options: tuple[str, ...] = ()
    unmarked: tuple[str, ...] = ()

    @property
    def by_choice(self) -> bool:
        """Whether students answer some questions of a set."""
        return any(info and info.choice for info in self.infos)

    @property
    def right(self) -> Mask:
        """(questions, options) what each key says is right."""
        held = [[bool(i and i.right(name)) for name in self.options] for i in self.infos]
        return np.array(held, bool).reshape(len(self.infos), len(self.options))

    def written(self, snapshot: Snapshot, key: MeasureKey, question: int) -> dict[int, str]:
        """What students wrote about a question, by their place."""
        forms = snapshot.marked_forms(key.sitting.id)
        held = next(form for form in forms if form.form == self.form)
        if held.written is None:
            return {}
        texts = held.written
        of = np.asarray(texts.question) == held.questions.index(self.questions[question])
        return {int(texts.at[n]): texts.text(int(n)) for n in np.flatnonzero(of)}


@dataclass(frozen=True)
class FormRead:
    """A form with what is known of it. infos: what the table says of each question, None = nothing;
    marks: (sat, questions) with what each blank means; worth: (questions,)."""

    form: MarkedForm
    infos: tuple[QuestionInfo | None, ...]
    marks: np.ndarray
    worth: Floats


def forms_of(snapshot: Snapshot, key: MeasureKey) -> list[FormRead]:
    """The forms of a sitting, read once: a grid asks for every question of them."""

    def read() -> list[FormRead]:
        out = []
        for form in snapshot.marked_forms(key.sitting.id):
            known = questions_of(snapshot, key, form.form)
            marks = marks_of(form, known).astype(np.int16)
            infos = tuple(known.get(same(name)) for name in form.questions)
            out.append(FormRead(form, infos, marks, worth_of(snapshot, key, form.form)))
        return out

    return kept_for(snapshot, ("forms read", key.sitting.id, key.assessment.id, key.about), read)


def sheet_of(snapshot: Snapshot, key: MeasureKey, form: int | None) -> Sheet:
    """The marks of a form. NotFound where none are kept, or where the sitting has several forms
    and none is named: their questions are not the same."""
    forms = snapshot.marked_forms(key.sitting.id)
    if form is not None:
        forms = [one for one in forms if one.form == form]
    if not forms:
        raise NotFound(
            f"{key.label} has no marks by question.",
            next_step="Bring them in: a row per student, a column per question.",
        )
    if len(forms) > 1:
        names = " or ".join(f.name for f in key.forms)
        raise NotFound(
            f"{key.label} has several forms, and each has questions of its own.",
            next_step=f"Choose form {names}.",
        )
    found = forms[0]
    name = ("sheet", key.sitting.id, found.form)
    return kept_for(snapshot, name, lambda: _sheet_of(snapshot, key, found))


def _sheet_of(snapshot: Snapshot, key: MeasureKey, found: MarkedForm) -> Sheet:
    known = questions_of(snapshot, key, found.form)
    worth = worth_of(snapshot, key, found.form)
    # What nobody anywhere has a mark of awaits its key, and is no part of the test yet.
    held = np.flatnonzero(worth > 0)
    read = marks_of(found, known)[:, held]
    asked = tuple(found.questions[n] for n in held)
    marks = mark_sheet(read, worth[held])
    return Sheet(
        found.form, np.asarray(found.at, np.int64), asked, marks, read == OMITTED,
        tuple(known.get(same(name)) for name in asked),
        None if found.choices is None else np.asarray(found.choices, np.int64)[:, held],
        found.options, tuple(found.questions[n] for n in np.flatnonzero(worth <= 0)),
    )  # fmt: skip


def questions_of(snapshot: Snapshot, key: MeasureKey, form: int | None) -> dict[str, QuestionInfo]:
    """What is known of a paper's questions, by lower-case name."""
    subject = key.subject.name if key.subject else None
    named = next((f.name for f in key.forms if f.id == form), None)
    return snapshot.tables.questions(key.assessment.name, subject, key.sitting.name, named)


def worth_of(snapshot: Snapshot, key: MeasureKey, form: int | None) -> Floats:
    """(questions,) what each question of a form is worth: as its table says, else the most marks
    that anybody has, at least one; 0 where nobody has any. The same for whoever asks."""

    def make(whole: Snapshot) -> Floats:
        return next(
            _worth(whole, key, one) for one in whole.marked_forms(key.sitting.id)
            if one.form == form
        )  # fmt: skip

    name = ("worth", key.sitting.id, form)
    return fitted(snapshot, name, make, lambda made, _: made)


def _worth(snapshot: Snapshot, key: MeasureKey, form: MarkedForm) -> Floats:
    known = questions_of(snapshot, key, form.form)
    marks = np.asarray(form.marks)
    most = marks.max(axis=0, initial=1).astype(np.float64)
    infos = [known.get(same(name)) for name in form.questions]
    said = [info.maximum if info and info.maximum else 0.0 for info in infos]
    # A table that says less than somebody has is mistaken.
    return np.where((marks >= 0).any(axis=0), np.maximum(said, most), 0.0)


def marks_of(form: MarkedForm, known: Mapping[str, QuestionInfo]) -> Integers:
    """The marks of a paper with what each blank means."""
    infos = [known.get(same(name)) for name in form.questions]
    free = [bool(i and (i.whole or i.choice)) for i in infos]
    return read_marks(form.marks, np.array(free, bool))


def read_marks(marks: np.ndarray, whole: Mask) -> Integers:
    """Marks with what a blank means: after a student's last mark the question was not reached,
    else it was omitted. Of a column that stands for a whole strand, and of a question that students
    may leave for another, a blank says nothing but that there is no mark.

    marks: (students, questions), −1 = blank, −2 = nothing says a mark; whole: (questions,).

    >>> read_marks(np.array([[1, -1, 0, -1]]), np.zeros(4, bool)).tolist()
    [[1, -1, 0, -2]]
    >>> read_marks(np.array([[1, -1, 0]]), np.array([False, True, False])).tolist()
    [[1, -2, 0]]
    """
    held = np.asarray(marks).astype(np.int64)
    given = (held >= 0) & ~whole
    later = np.maximum.accumulate(given[:, ::-1], axis=1)[:, ::-1] & ~whole
    blank = np.where(later & (held == OMITTED), OMITTED, NOT_REACHED)
    return np.where(held >= 0, held, blank)
