"""How good each question is: whether it goes with the rest, and whether its key may be wrong."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.figures.sat import Sat
from bridge_chart.answers.shows.items.rows import Rows
from bridge_chart.answers.shows.items.shares import told
from bridge_chart.core.arrays import Floats
from bridge_chart.core.items.keys import doubtful_keys
from bridge_chart.core.items.questions import item_rest_correlation
from bridge_chart.core.items.reliability import strands

FEWEST_TO_READ_AGAIN = 50
"""Students behind a question that is said to go against the test."""
AGAINST = "Who does well on the rest of the test does worse on it: read it and its key again."


@dataclass(frozen=True)
class Doubt:
    """The place of a question whose key may be wrong, the option that the best chose, and why."""

    question: int
    instead: str
    words: str


def totals_of(sat: Sat) -> Floats:
    """(sat,) share of the marks that each could reach, of those looked at; NaN for others."""
    marks = sat.sheet.marks
    reached = ~np.isnan(marks.marks)
    with np.errstate(invalid="ignore", divide="ignore"):
        share = np.where(reached, marks.marks, 0.0).sum(axis=1) / (reached @ marks.maxima)
    return np.where(sat.everyone, share, np.nan)


def doubts(sat: Sat) -> list[Doubt]:
    """Questions whose key may be wrong, by those looked at."""
    sheet = sat.sheet
    if sheet.choices is None or not sheet.options:
        return []
    found = doubtful_keys(sheet.choices, sheet.right, totals_of(sat), len(sheet.options))
    out = []
    for one in found:
        info = sheet.infos[one.question]
        assert info is not None
        option = sheet.options[one.option]
        words = (
            f"Of the best third {one.chose} chose {option} and {one.keyed} chose {info.key}, which "
            "the key says: the key may be wrong."
        )
        out.append(Doubt(one.question, option, words))
    return out


def quality(sat: Sat, rows: Rows) -> list[dict[str, object]]:
    """Of each question how it goes with the rest and why to read it again; of each strand how
    exact it is."""
    sheet = replace(sat.sheet.marks, marks=sat.sheet.marks.marks[sat.everyone])
    if rows.by == "question":
        along = item_rest_correlation(sheet)[np.concatenate([*rows.members, np.zeros(0, int)])]
        enough = int(sheet.complete.sum()) >= FEWEST_TO_READ_AGAIN
        doubtful = {one.question: one.words for one in doubts(sat)}
        found: list[dict[str, object]] = []
        for n, one in enumerate(along):
            against = AGAINST if enough and one < 0 else None
            again = doubtful.get(int(rows.members[n][0]), against)
            found.append({"discrimination": told(one), "again": again})
        return found
    strand = np.full(len(sat.sheet.questions), -1, np.int64)
    for n, members in enumerate(rows.members):
        strand[members] = n
    return [
        {"alpha": told(one.alpha), "report": one.report}
        for one in strands(sheet, strand, len(rows.names))
    ]
