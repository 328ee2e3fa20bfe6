"""The rule of an award: conditions joined by and/or, and who has met them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from bridge_chart.core.arrays import Floats, Integers, Mask
from bridge_chart.core.awards.records import CreditRecords, Match, counting

NOT_YET, ON_COURSE, MET = 0, 1, 2
STATUSES = ("not yet", "on course", "met")


EVERY_RECORD = Match()


@dataclass(frozen=True)
class Credits:
    """At least `at_least` credits among records that match."""

    at_least: float
    match: Match = EVERY_RECORD
    name: str = "credits"


@dataclass(frozen=True)
class Subjects:
    """At least `count` subjects with at least `each` credits among records that match."""

    count: int
    each: float
    match: Match = EVERY_RECORD
    name: str = "subjects"


@dataclass(frozen=True)
class AllOf:
    """Every part must hold."""

    parts: tuple[Rule, ...]
    name: str = "all of"


@dataclass(frozen=True)
class AnyOf:
    """One part is enough."""

    parts: tuple[Rule, ...]
    name: str = "any of"


Rule = Credits | Subjects | AllOf | AnyOf


@dataclass(frozen=True)
class Outcome:
    """One node of the rule for every student; arrays (students,).

    status: index into STATUSES. banked, with_estimates: credits or subjects so far (NaN for and/or
    nodes). slack: with_estimates − needed, banked − needed where met, in the node's own unit.
    estimates: on how many estimates "on course" rests; 0 where met or not yet.
    """

    name: str
    status: Integers
    banked: Floats
    with_estimates: Floats
    needed: float
    slack: Floats
    estimates: Integers
    parts: tuple[Outcome, ...]
    uses: Mask


def evaluate(rule: Rule, records: CreditRecords, students: int) -> Outcome:
    """Who has met an award, who is on course, who not yet, with the slack of each condition.

    met: by banked records alone; on course: with estimates (as few as will do: the largest first);
    a record may serve several conditions. uses: (records,) estimates that "on course" rests on.
    Errors: ValueError on a rule without parts, a need of 0 or less, or students out of range.

    >>> r = CreditRecords(*(np.array(c) for c in ([0, 0, 1, 1], [1, 2, 1, 2], [0, 1, 0, 1],
    ...     [1] * 4, [0] * 4, [1] * 4, [4., 6, 4, 6], [True, True, True, False], [-1] * 4)), {})
    >>> o = evaluate(AllOf((Credits(8), Subjects(1, 4))), r, 3)
    >>> [STATUSES[k] for k in o.status], o.estimates.tolist(), o.parts[0].slack.tolist()
    (['met', 'on course', 'not yet'], [0, 1, 0], [2.0, 2.0, -8.0])
    """
    if len(records.student) and int(records.student.max()) >= students:
        raise ValueError(f"students must lie in 0 to {students - 1}")
    if isinstance(rule, Credits):
        return _credits(rule, records, students)
    if isinstance(rule, Subjects):
        return _subjects(rule, records, students)
    if not rule.parts:
        raise ValueError(f"{rule.name} must have at least one part")
    parts = tuple(evaluate(part, records, students) for part in rule.parts)
    table = np.stack([part.status for part in parts])
    none = np.full(students, np.nan)
    if isinstance(rule, AllOf):
        status = table.min(axis=0)
        uses = np.any([part.uses for part in parts], axis=0)
    else:
        status = table.max(axis=0)
        # On course by several ways: the one that rests on the fewest estimates.
        rests = np.stack([np.where(p.status == status, p.estimates, 10**9) for p in parts])
        way = rests.argmin(axis=0)[records.student]
        uses = np.zeros(len(records.student), bool)
        for k, part in enumerate(parts):
            uses |= part.uses & (way == k)
    uses &= status[records.student] == ON_COURSE
    estimates = np.bincount(records.student[uses], minlength=students).astype(np.int64)
    return Outcome(rule.name, status, none, none, np.nan, none, estimates, parts, uses)


def _leaf(
    name: str, banked: Floats, hoped: Floats, needed: float, uses: Mask, records: CreditRecords
) -> Outcome:
    status = np.where(banked >= needed, MET, np.where(hoped >= needed, ON_COURSE, NOT_YET))
    slack = np.where(status == MET, banked, hoped) - needed
    uses = uses & (status[records.student] == ON_COURSE)
    estimates = np.bincount(records.student[uses], minlength=len(status)).astype(np.int64)
    return Outcome(name, status.astype(np.int64), banked, hoped, needed, slack, estimates, (), uses)


def _credits(rule: Credits, records: CreditRecords, students: int) -> Outcome:
    if not rule.at_least > 0:
        raise ValueError(f"{rule.name} must need more than 0 credits")
    rows = counting(records, rule.match)
    who, worth, sure = records.student[rows], records.credits[rows], records.banked[rows]
    banked = np.bincount(who[sure], worth[sure], students).astype(np.float64)
    hoped = np.bincount(who, worth, students).astype(np.float64)
    needed_rows = _fewest(who, worth, sure, rule.at_least)
    uses = np.zeros(len(records.student), bool)
    uses[rows[needed_rows]] = True
    return _leaf(rule.name, banked, hoped, rule.at_least, uses, records)


def _fewest(key: Integers, worth: Floats, sure: Mask, need: float) -> Integers:
    """Which estimates are needed to bring each key to `need`: banked first, then the largest."""
    order = np.lexsort((-worth, ~sure, key))
    ordered = key[order]
    total = np.cumsum(worth[order])
    first = np.flatnonzero(np.concatenate([[True], ordered[1:] != ordered[:-1]]))
    if not len(order):
        return np.empty(0, np.int64)
    before = total - worth[order]
    start = np.repeat(before[first], np.diff(np.append(first, len(order))))
    wanted = (before - start < need) & ~sure[order]
    out: Integers = order[wanted]
    return out


def _subjects(rule: Subjects, records: CreditRecords, students: int) -> Outcome:
    if rule.count < 1 or not rule.each > 0:
        raise ValueError(f"{rule.name} must need at least one subject with more than 0 credits")
    rows = counting(records, rule.match)
    span = int(records.subject.max(initial=0)) + 1
    pair = records.student[rows].astype(np.int64) * span + records.subject[rows]
    held, place = np.unique(pair, return_inverse=True)
    worth, sure = records.credits[rows], records.banked[rows]
    now = np.bincount(place[sure], worth[sure], len(held)) >= rule.each
    hoped = np.bincount(place, worth, len(held)) >= rule.each
    who = held // span
    banked = np.bincount(who[now], minlength=students).astype(np.float64)
    with_estimates = np.bincount(who[hoped], minlength=students).astype(np.float64)
    wanted = _fewest(place, worth, sure, rule.each)
    each_rests = np.bincount(place[wanted], minlength=len(held))
    # Of the subjects that can be had, as many as needed, those with fewest estimates first.
    candidates = np.flatnonzero(hoped)
    order = candidates[np.lexsort((each_rests[candidates], who[candidates]))]
    ordered = who[order]
    first = np.searchsorted(ordered, ordered, side="left")
    taken = order[np.arange(len(order)) - first < rule.count]
    chosen = np.zeros(len(held), bool)
    chosen[taken] = True
    uses = np.zeros(len(records.student), bool)
    uses[rows[wanted[chosen[place[wanted]]]]] = True
    return _leaf(rule.name, banked, with_estimates, float(rule.count), uses, records)
