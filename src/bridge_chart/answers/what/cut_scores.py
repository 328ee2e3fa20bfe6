"""Cut scores as a scale declares them, for a sitting: by year level, form and school year."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.describing.levels import half_levels_of, middles_of
from bridge_chart.store.codes import IN_FIGURES
from bridge_chart.store.reference_tables import Cut, same, tidy
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.errors import NotFound

ANY = -1


@dataclass(frozen=True)
class CutSet:
    """The cuts of one year level (−1: any) and form (None: any), lowest first."""

    year_level: int
    form: int | None
    cuts: tuple[Cut, ...]

    def holds_for(self, snapshot: Snapshot, key: MeasureKey, levels: Floats) -> Mask:
        """(students,) whose tested year level and form these cuts are for."""
        hits = np.ones(snapshot.students, bool) if self.year_level == ANY else np.asarray(
            levels == self.year_level
        )  # fmt: skip
        if self.form is not None:
            hits = hits & np.asarray(snapshot.form(key) == self.form)
        return hits


def cut_sets(snapshot: Snapshot, key: MeasureKey) -> list[CutSet]:
    """The sets that hold for a measure, general ones before those of a year level or a form: those
    in its own kind of figure; of levels and grades, in that of the sitting. Cuts of the sitting's
    own school year go before those that name none."""
    figure = _figure_of(snapshot, key)
    wanted = key.score if key.score in IN_FIGURES else figure
    subject = key.subject.name if key.subject else None
    form_ids = {same(form.name): form.id for form in key.forms}
    found: dict[tuple[int, int | None], dict[bool, list[Cut]]] = {}
    for score in ("level", "grade"):
        scale = snapshot.tables.scale(key.assessment.name, subject, score)
        for cut in scale.cuts if scale else ():
            dated = bool(cut.school_year)
            if (cut.score or figure) != wanted:
                continue
            if (dated and cut.school_year != key.academic_year) or (
                cut.form and same(cut.form) not in form_ids
            ):
                continue
            level = ANY if cut.year_level is None else cut.year_level
            form = form_ids[same(cut.form)] if cut.form else None
            found.setdefault((level, form), {}).setdefault(dated, []).append(cut)
    sets = [
        CutSet(level, form, tuple(sorted(cuts.get(True) or cuts[False], key=lambda c: c.lowest)))
        for (level, form), cuts in found.items()
    ]
    return sorted(sets, key=lambda s: (s.form is not None, s.year_level != ANY, s.year_level))


def _figure_of(snapshot: Snapshot, key: MeasureKey) -> str:
    """The kind of figure in which a sitting's boundaries are, where their table does not say."""
    held = {m.score for m in snapshot.measures if m.sitting == key.sitting and m.role == "result"}
    return next((score for score in IN_FIGURES if score in held), "")


def cuts_by_year_level(
    snapshot: Snapshot, key: MeasureKey, form: int | None = None
) -> dict[int, list[Cut]]:
    """Cuts by year level (−1: any); those of a form only where that form is asked for."""
    out: dict[int, list[Cut]] = {}
    for held in cut_sets(snapshot, key):
        if held.form in (None, form):
            out[held.year_level] = list(held.cuts)
    return out


def cuts_of(snapshot: Snapshot, key: MeasureKey, step: str, levels: Floats) -> Floats:
    """(students,) the lowest score of a step for each student's tested year level and form; NaN
    where the scale has none. NotFound where no student has one."""
    out = np.full(snapshot.students, np.nan)
    found = False
    for held in cut_sets(snapshot, key):
        for cut in held.cuts:
            if tidy(cut.step) == tidy(step):
                out[held.holds_for(snapshot, key, levels)] = cut.lowest
                found = True
    if not found:
        raise NotFound(
            f"{key.label} has no boundary “{step}” in its scale.",
            next_step="Bring in the scale with its cut scores.",
        )
    return out


def halves_of(snapshot: Snapshot, key: MeasureKey, values: Floats, levels: Floats) -> Floats:
    """(students,) each level's lower or upper half from 1, by the scores in `values`: at the score
    that the scale names, else at the level's middle. NaN where there is no score or no cut."""
    out = np.full(snapshot.students, np.nan)
    for held in cut_sets(snapshot, key):
        mine = held.holds_for(snapshot, key, levels)
        at = np.flatnonzero(mine & ~np.isnan(values))
        found = _halving(held, key.steps, values, levels) if len(at) else None
        if found is not None:
            halves = half_levels_of(values[at], found.inner, found.low, found.high, found.upper)
            out[at] = 2 * found.steps[halves // 2] + halves % 2 + 1
    return out


def half_lines(
    snapshot: Snapshot,
    key: MeasureKey,
    steps: Sequence[str],
    values: Floats,
    levels: Floats,
    year_level: int | None,
    form: int | None,
) -> list[tuple[str, float]]:
    """Each level of a year level (and of a form, where one is asked for) with the score at which
    its upper half begins. steps: the levels, from the lowest; values, levels: (students,)."""
    lines: dict[str, float] = {}
    for held in cut_sets(snapshot, key):
        if held.year_level not in (ANY, year_level) or held.form not in (None, form):
            continue
        found = _halving(held, steps, values, levels)
        if found is not None:
            middles = middles_of(found.inner, found.low, found.high, found.upper).tolist()
            lines |= {steps[n]: at for n, at in zip(found.steps.tolist(), middles, strict=True)}
    return list(lines.items())


@dataclass(frozen=True)
class _Halving:
    """steps: (levels,) their places; inner: (levels − 1,) the cuts between them; low, high: the
    ends of the scale; upper: (levels,) where an upper half begins, NaN = at the middle."""

    steps: Integers
    inner: Floats
    low: float
    high: float
    upper: Floats


def _halving(held: CutSet, names: Sequence[str], values: Floats, levels: Floats) -> _Halving | None:
    """How a set of cuts is halved; None where it parts nothing."""
    place = {tidy(name): at for at, name in enumerate(names)}
    cuts = [cut for cut in held.cuts if tidy(cut.step) in place]
    # The lowest step begins where the scale does, whether or not it has a cut of its own.
    bottom = cuts[0] if cuts and place[tidy(cuts[0].step)] == 0 else None
    above = cuts[1:] if bottom else cuts
    # The ends of the scale are those of the year level, whichever form was sat.
    reach = values if held.year_level == ANY else values[levels == held.year_level]
    if not above or np.isnan(reach).all():
        return None
    first = max(place[tidy(above[0].step)] - 1, 0)
    upper = [np.nan if c is None or c.upper is None else c.upper for c in (bottom, *above)]
    inner = np.array([cut.lowest for cut in above])
    return _Halving(
        np.array([first, *(place[tidy(cut.step)] for cut in above)]), inner,
        min(float(np.nanmin(reach)), inner[0] - 1), max(float(np.nanmax(reach)), inner[-1] + 1),
        np.array(upper),
    )  # fmt: skip
