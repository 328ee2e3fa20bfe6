"""Students: the people behind a mark, or of a list, as columns, sorted and in pages."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.bound.filter import holds
from bridge_chart.answers.bound.view import View
from bridge_chart.answers.figures.slices import Slice, opens
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.shows.students.body import (
    FileLine,
    ListGroup,
    StudentColumn,
    StudentsBody,
)
from bridge_chart.answers.shows.students.chosen import chosen
from bridge_chart.answers.shows.students.made import Made, text
from bridge_chart.answers.shows.students.order import ordered
from bridge_chart.answers.shows.students.totals import totals
from bridge_chart.answers.shows.students.usual import named, usual
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.store.snapshot import Array
from bridge_chart.terms import question as q
from bridge_chart.terms.answer import Method, PageInfo
from bridge_chart.terms.wording import capitalised, count


def _by_key(view: View) -> list[q.SortBy]:
    """What the list is sorted by, with the keys of columns that are named by their place."""
    keys = {f"#{n}": column.key for n, column in enumerate(view.columns, 1)}
    return [one.model_copy(update={"by": keys.get(one.by, one.by)}) for one in view.question.sort]


def students_shown(parts: Sequence[Slice]) -> Shown:
    """Everybody in the population: those counted with their figures, the others with the reason.
    Of several measures the first is listed; the others only say who is in a matched cohort."""
    part = parts[0]
    view, out = part.view, part.out
    at, code = part.grouping.at, part.grouping.code
    columns = [*named(view, at), *_splits(part)]
    columns += chosen(view, at) if view.columns else usual(view, out, at)
    first = "name" if view.columns else "score" if out.held is None else "span"
    order = ordered(columns, _by_key(view), first, code)
    page = view.question.page or q.Page()
    rows = order[page.after : page.after + page.size]
    body = StudentsBody(
        show="students",
        student=view.snapshot.student_ids[at[rows]].tolist(),
        origins=_lines(view, at[rows]),
        columns=_columns(part, columns, rows),
        counted=int(np.count_nonzero(out.reasons[part.people & view.meant] == 0)),
        groups=_groups(part),
        in_group=code[rows].tolist() if view.split else [],
        focus=_focus(view, at[rows]),
    )
    return Shown(
        body=body,
        coverage=[coverage(view, part.people, out.reasons)],
        method=Method(name="Students", says=_says(part, columns), facts={},
                      page="methods/value-added.md"),
        page=PageInfo(total=len(at), after=page.after, size=page.size),
    )  # fmt: skip


def _says(part: Slice, columns: Sequence[Made]) -> list[str]:
    says = ["One row for each student on roll who meets the conditions."]
    if part.grouping.overlaps:
        says = ["Who is in two groups stands under both, and is counted once in the last row."]
    if part.grouping.partial:
        left = int(np.count_nonzero(part.people & part.view.meant))
        left -= len(np.unique(part.grouping.at))
        says += [f"{count(left, 'student')} in none of the groups stand in no row."] if left else []
    if any("sign" in c.beside or c.spec.kind == "verdict" for c in columns):
        says.append(
            "▲ and ▼ mark a score more than one error of prediction from the expected one; "
            "one test says little about one student."
        )
    return says


def _columns(part: Slice, columns: list[Made], rows: Array) -> list[StudentColumn]:
    """The columns with the values of the page, and what they come to over the whole list."""
    code, at = part.grouping.code, part.grouping.at
    once = np.full(len(at), -1)
    once[np.unique(at, return_index=True)[1]] = 0
    split = bool(part.view.split)
    return [
        column.shown(
            rows,
            total=totals(column, once, 1)[0],
            by_group=totals(column, code, len(part.grouping.groups)) if split else [],
        )
        for column in columns
    ]


def _splits(part: Slice) -> list[Made]:
    """The group of each split that a row stands under."""
    groups, code = part.grouping.groups, part.grouping.code
    out = []
    for n, split in enumerate(part.view.split):
        told = np.array([group.steps[n].label for group in groups], object)
        out.append(text(f"split_{n + 1}", capitalised(split.label), told[code]))
    return out


def _groups(part: Slice) -> list[ListGroup]:
    view = part.view
    if not view.split:
        return []
    n = np.bincount(part.grouping.code, minlength=len(part.grouping.groups)).tolist()
    return [
        ListGroup(key=group.name, label=group.label, n=size, opens=opens(view, group))
        for group, size in zip(part.grouping.groups, n, strict=True)
    ]


def _focus(view: View, at: Array) -> list[bool]:
    if view.focus is None:
        return []
    found: list[bool] = holds(view.focus, view.snapshot.students)[at].tolist()
    return found


def _lines(view: View, at: Array) -> list[FileLine | None]:
    """Batch and line that each score (or its absence) came from."""
    batch, line = (column[at].tolist() for column in view.snapshot.origin(view.measure))
    return [FileLine(batch_id=b, line=n) if b else None for b, n in zip(batch, line, strict=True)]
