"""How exactly a start is measured: as it is declared, or at most by its questions."""

from __future__ import annotations

import numpy as np

from bridge_chart.answers.bound.quantity import Quantity
from bridge_chart.answers.what.sheets import sheet_of
from bridge_chart.answers.what.values import figures_of_students, tested_year_level
from bridge_chart.core.arrays import Floats
from bridge_chart.core.items.reliability import cronbach_alpha
from bridge_chart.store.snapshot import Snapshot


def start_reliability(snapshot: Snapshot, priors: tuple[Quantity, ...]) -> Floats:
    """(students,) the reliability of the start that a student has, NaN where it is not declared;
    of several starts the least exact one's."""
    out = np.full(snapshot.students, np.nan)
    undeclared = np.zeros(snapshot.students, bool)
    for prior in priors:
        values = np.asarray(figures_of_students(snapshot, prior))
        declared = _declared(snapshot, prior, values)
        out = np.fmin(out, declared)
        undeclared |= np.isnan(declared) & ~np.isnan(values)
    out[undeclared] = np.nan
    return out


def start_alpha(snapshot: Snapshot, priors: tuple[Quantity, ...]) -> Floats:
    """(students,) Cronbach's α of the questions of the start that a student sat, where marks are
    kept by question: no start is more reliable than that. NaN elsewhere; of several the least."""
    out = np.full(snapshot.students, np.nan)
    for prior in priors:
        mine = np.full(snapshot.students, np.nan)
        for form in snapshot.marked_forms(prior.key.sitting.id):
            sheet = sheet_of(snapshot, prior.key, form.form)
            found = cronbach_alpha(sheet.marks, optional_questions=sheet.by_choice)
            if found.alpha > 0:
                mine[sheet.at] = found.alpha
        out = np.fmin(out, mine)
    return out


def _declared(snapshot: Snapshot, prior: Quantity, values: Floats) -> Floats:
    """By form and year level; an error of measurement against the scores' variance in the year
    level of the whole district."""
    key = prior.plain.key
    out = np.full(snapshot.students, np.nan)
    subject = key.subject.name if key.subject else None
    if prior.plain.id != prior.id:
        return out  # of a part or a half nothing is declared
    forms = {form.name: form.id for form in key.forms}
    level = np.asarray(tested_year_level(snapshot, key)).astype(np.int64)
    sat = np.asarray(snapshot.form(key))
    for one in snapshot.tables.exactness(
        key.assessment.name, subject, key.sitting.name, prior.score
    ):
        mine = ~np.isnan(values)
        if one.year_level is not None:
            mine &= level == one.year_level
        if one.form is not None:
            mine &= sat == forms.get(one.form, -1)
        if one.reliability is not None:
            out[mine] = one.reliability
            continue
        for year in np.unique(level[mine]):
            here = mine & (level == year)
            variance = float(np.var(values[~np.isnan(values) & (level == year)]))
            share = 1 - (one.error or 0.0) ** 2 / variance if variance > 0 else 0.0
            out[here] = share if share > 0 else np.nan
    return out
