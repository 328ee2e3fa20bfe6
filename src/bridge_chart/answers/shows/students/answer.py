"""Students: the people behind a mark, as columns, sorted and in pages."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.shows.students.body import FileLine, StudentsBody
from bridge_chart.answers.shows.students.columns import columns_of, cut_to, sorted_by
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.store.snapshot import Array
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method, PageInfo


def students_shown(parts: Sequence[Slice]) -> Shown:
    """Everybody in the population: those counted with their figures, the others with the reason.
    Of several measures the first is listed; the others only say who is in a matched cohort."""
    part = parts[0]
    view, out = part.view, part.out
    at = np.flatnonzero(part.people & view.meant)
    columns = columns_of(view, out, at)
    order = sorted_by(columns, view.question.sort, "score" if out.held is None else "span")
    page = view.question.page or q.Page()
    shown = order[page.after : page.after + page.size]
    body = StudentsBody(
        show="students",
        student=view.snapshot.student_ids[at[shown]].tolist(),
        origins=_lines(view, at[shown]),
        columns=[cut_to(column, shown) for column in columns],
        counted=int(np.count_nonzero(out.reasons[at] == 0)),
    )
    says = ["One row for each student on roll who meets the conditions."]
    if out.held is not None and out.held.fit is not None:
        says.append(
            "▲ and ▼ mark a score more than one error of prediction from the expected one; "
            "one test says little about one student."
        )
    return Shown(
        body=body,
        coverage=[coverage(view, part.people, out.reasons)],
        method=Method(name="Students", says=says, facts={}, page="methods/value-added.md"),
        page=PageInfo(total=len(at), after=page.after, size=page.size),
    )


def _lines(view: View, at: Array) -> list[FileLine | None]:
    """Batch and line that each score (or its absence) came from."""
    batch, line = (column[at].tolist() for column in view.snapshot.origin(view.measure))
    return [FileLine(batch_id=b, line=n) if b else None for b, n in zip(batch, line, strict=True)]
