"""A key that is said anew: whose marks of kept answers move, before it is kept."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from bridge_chart.intake.cells import findings as f
from bridge_chart.store.reference_tables import QuestionInfo, ReferenceTables, same
from bridge_chart.store.snapshot import MarkedForm, Snapshot
from bridge_chart.terms.wording import count, listed

NAMED = 6


def marks_moved(cells: list[dict[str, Any]], snapshot: Snapshot, found: f.Findings) -> None:
    """Says of every question whose key changes how many students gain and lose its marks. cells:
    the table's rows as they would be kept."""
    names = snapshot.tables.rows("names")
    said = ReferenceTables({"questions": [{**row, "batch": 0} for row in cells], "names": names})
    told: list[str] = []
    moved = 0
    for key in {measure.sitting.id: measure for measure in snapshot.measures}.values():
        subject = key.subject.name if key.subject else None
        for form in snapshot.marked_forms(key.sitting.id):
            named = next((one.name for one in key.forms if one.id == form.form), None)
            about = key.assessment.name, subject, key.sitting.name, named
            before, after = snapshot.tables.questions(*about), said.questions(*about)
            for at, name in enumerate(form.questions):
                info = after.get(same(name))
                if info is None or not info.key or form.choices is None:
                    continue
                had = before.get(same(name)) or QuestionInfo(name)
                gain, lose = _moves(form, at, had, info.key)
                if gain or lose:
                    moved += gain + lose
                    where = f"{key.label}{f', form {named}' if named else ''}"
                    told.append(f"{name} of {where}: {gain} gain, {lose} lose")
    if told:
        found.add(
            "marks_moved", "done", f"{count(moved, 'mark')} of kept answers move",
            f"{listed(told, NAMED)}; totals with them, from the next version on", [], n=moved,
        )  # fmt: skip


def _moves(form: MarkedForm, at: int, before: QuestionInfo, key: str) -> tuple[int, int]:
    """How many gain and how many lose the question's marks by another key."""
    after = replace(before, key=key)
    chosen = np.asarray(form.choices)[:, at]
    held = chosen[chosen >= 0]
    had = np.array([before.right(name) for name in form.options], bool)[held]
    has = np.array([after.right(name) for name in form.options], bool)[held]
    return int((has & ~had).sum()), int((had & ~has).sum())
