"""What a scale that comes after its results changes: how each kept grade or level reads by it."""

from __future__ import annotations

from typing import Any

import numpy as np

from bridge_chart.intake.cells import findings as f
from bridge_chart.store.reference_tables import ReferenceTables, tidy
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.finding import Choice
from bridge_chart.terms.wording import count, listed

MOST_NAMED = 6


def read_again(cells: list[dict[str, Any]], snapshot: Snapshot, found: f.Findings) -> None:
    """Say what of the kept results a new scale reads otherwise, and what it has no step for.
    cells: the scale's rows as they would be kept."""
    tables = ReferenceTables({"scale": [{**row, "batch": 0} for row in cells]})
    changed: dict[str, int] = {}
    unknown: dict[str, int] = {}
    measures = 0
    for measure in snapshot.measures:
        subject = measure.subject.name if measure.subject else None
        scale = tables.scale(measure.assessment.name, subject, measure.score)
        if scale is None or not measure.steps:
            continue
        names = [step.name for step in scale.steps]
        for at, (name, n) in enumerate(zip(measure.steps, _counts(snapshot, measure), strict=True)):
            place = scale.place(name)
            if n and place is None:
                unknown[name] = unknown.get(name, 0) + n
            elif n and place is not None and tidy(names[place]) != tidy(name):
                words = f"“{name}” as {names[place]}"
                changed[words] = changed.get(words, 0) + n
            elif n and place != at:
                changed["others in the scale's order"] = (
                    changed.get("others in the scale's order", 0) + n
                )
        measures += 1
    _say(changed, unknown, measures, found)


def _counts(snapshot: Snapshot, measure: MeasureKey) -> list[int]:
    """How many results each step has."""
    values = snapshot.values(measure)
    held = values[~np.isnan(values)].astype(np.intp)
    return [int(n) for n in np.bincount(held, minlength=len(measure.steps) + 1)[1:]]


def _say(
    changed: dict[str, int], unknown: dict[str, int], measures: int, found: f.Findings
) -> None:
    if changed:
        found.add(
            "read_again", "done",
            f"{count(sum(changed.values()), 'kept result')} of {count(measures, 'measure')} read "
            "by this scale",
            f"From this version on they read {listed(list(changed), MOST_NAMED)}", [],
            n=sum(changed.values()),
        )  # fmt: skip
    if unknown:
        told = [f"“{name}” ({n})" for name, n in unknown.items()]
        found.add(
            "no_step", "ask",
            f"{count(sum(unknown.values()), 'kept result')} without a step of this scale",
            f"{listed(told, MOST_NAMED)} would not be counted until a scale has it", [],
            [Choice(key="leave", label="Leave them out")], "leave", n=sum(unknown.values()),
        )  # fmt: skip
