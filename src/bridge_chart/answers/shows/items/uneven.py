"""Who is far better on one paper of a test than on the other."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bridge_chart.answers.figures.sat import Sat
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.items.body import Uneven
from bridge_chart.answers.shows.items.rows import Rows
from bridge_chart.core.items.reliability import cronbach_alpha
from bridge_chart.core.items.uneven import uneven
from bridge_chart.terms import question as q

FEWEST = 20
"""Students whose papers are compared, at least."""


def uneven_papers(part: Slice, sat: Sat, rows: Rows) -> list[Uneven]:
    """Of the first two papers, among those looked at who sat both; nothing where an error of
    measurement is not known."""
    if rows.by != "paper" or len(rows.names) < 2:
        return []
    shares = np.where(sat.everyone[:, None], rows.share, np.nan)
    errors = [_error(sat, rows, row) for row in (0, 1)]
    both = ~np.isnan(shares[:, :2]).any(axis=1)
    if min(errors) <= 0 or int(both.sum()) < FEWEST:
        return []
    found = uneven(shares[:, 0], shares[:, 1], errors[0], errors[1])
    out = []
    for mask, better, worse in ((found.first, 0, 1), (found.second, 1, 0)):
        mine = sat.sheet.at[mask]
        if len(mine):
            ids = np.asarray(part.view.snapshot.student_ids)[mine]
            listed = q.FieldIs.model_validate({"field": "student", "in": [int(one) for one in ids]})
            out.append(
                Uneven(
                    better=rows.names[better], worse=rows.names[worse], n=len(mine),
                    opens=q.Open(add=(listed,), what=part.view.stands),
                )
            )  # fmt: skip
    return out


def _error(sat: Sat, rows: Rows, row: int) -> float:
    """The error of measurement of a paper as a share of its marks; 0 where it is not known."""
    sheet = sat.sheet.marks.chosen(rows.members[row])
    found = cronbach_alpha(
        replace(sheet, marks=sheet.marks[sat.everyone]), optional_questions=sat.sheet.by_choice
    )
    error = found.sem / float(rows.marks.maxima[row])
    return float(error) if error > 0 else 0.0
