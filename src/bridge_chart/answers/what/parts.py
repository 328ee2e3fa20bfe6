"""Parts of a test whose marks are kept by question: strands, topics, questions."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.identity import PartId
from bridge_chart.answers.what.sheets import marks_of, questions_of, worth_of
from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.core.items.marks import NOT_REACHED
from bridge_chart.store.reference_tables import QuestionInfo, same
from bridge_chart.store.snapshot import MeasureKey, Snapshot


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
    for paper in snapshot.marked_forms(key.sitting.id):
        known = questions_of(snapshot, key, paper.form)
        held = [
            n
            for n, name in enumerate(paper.questions)
            if asked_of(part, name, known.get(same(name)))
        ]
        if not held:
            continue
        marks = marks_of(paper, known)[:, held]
        some = (marks != NOT_REACHED).any(axis=1)
        won = np.where(marks >= 0, marks, 0).sum(axis=1).astype(float)
        worth = float(worth_of(snapshot, key, paper.form)[held].sum())
        value = won if score == "raw" else 100 * won / worth
        out[paper.at[some]] = value[some]
    return out


def asked_part(snapshot: Snapshot, key: MeasureKey, part: PartId) -> Mask:
    """(students,) who sat a form that asks something of a part."""
    out = np.zeros(snapshot.students, bool)
    for paper in snapshot.marked_forms(key.sitting.id):
        known = questions_of(snapshot, key, paper.form)
        if any(asked_of(part, name, known.get(same(name))) for name in paper.questions):
            out[paper.at] = True
    return out


def parts_of(snapshot: Snapshot, key: MeasureKey, kind: str) -> list[str]:
    """The names of a test's parts of one kind, in the order of its questions."""
    names: dict[str, str] = {}
    for paper in snapshot.marked_forms(key.sitting.id):
        known = questions_of(snapshot, key, paper.form)
        for name in paper.questions:
            info = known.get(same(name))
            own = None if info and info.whole else name
            called = own if kind == "question" else (info.tags.get(kind) if info else None)
            if called:
                names.setdefault(same(called), called)
    return list(names.values())


def tags_of(snapshot: Snapshot, key: MeasureKey) -> list[str]:
    """Every tag that a question of the test carries, whatever it is a kind of."""
    names: dict[str, str] = {}
    for paper in snapshot.marked_forms(key.sitting.id):
        for info in questions_of(snapshot, key, paper.form).values():
            for tag in info.tags.values():
                names.setdefault(same(tag), tag)
    return list(names.values())
