"""Marks by question of one form, made ready: what each question is worth, what was omitted and what
was not reached."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.published.fits import fitted
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.items.marks import NOT_REACHED, OMITTED, MarkSheet, mark_sheet
from bridge_chart.store.reference_tables import QuestionInfo, same
from bridge_chart.store.snapshot import MarkedForm, MeasureKey, Snapshot
from bridge_chart.terms.errors import NotFound


@dataclass(frozen=True)
class Sheet:
    """at: (sat,) the places of those who sat the form; marks: theirs; left_out: (sat, questions)
    where a question was omitted; infos: what the question table says of each question, where it
    says anything."""

    at: Integers
    questions: tuple[str, ...]
    marks: MarkSheet
    left_out: Mask
    infos: tuple[QuestionInfo | None, ...]


def sheet_of(snapshot: Snapshot, key: MeasureKey, form: int | None) -> Sheet:
    """The marks of a form. NotFound where none are kept, or where the sitting has several forms
    and none is named: their questions are not the same."""
    papers = snapshot.marked_forms(key.sitting.id)
    if form is not None:
        papers = [paper for paper in papers if paper.form == form]
    if not papers:
        raise NotFound(
            f"{key.label} has no marks by question.",
            next_step="Bring them in: a row per student, a column per question.",
        )
    if len(papers) > 1:
        names = " or ".join(f.name for f in key.forms)
        raise NotFound(
            f"{key.label} has several forms, and each has questions of its own.",
            next_step=f"Choose form {names}.",
        )
    paper = papers[0]
    known = questions_of(snapshot, key, paper.form)
    read = marks_of(paper, known)
    marks = mark_sheet(read, worth_of(snapshot, key, paper.form))
    infos = tuple(known.get(same(name)) for name in paper.questions)
    return Sheet(np.asarray(paper.at, np.int64), paper.questions, marks, read == OMITTED, infos)


def questions_of(snapshot: Snapshot, key: MeasureKey, form: int | None) -> dict[str, QuestionInfo]:
    """What is known of a paper's questions, by lower-case name."""
    subject = key.subject.name if key.subject else None
    named = next((f.name for f in key.forms if f.id == form), None)
    return snapshot.tables.questions(key.assessment.name, subject, key.sitting.name, named)


def worth_of(snapshot: Snapshot, key: MeasureKey, form: int | None) -> Floats:
    """(questions,) what each question of a form is worth: as its table says, else the most marks
    that anybody has, at least one. The same for whoever asks."""

    def make(whole: Snapshot) -> Floats:
        return next(
            _worth(whole, key, paper) for paper in whole.marked_forms(key.sitting.id)
            if paper.form == form
        )  # fmt: skip

    name = ("worth", key.sitting.id, form)
    return fitted(snapshot, name, make, lambda made, _: made)


def _worth(snapshot: Snapshot, key: MeasureKey, paper: MarkedForm) -> Floats:
    known = questions_of(snapshot, key, paper.form)
    most = np.asarray(paper.marks).max(axis=0, initial=1).astype(np.float64)
    infos = [known.get(same(name)) for name in paper.questions]
    said = [info.maximum if info and info.maximum else 0.0 for info in infos]
    # A table that says less than somebody has is mistaken.
    return np.asarray(np.maximum(said, most), np.float64)


def marks_of(paper: MarkedForm, known: Mapping[str, QuestionInfo]) -> Integers:
    """The marks of a paper with what each blank means."""
    infos = [known.get(same(name)) for name in paper.questions]
    return read_marks(paper.marks, np.array([bool(i and i.whole) for i in infos], bool))


def read_marks(marks: np.ndarray, whole: Mask) -> Integers:
    """Marks with what a blank means: after a student's last mark the question was not reached,
    else it was omitted. Of a column that stands for a whole strand a blank says nothing but that
    there is no mark.

    marks: (students, questions), −1 = blank; whole: (questions,).

    >>> read_marks(np.array([[1, -1, 0, -1]]), np.zeros(4, bool)).tolist()
    [[1, -1, 0, -2]]
    >>> read_marks(np.array([[1, -1, 0]]), np.array([False, True, False])).tolist()
    [[1, -2, 0]]
    """
    held = np.asarray(marks).astype(np.int64)
    given = (held >= 0) & ~whole
    later = np.maximum.accumulate(given[:, ::-1], axis=1)[:, ::-1] & ~whole
    return np.where(held >= 0, held, np.where(later, OMITTED, NOT_REACHED))
