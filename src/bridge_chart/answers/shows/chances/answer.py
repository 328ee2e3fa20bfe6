"""What has each level meant for a later test?"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from bridge_chart.answers.figures.slices import Slice
from bridge_chart.answers.published.rounded import coarse, step_for
from bridge_chart.answers.shows.chances.body import (
    ChancesBody,
    ChancesOptions,
    ChancesRow,
    Cohort,
    LaterOption,
)
from bridge_chart.answers.shows.chances.past import Past, called, went_on
from bridge_chart.answers.shows.chances.words import chances_method, chances_readings
from bridge_chart.answers.shows.levels.body import StepInfo
from bridge_chart.answers.shows.show import Shown
from bridge_chart.answers.what.values import tested_year_level
from bridge_chart.answers.who.coverage import coverage
from bridge_chart.answers.words.warnings import warnings_of
from bridge_chart.core.arrays import Floats, Integers
from bridge_chart.core.value_added.chances import FEWEST_COHORTS, Chances, chances
from bridge_chart.store.snapshot import MeasureKey
from bridge_chart.terms import question as q

MONTH = 30.44


def chances_shown(parts: Sequence[Slice]) -> Shown:
    """One measure in levels, and the test that earlier students went on to."""
    part = parts[0]
    view, snapshot = part.view, part.view.snapshot
    options = ChancesOptions.model_validate(view.question.options)
    at = np.unique(part.grouping.at)
    at = at[part.out.reasons[at] == 0]
    levels = np.asarray(tested_year_level(snapshot, view.measure))[at].astype(int)
    past, later, tests = went_on(
        snapshot, view.quantity, options.later, sorted(set(levels.tolist()))
    )
    counts, own = past.of_levels(sorted(set(levels.tolist())))
    found = chances(counts)
    cohorts = [n for n in range(len(counts)) if counts[n].any()]
    body = ChancesBody(
        show="chances", dimension=f"level in {view.quantity.label}", later=called(later),
        outcomes=[
            StepInfo(name=name, passes=later.pass_at is not None and n >= later.pass_at)
            for n, name in enumerate(later.steps)
        ],
        pass_at=later.pass_at,
        cohorts=[_cohort(past, n, counts, whole=snapshot.scope.whole) for n in cohorts],
        months_least=_months(past, cohorts)[0], months_most=_months(past, cohorts)[1],
        spread=found.spread,
        rows=_rows(part, at, found, own),
        others=[_option(key) for key in tests],
    )  # fmt: skip
    covered = [coverage(view, part.people, part.out.reasons)]
    return Shown(
        body=body, coverage=covered, readings=chances_readings(body),
        method=chances_method(view, body), warnings=warnings_of([part], covered, []),
    )  # fmt: skip


def _option(key: MeasureKey) -> LaterOption:
    subject = key.subject.id if key.subject else None
    return LaterOption(assessment=key.assessment.id, subject=subject, label=called(key))


def _cohort(past: Past, n: int, counts: Integers, *, whole: bool) -> Cohort:
    before, later = past.cohorts[n]
    size = int(counts[n].sum())
    return Cohort(
        before=before.sitting.name, later=later.sitting.name, n=size if whole else None
    )  # fmt: skip


def _months(past: Past, cohorts: list[int]) -> tuple[int, int]:
    days = [(past.cohorts[n][1].date - past.cohorts[n][0].date).days for n in cohorts]
    return round(min(days) / MONTH), round(max(days) / MONTH)


def _rows(part: Slice, at: Integers, found: Chances, own: Integers) -> list[ChancesRow]:
    """A row for each level, lowest first; of those asked about who is in it now."""
    view = part.view
    steps = view.quantity.steps
    now = np.bincount(part.out.values[at].astype(np.int64) - 1, minlength=len(steps))
    mine = own.sum(axis=0)
    out = []
    for n, name in enumerate(steps):
        opened = q.Open(what=view.stands, level=(name,)) if now[n] else None
        row = ChancesRow(
            key=f"level-{n + 1}", label=name, n=int(now[n]), opens=opened,
            cohorts=int(found.cohorts[n]),
        )  # fmt: skip
        out.append(_told(row, n, found, mine, whole=view.snapshot.scope.whole))
    return out


def _told(row: ChancesRow, n: int, found: Chances, own: Integers, *, whole: bool) -> ChancesRow:
    size = int(found.n[n])
    if not found.shown[n]:
        alone = found.cohorts[n] < FEWEST_COHORTS and size > 0
        why = {"past": size if whole else None, "undefined": "one_cohort" if alone else "too_few"}
        return row.model_copy(update=why)
    figures = {
        "share": found.share, "low": found.low, "high": found.high,
        "at_or_above": found.at_or_above, "above_low": found.above_low,
        "above_high": found.above_high,
    }  # fmt: skip
    if whole:
        told = {name: _listed(values[n]) for name, values in figures.items()}
        return row.model_copy(update={**told, "past": size})
    others = size - int(own[n].sum())
    step = step_for(others) if others else 0.01
    if step is None:
        return row.model_copy(update={"undefined": "too_few", "cohorts": 0})
    told = {name: _listed(coarse(values[n], step)) for name, values in figures.items()}
    return row.model_copy(update={**told, "past": round(size, -1), "coarse": step})


def _listed(values: Floats) -> list[float]:
    return [float(value) for value in values]
