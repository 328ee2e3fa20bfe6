"""Tables of expected outcomes: what a student who started at a point is expected to reach."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Floats
from bridge_chart.core.expected.cells import expected_by_table
from bridge_chart.store.reference_tables import ExpectedFrom, figure_said, same, tidy
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.wording import day
from bridge_chart.terms.words import spoken

Goal = Literal["expected", "ambitious"]


@dataclass(frozen=True)
class Reached:
    """outcome: (students,) by the tables, NaN without a start or outside them; tables: which were
    used, in words."""

    outcome: Floats
    tables: tuple[str, ...]


def reached_by_table(
    snapshot: Snapshot, own: Quantity, start: Quantity, goal: Goal = "expected"
) -> Reached:
    """What the tables say of each student's start, those of the year level before those of any.
    NotFound where none is about this start and this outcome."""
    before = np.asarray(figures_of_students(snapshot, start))
    levels = np.asarray(tested_year_level(snapshot, own.key))
    out = np.full(snapshot.students, np.nan)
    used = []
    for table in tables_of(snapshot, own, start):
        points = _points(table, own, start, goal)
        if points is None:
            continue
        mine = ~np.isnan(before)
        if table.year_level is not None:
            mine &= levels == table.year_level
        out[mine] = _looked_up(before[mine], *points, in_steps=bool(start.steps))
        used.append(_named(own, table))
    if not used:
        raise NotFound(
            f"No table says what is {goal} of {own.label} from {start.label}.",
            next_step="Bring in the table of expected outcomes, or choose another yardstick.",
        )
    return Reached(out, tuple(used))


def goals_of(snapshot: Snapshot, own: Quantity, start: Quantity) -> tuple[Goal, ...]:
    """Which goals the tables have."""
    tables = tables_of(snapshot, own, start)
    goals: tuple[Goal, ...] = ("expected", "ambitious")
    return tuple(g for g in goals if any(_points(t, own, start, g) is not None for t in tables))


def tables_of(snapshot: Snapshot, own: Quantity, start: Quantity) -> list[ExpectedFrom]:
    """The tables that are about this start of this outcome."""
    key, before = own.key, start.key
    subject = key.subject.name if key.subject else ""
    before_subject = before.subject.name if before.subject else ""
    told = snapshot.tables.expected_from(
        key.assessment.name, subject or None, key.sitting.name, own.score
    )
    return [
        table for table in told
        if same(table.start_test or key.assessment.name) == same(before.assessment.name)
        and same(table.start_subject or subject) == same(before_subject)
        and (table.start_score or own.score) == start.score
    ]  # fmt: skip


def _points(
    table: ExpectedFrom, own: Quantity, start: Quantity, goal: Goal
) -> tuple[Floats, Floats] | None:
    """Starts (rising) and outcomes as the quantities count them; None where the table has no such
    goal."""
    at = 2 if goal == "ambitious" else 1
    read = [(_place(row[0], start), _place(row[at], own)) for row in table.points]
    found = {s: o for s, o in read if s is not None and o is not None}
    if not found:
        return None
    starts = np.array(sorted(found))
    return starts, np.array([found[s] for s in starts.tolist()])


def _place(written: str, quantity: Quantity) -> float | None:
    """A figure, or a step's place from 1."""
    if not quantity.steps:
        return figure_said(written)
    names = [tidy(step) for step in quantity.steps]
    return names.index(tidy(written)) + 1.0 if tidy(written) in names else None


def _looked_up(before: Floats, starts: Floats, outcomes: Floats, *, in_steps: bool) -> Floats:
    """Linear between figures; between two levels there is nothing."""
    found = expected_by_table(before, starts, outcomes).expected
    return np.where(np.isin(before, starts), found, np.nan) if in_steps else found


def _named(own: Quantity, table: ExpectedFrom) -> str:
    parts = [own.label]
    if table.year_level is not None:
        parts.append(spoken().level_name(table.year_level))
    if table.published:
        parts.append(f"published {day(table.published)}")
    return "Expected outcomes: " + ", ".join(parts)
