"""The nation: looked up for each student by the form sat and the year level tested."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.bound.yardstick import Held
from bridge_chart.answers.what.parts import asked_of
from bridge_chart.answers.what.sheets import questions_of
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Floats, Mask
from bridge_chart.core.norms.tables import ReferenceTable, percentile_rank
from bridge_chart.store.reference_tables import National, same
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.wording import day
from bridge_chart.terms.words import spoken


def national(snapshot: Snapshot, quantity: Quantity) -> Held:
    """The nation's mean for every student, by form and year level: never another form's."""
    out = np.full(snapshot.students, np.nan)
    used: list[str] = []
    smallest = float("nan")
    score = "raw" if quantity.part is not None else quantity.score
    for rows, table in () if quantity.worked else tables_for(snapshot, quantity.key, score):
        mean = _mean_of(snapshot, quantity, table)
        if mean is None:
            continue
        out[rows] = mean
        used.append(named(quantity.key, table))
        if table.n:
            smallest = table.n if smallest != smallest else min(smallest, table.n)
    if not used:
        raise NotFound(
            f"There are no national figures for {quantity.label} in {quantity.score_name}s.",
            next_step="Bring in the national table, or choose another yardstick.",
        )
    return Held(out, tables=tuple(used), table_n=smallest)


def _mean_of(snapshot: Snapshot, quantity: Quantity, table: National) -> float | None:
    """The nation's mean; of levels that of their places, from 1, by its shares."""
    if quantity.part is not None:
        return nation_of_part(snapshot, quantity, table)
    if not quantity.steps:
        return table.mean
    shares = [table.shares.get(step) for step in quantity.steps]
    told = np.array([share for share in shares if share is not None])
    if len(told) < len(shares) or not told.sum() > 0:
        return None
    return float((np.arange(len(told)) + 1) @ told / told.sum())


def tables_for(
    snapshot: Snapshot, key: MeasureKey, score: str, part: str = ""
) -> Iterator[tuple[Mask, National]]:
    """Each national table of a measure, or of a part of its test, with the students that it is
    about."""
    subject = key.subject.name if key.subject else None
    levels = np.asarray(tested_year_level(snapshot, key))
    forms = np.asarray(snapshot.form(key))
    about = key.assessment.name, subject, key.sitting.name, score
    for table in snapshot.tables.national(*about, part):
        rows = np.ones(snapshot.students, bool)
        if table.year_level is not None:
            rows &= levels == table.year_level
        if table.form is not None:
            of_form = [f.id for f in key.forms if same(f.name) == same(table.form)]
            rows &= np.isin(forms, of_form)
        if rows.any():
            yield rows, table


def named(key: MeasureKey, table: National) -> str:
    """A table as the answer names it."""
    parts = [key.label, *([table.part] if table.part else [])]
    if table.form:
        parts.append(f"form {table.form}")
    if table.year_level is not None:
        parts.append(spoken().level_name(table.year_level))
    if table.published:
        parts.append(f"published {day(table.published)}")
    return "National figures: " + ", ".join(parts)


def nation_of_part(snapshot: Snapshot, quantity: Quantity, table: National) -> float | None:
    """The nation's percentage in a part of the test, from the share correct of its questions;
    None where the table lacks one of them."""
    assert quantity.part is not None
    form = next((f.id for f in quantity.key.forms if same(f.name) == same(table.form)), None)
    known = questions_of(snapshot, quantity.key, form)
    mine = [info for name, info in known.items() if asked_of(quantity.part, name, info)]
    shares = {same(name): value for name, value in table.facilities.items()}
    if not mine or any(same(i.name) not in shares or not i.maximum for i in mine):
        return None
    worth = np.array([i.maximum for i in mine], float)
    share = np.array([shares[same(i.name)] for i in mine])
    mean = float(worth @ share)
    return mean if quantity.score == "raw" else 100 * mean / float(worth.sum())


def percentile_ranks(snapshot: Snapshot, quantity: Quantity) -> Floats:
    """(students,) national percentile rank of each score; NaN without a table. Of a part of the
    test by a table of that part, in marks or in percent."""
    out = np.full(snapshot.students, np.nan)
    part = quantity.part.name or "" if quantity.part else ""
    score = quantity.score
    if part and not any(tables_for(snapshot, quantity.key, score, part)):
        score = "percent" if score == "raw" else "raw"
    asked = replace(quantity, id=replace(quantity.id, score=score)) if part else quantity
    values = np.asarray(figures_of_students(snapshot, asked))
    for rows, table in tables_for(snapshot, quantity.key, score, part):
        found = ranked_table(quantity.key, table)
        if found is not None:
            out[rows] = percentile_rank(values[rows], found)
    return out


def ranked_table(key: MeasureKey, table: National) -> ReferenceTable | None:
    """The table as the core reads it; None without percentiles. Where several percentiles have
    one score, the highest of them is its rank."""
    ranks: dict[float, float] = {}
    for rank, score in table.percentiles:
        ranks[score] = max(rank, ranks.get(score, 0.0))
    if not ranks:
        return None
    published = dt.date.fromisoformat(table.published) if table.published else key.date
    return ReferenceTable(
        name=named(key, table), sitting=key.sitting.name, form=table.form or "",
        year_level=table.year_level or 0, published=published, provisional=False,
        scores=tuple(sorted(ranks)),
        percentile_ranks=tuple(np.maximum.accumulate([ranks[s] for s in sorted(ranks)])),
    )  # fmt: skip
