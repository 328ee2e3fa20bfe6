"""Students of earlier years: where each started, and what came of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.answers.bound.names import one_of_named, unique
from bridge_chart.answers.bound.quantity import Quantity, plain
from bridge_chart.answers.published.fits import fitted
from bridge_chart.answers.shows.chances.body import LaterTest
from bridge_chart.answers.what.values import (
    figures_of_students,
    of_same_students,
    tested_year_level,
)
from bridge_chart.core.arrays import Integers
from bridge_chart.core.value_added.chances import FEWEST_COHORTS, count_outcomes
from bridge_chart.store.codes import STEPPED
from bridge_chart.store.snapshot import MeasureKey, Snapshot
from bridge_chart.terms.errors import NotFound

LONGEST = 800
"""Days after which an outcome is no longer this start's."""
MOST_YEAR_LEVELS = 129


@dataclass(frozen=True)
class Past:
    """counts: (cohorts, year levels + 1, starts, outcomes) students of the whole district; own: the
    same of those whom the asker sees; cohorts: each start's sitting with the outcome's; days:
    (cohorts,) between the two."""

    counts: Integers
    own: Integers
    cohorts: tuple[tuple[MeasureKey, MeasureKey], ...]

    def of_levels(self, year_levels: list[int]) -> tuple[Integers, Integers]:
        """The counts of some year levels, all in one: (cohorts, starts, outcomes)."""
        at = [level + 1 for level in year_levels]
        return self.counts[:, at].sum(axis=1), self.own[:, at].sum(axis=1)


def later_tests(snapshot: Snapshot, own: Quantity) -> list[MeasureKey]:
    """One measure of each test and subject that students of an earlier sitting went on to, the one
    with most sittings first; the same subject before others."""
    starts = _starts(snapshot, own)
    found: dict[tuple[int, int | None], list[MeasureKey]] = {}
    for key in snapshot.measures:
        if key.role != "result" or key.score not in STEPPED:
            continue
        if any(_follows(snapshot, start, key) for start in starts):
            subject = key.subject.id if key.subject else None
            found.setdefault((key.assessment.id, subject), []).append(key)
    mine = own.key.subject.name if own.key.subject else None

    def order(keys: list[MeasureKey]) -> tuple[bool, bool, int]:
        theirs = keys[0].subject.name if keys[0].subject else None
        return theirs != mine, keys[0].assessment == own.key.assessment, -len(keys)

    return [max(keys, key=lambda k: k.date) for keys in sorted(found.values(), key=order)]


def later_named(tests: list[MeasureKey], own: Quantity, asked: LaterTest | None) -> MeasureKey:
    """The later test that is asked for, or the first; NotFound with those that there are."""
    if not tests:
        raise NotFound(
            f"Nobody of an earlier year who sat {own.key.about} has a later result in levels or "
            "grades, so nothing is known of chances.",
            next_step="Bring in earlier years' results of both tests, with their rosters.",
        )
    if asked is None:
        return tests[0]
    test = one_of_named("later test", asked.assessment, unique(k.assessment for k in tests))
    mine = [k for k in tests if k.assessment.id == test]
    subjects = unique(k.subject for k in mine if k.subject)
    if asked.subject is None or not subjects:
        return mine[0]
    subject = one_of_named("subject", asked.subject, subjects)
    return next(k for k in mine if k.subject and k.subject.id == subject)


def called(key: MeasureKey) -> str:
    """A test and its subject, whatever the sitting."""
    return f"{key.assessment.name}, {key.about}" if key.subject else key.assessment.name


def went_on(
    snapshot: Snapshot, own: Quantity, asked: LaterTest | None, year_levels: list[int]
) -> tuple[Past, MeasureKey, list[MeasureKey]]:
    """What became of earlier students of these year levels, in the test that is asked for, or in
    the first of which two cohorts or more tell; that test, and all that there are."""
    tests = later_tests(snapshot, own)
    wanted = [later_named(tests, own, asked)] if asked is not None else tests
    later_named(tests, own, None)
    for later in wanted:
        past = past_of(snapshot, own, later)
        counts, _ = past.of_levels(year_levels)
        if np.count_nonzero(counts.any(axis=(1, 2))) >= FEWEST_COHORTS:
            return past, later, tests
    several = " or ".join(called(later) for later in wanted)
    raise NotFound(
        f"Fewer than two cohorts before these have both {own.key.about} and {several}: one alone "
        "tells nothing of chances.",
        next_step="Bring in earlier years' results of both tests, with their rosters.",
    )


def past_of(snapshot: Snapshot, own: Quantity, later: MeasureKey) -> Past:
    """What became of earlier students, each by the first later result."""
    pairs = tuple(
        (start, key)
        for start in _starts(snapshot, own)
        for key in snapshot.measures
        if _same_test(key, later) and _follows(snapshot, start, key)
    )
    starts, outcomes = len(own.steps), len(later.steps)

    def make(whole: Snapshot) -> Integers:
        return _counted(whole, pairs, starts, outcomes)

    name = ("chances", own.id, plain(later).id)
    keys = tuple(key for pair in pairs for key in pair)
    counts = fitted(snapshot, name, make, lambda made, _: made, keys)
    mine = counts if snapshot.scope.whole else make(snapshot)
    return Past(counts, mine, pairs)


def _counted(
    snapshot: Snapshot, pairs: tuple[tuple[MeasureKey, MeasureKey], ...], starts: int, outcomes: int
) -> Integers:
    out = np.zeros((len(pairs), MOST_YEAR_LEVELS, starts, outcomes), np.int64)
    told: dict[int, np.ndarray] = {}
    for n, (start, key) in enumerate(pairs):
        before = _place(snapshot, start)
        after = _place(snapshot, key)
        # The first result that follows is the outcome; a later one of the same start is not.
        taken = told.setdefault(start.sitting.id, np.zeros(snapshot.students, bool))
        mine = (before >= 0) & (after >= 0) & ~taken
        taken |= mine
        level = np.asarray(tested_year_level(snapshot, start)).astype(np.int64) + 1
        cell = level * starts + before
        counted = count_outcomes(
            np.where(mine, cell, -1), MOST_YEAR_LEVELS * starts, np.where(mine, after, -1),
            outcomes, np.zeros(len(cell), np.int64), 1,
        )  # fmt: skip
        out[n] = counted[0].reshape(MOST_YEAR_LEVELS, starts, outcomes)
    return out


def _place(snapshot: Snapshot, key: MeasureKey) -> Integers:
    values = np.asarray(figures_of_students(snapshot, plain(key)))
    return np.nan_to_num(values, nan=0.0).astype(np.int64) - 1


def _starts(snapshot: Snapshot, own: Quantity) -> list[MeasureKey]:
    """The sittings of the same test and subject in the same levels, the oldest first."""
    key = own.key
    found = [
        k for k in snapshot.measures
        if k.assessment == key.assessment and k.subject == key.subject and k.role == "result"
        and k.score == key.score and k.steps == key.steps
    ]  # fmt: skip
    return sorted(found, key=lambda k: k.date)


def _same_test(key: MeasureKey, later: MeasureKey) -> bool:
    return (
        key.assessment == later.assessment and key.subject == later.subject
        and key.role == "result" and key.score == later.score and key.steps == later.steps
    )  # fmt: skip


def _follows(snapshot: Snapshot, start: MeasureKey, key: MeasureKey) -> bool:
    days = (key.date - start.date).days
    return 0 < days <= LONGEST and of_same_students(snapshot, start, key)
