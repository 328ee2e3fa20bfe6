"""The rows of a test as a sheet of marks: its questions, or what shares a tag."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.what.parts import kinds_among
from bridge_chart.answers.what.sheets import Sheet
from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.items.marks import MarkSheet
from bridge_chart.store.reference_tables import QuestionInfo, same
from bridge_chart.terms import question as q


@dataclass(frozen=True)
class Rows:
    """names: of the rows, in the order of the paper; members: the questions of each; marks: a
    column for each row."""

    by: q.PartKind
    names: list[str]
    members: list[Integers]
    marks: MarkSheet

    @property
    def share(self) -> Floats:
        """(sat, rows) mark ÷ maximum, NaN = not reached."""
        return np.asarray(self.marks.marks / self.marks.maxima)

    def part(self, row: int) -> q.Part:
        """What a question asks to see one of them."""
        return q.Part.model_validate({"kind": self.by, "is": self.names[row]})


def kinds_of(sheet: Sheet) -> list[q.PartKind]:
    """By what the questions of a test can be put together."""
    return kinds_among(sheet.infos)


def rows_of(sheet: Sheet, by: q.PartKind, only: str | None = None) -> Rows:
    """A row for each question, or for each value of a tag, of those that carry the tag `only`. What
    of a strand was not reached counts as none won; who reached nothing of it is missing, as
    everywhere."""
    names: dict[str, str] = {}
    members: dict[str, list[int]] = {}
    for at, (name, info) in enumerate(zip(sheet.questions, sheet.infos, strict=True)):
        if by == "question":
            called = "" if info and info.whole else name
        else:
            called = info.tags.get(by, "") if info else ""
        if called and _carries(info, only):
            names.setdefault(same(called), called)
            members.setdefault(same(called), []).append(at)
    held = [np.array(one, np.int64) for one in members.values()]
    free = np.array([bool(info and info.choice) for info in sheet.infos], bool)
    return Rows(by, list(names.values()), held, _summed(sheet.marks, held, free))


def _carries(info: QuestionInfo | None, tag: str | None) -> bool:
    if tag is None:
        return True
    return info is not None and same(tag) in {same(one) for one in info.tags.values()}


def _summed(sheet: MarkSheet, held: list[Integers], free: Mask) -> MarkSheet:
    """A column for each row. Of questions to choose from those that a student answered are what
    there was to win, so that the marks stand for as large a share of the row's maximum."""
    if all(len(one) == 1 for one in held):
        return sheet.chosen(np.concatenate([np.zeros(0, np.int64), *held]))
    won, maxima = np.full((len(sheet.marks), len(held)), np.nan), np.zeros(len(held))
    for row, one in enumerate(held):
        marks = sheet.marks[:, one]
        some = ~np.isnan(marks).all(axis=1)
        maxima[row] = sheet.maxima[one].sum()
        asked = ~(free[one] & np.isnan(marks[some])) @ sheet.maxima[one]
        won[some, row] = np.nansum(marks[some], axis=1) * maxima[row] / asked
    nobody = np.zeros(len(held), np.int64)
    return MarkSheet(won, maxima, nobody, np.isnan(won).sum(axis=0).astype(np.int64))
