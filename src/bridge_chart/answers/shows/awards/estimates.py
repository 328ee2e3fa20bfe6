"""What estimates are worth: how they came out before, and what would be if they came out lower."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from bridge_chart.answers.kept.kept import kept_for
from bridge_chart.answers.shows.awards.body import Estimates
from bridge_chart.answers.what.award import Award, Judged, judged
from bridge_chart.core.arrays import Integers, Mask
from bridge_chart.core.awards.judge import ON_COURSE, fewest_estimates, judge
from bridge_chart.core.describing.shares import wilson
from bridge_chart.core.trust.verdicts import FEWEST_TO_SHOW
from bridge_chart.store.codes import CREDITS
from bridge_chart.store.snapshot import KeptCredits, Snapshot
from bridge_chart.terms.calendar import year_bounds

MOST_SEARCHED = 2_000
"""Students whose fewest estimates are searched; of more the mean would take too long."""


def rests_on(snapshot: Snapshot, award: Award, students: Integers) -> float | None:
    """The mean of the fewest estimates under which the award still holds."""
    held = judged(snapshot, award.of, award.rule)
    course = students[held.whole.status[students] == ON_COURSE]
    if not len(course) or len(course) > MOST_SEARCHED:
        return None
    name = ("award rests", award.of.id, award.rule.name)
    known: dict[int, int] = kept_for(snapshot, name, dict)
    for student in course.tolist():
        if student not in known:
            own = held.records.of(held.rows_of(student))
            found = fewest_estimates(held.award, own, student)
            known[student] = 0 if found is None else len(found)
    return float(np.mean([known[student] for student in course.tolist()]))


def fall_short(snapshot: Snapshot, award: Award, students: Integers) -> int | None:
    """How many of those on course would not meet it with each estimate one result lower."""
    held = judged(snapshot, award.of, award.rule)
    lower = _one_lower(snapshot, held.kept)
    if lower is None:
        return None
    name = ("award lower", award.of.id, award.rule.name)
    status = kept_for(snapshot, name, lambda: _judged_lower(snapshot, held, lower))
    on_course = held.whole.status[students] == ON_COURSE
    reached: Mask = status[students] >= ON_COURSE
    return int(np.count_nonzero(on_course & ~reached))


def _judged_lower(snapshot: Snapshot, held: Judged, lower: Integers) -> Integers:
    """lower: the result one below each, −1 = none that passes."""
    records = held.records
    estimate = ~records.banked & (records.result >= 0)
    result = np.where(estimate, lower[np.maximum(records.result, 0)], records.result)
    credits = np.where(estimate & (result < 0), 0, records.credits)
    made = replace(records, result=result.astype(np.int32), credits=credits)
    return judge(held.award, made, snapshot.students).status


def _one_lower(snapshot: Snapshot, kept: KeptCredits) -> Integers | None:
    """For each result of the records the one below it by the declared scale; −1 where that does not
    pass."""
    scale = snapshot.tables.scale(CREDITS, None, "grade")
    if scale is None:
        return None
    known = {name.casefold(): n for n, name in enumerate(kept.names["result"])}
    out = np.full(max(len(known), 1), -1)
    for name, code in known.items():
        at = scale.place(name)
        if at is None:
            return None
        below = scale.steps[at - 1] if at else None
        if below is not None and below.passes:
            out[code] = known.get(below.name.casefold(), code)
    return out


@dataclass(frozen=True)
class _Past:
    subject: Integers
    outcome: Mask
    reached: Mask


def estimates_before(snapshot: Snapshot, school_year: str) -> list[Estimates]:
    """Of every estimate of earlier school years what came of it: all together, then by subject."""
    kept = snapshot.credits
    if kept is None:
        return []
    name = ("estimates before", school_year)
    past = kept_for(snapshot, name, lambda: _past(snapshot, kept, school_year))
    if past is None or not len(past.subject):
        return []
    names = kept.names["subject"]
    found = [_told("", past, np.ones(len(past.subject), bool))]
    for code in sorted(set(past.subject.tolist()) - {-1}, key=lambda n: names[n]):
        found.append(_told(names[code], past, past.subject == code))
    return found


def _told(subject: str, past: _Past, rows: Mask) -> Estimates:
    outcomes = int(past.outcome[rows].sum())
    told = Estimates(subject=subject, estimates=int(rows.sum()), outcomes=outcomes)
    if outcomes < FEWEST_TO_SHOW:
        return told
    reached = int(past.reached[rows].sum())
    _, low, high = wilson(np.array(reached), np.array(outcomes))
    update = {"reached": reached, "low": float(low), "high": float(high)}
    return told.model_copy(update=update)


def _past(snapshot: Snapshot, kept: KeptCredits, school_year: str) -> _Past | None:
    """An outcome is a banked record of the same standard that came after the estimate."""
    worth = _worth(snapshot, kept)
    if worth is None:
        return None
    first = np.datetime64(year_bounds(school_year)[0]).astype(int)
    span = len(kept.names["standard"])
    pair = np.asarray(kept.student).astype(np.int64) * span + kept.codes["standard"]
    mine = np.flatnonzero(~np.asarray(kept.banked) & (np.asarray(kept.day) < first))
    sure = np.flatnonzero(np.asarray(kept.banked))
    sure = sure[np.lexsort((kept.day[sure], pair[sure]))]
    # The newest banked record of each student and standard.
    held, last = np.unique(pair[sure][::-1], return_index=True)
    newest = sure[::-1][last]
    at = np.minimum(np.searchsorted(held, pair[mine]), max(len(held) - 1, 0))
    if not len(held):
        nobody = np.zeros(len(mine), bool)
        return _Past(kept.codes["subject"][mine], nobody, nobody)
    outcome = (held[at] == pair[mine]) & (kept.day[newest[at]] > kept.day[mine])
    reached = outcome & (worth[newest[at]] >= worth[mine])
    return _Past(kept.codes["subject"][mine], outcome, reached)


def _worth(snapshot: Snapshot, kept: KeptCredits) -> Integers | None:
    """(records,) the place of each result in the declared order; None where one has none."""
    scale = snapshot.tables.scale(CREDITS, None, "grade")
    places = [scale.place(name) if scale else None for name in kept.names["result"]]
    if any(place is None for place in places):
        return None
    table = np.array([*(place or 0 for place in places), -1], np.int64)
    return np.asarray(table[kept.codes["result"]])
