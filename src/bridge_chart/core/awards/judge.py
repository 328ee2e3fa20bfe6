"""Who has met an award, who is on course, who not yet: all students at once.

Where every choice is plain (one record of a standard and of a set is at least as good as the others
for every condition), sums decide. Where it is not, and the best of each condition by itself would
do, the student's records are searched (`search`). Both are exact.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from bridge_chart.core.arrays import Codes, Integers, Mask
from bridge_chart.core.awards.records import CreditRecords
from bridge_chart.core.awards.rules import AllOf, AnyOf, Award, Credits, Need, Rule, Subjects
from bridge_chart.core.awards.search import StudentRecords

NOT_YET, ON_COURSE, MET = 0, 1, 2
STATUSES = ("not yet", "on course", "met")


@dataclass(frozen=True)
class Outcome:
    """One node of a rule for every student, as if the node were the whole award; arrays
    (students,) int64.

    status: index into STATUSES. banked, with_estimates: the most that counts towards it, in parts
    of a credit, or subjects, or parts that hold. needed: in the same unit. of: the node.
    """

    of: Rule
    status: Integers
    banked: Integers
    with_estimates: Integers
    needed: int
    parts: tuple[Outcome, ...] = ()


def judge(award: Award, records: CreditRecords, students: int) -> Outcome:
    """Met: by banked records alone; on course: by banked and estimated ones, of each standard one
    (an estimated resit may take the place of a banked record). Every node by itself; the whole by
    one choice of records. A record may serve several conditions.

    Errors: ValueError where a record's student is not below `students`.

    >>> from bridge_chart.core.awards.rules import AllOf, Credits, Need
    >>> r = CreditRecords(*(np.array(c) for c in ([0, 0, 1, 1], [1, 2, 1, 2], [0, 1, 0, 1],
    ...     [1] * 4, [0] * 4, [1] * 4, [4, 6, 4, 6], [True, True, True, False])))
    >>> o = judge(Award(AllOf((Credits(Need(8)), Subjects(1, (Need(4),))))), r, 3)
    >>> [STATUSES[k] for k in o.status], o.parts[0].banked.tolist()
    (['met', 'on course', 'not yet'], [10, 4, 0])
    """
    if len(records.student) and int(records.student.max()) >= students:
        raise ValueError(f"students must lie in 0 to {students - 1}")
    sure = _Best(award, records.of(records.banked), students)
    return _node(award.rule, sure, _Best(award, records, students))


def fewest_estimates(award: Award, records: CreditRecords, student: int) -> Integers | None:
    """Which records a student has to bank for the award to be met, as few as will do; positions
    among `records`, none where it is met. None: not even all estimates do.

    >>> from bridge_chart.core.awards.rules import Credits, Need
    >>> r = CreditRecords(*(np.array(c) for c in ([0, 0, 0], [1, 2, 3], [0] * 3, [1] * 3, [0] * 3,
    ...     [1] * 3, [4, 2, 6], [True, False, False])))
    >>> fewest_estimates(Award(Credits(Need(8))), r, 0).tolist()
    [2]
    """
    rows = np.flatnonzero(records.student == student)
    own = records.of(rows)
    chosen = StudentRecords(award, own, _groups(award, own).tolist()).fewest()
    if chosen is None:
        return None
    out: Integers = rows[[row for row in sorted(chosen) if not own.banked[row]]]
    return out


def _node(rule: Rule, sure: _Best, hoped: _Best) -> Outcome:
    met = sure.holds(rule)
    status = np.where(met, MET, np.where(hoped.holds(rule), ON_COURSE, NOT_YET)).astype(np.int64)
    if isinstance(rule, AllOf | AnyOf):
        parts = tuple(_node(part, sure, hoped) for part in rule.parts)
        held = np.stack([part.status for part in parts])
        needed = len(parts) if isinstance(rule, AllOf) else 1
        return Outcome(
            rule, status, np.minimum((held == MET).sum(0), needed),
            np.minimum((held >= ON_COURSE).sum(0), needed), needed, parts,
        )  # fmt: skip
    if isinstance(rule, Credits):
        need = rule.need
        return Outcome(rule, status, sure.total(need), hoped.total(need), need.at_least)
    return Outcome(rule, status, sure.subjects(rule), hoped.subjects(rule), rule.count)


class _Best:
    """What is best for one need at a time: of each standard, and of each set, one record.

    The records stand in the order of student, subject and choice, so that what belongs together
    is a run.
    """

    def __init__(self, award: Award, records: CreditRecords, students: int) -> None:
        group = _groups(award, records)
        order = np.lexsort((group, records.subject, records.student))
        self.records = records.of(order)
        self.award, self.students, self.group = award, students, group[order]
        self._totals: dict[int, Integers] = {}
        student, subject = self.records.student, self.records.subject
        self._place = _runs(student, subject)
        self._of_place = _runs(student, subject, self.group)
        span = int(self.group.max(initial=0)) + 1
        self._choice = student.astype(np.int64) * span + self.group
        # As a rule what may be chosen once is all in one subject; then it is a run as well.
        whole = np.sort(self._choice[_runs(self._choice)])
        self._by_choice = np.argsort(self._choice, kind="stable") if _twice(whole) else None
        sorted_choice = self._choice if self._by_choice is None else self._choice[self._by_choice]
        self._starts = _runs(sorted_choice)

    def holds(self, rule: Rule) -> Mask:
        """(students,) whether one choice among the records meets the rule."""
        held = self._at_best(rule)
        for student in np.intersect1d(self._unsettled(rule), np.flatnonzero(held)):
            held[student] = self._searched(rule, student)
        return held

    def subjects(self, rule: Subjects) -> Integers:
        """(students,) the most subjects, of one choice, in which every need holds."""
        found = self._subjects(rule)
        for student in self._unsettled(rule):
            while found[student] > 0 and not self._searched(
                replace(rule, count=int(found[student])), student
            ):
                found[student] -= 1
        return found

    def total(self, need: Need) -> Integers:
        """(students,) the most parts of a credit of one choice; worked out once for a need."""
        if id(need) not in self._totals:
            best = self._best_of_choice(self._worth(need))
            whose = self.records.student[self._first_of_choice]
            self._totals[id(need)] = _sums(whose, best, self.students)
        return self._totals[id(need)]

    def _at_best(self, rule: Rule) -> Mask:
        """(students,) whether it holds where each condition takes the best for itself."""
        if isinstance(rule, Credits):
            return np.asarray(self.total(rule.need) >= rule.need.at_least)
        if isinstance(rule, Subjects):
            return np.asarray(self._subjects(rule) >= rule.count)
        parts = np.stack([self._at_best(part) for part in rule.parts])
        return np.asarray(parts.all(0) if isinstance(rule, AllOf) else parts.any(0))

    def _subjects(self, rule: Subjects) -> Integers:
        """(students,) in how many subjects every need holds, each by itself at its best."""
        student, subject = self.records.student[self._place], self.records.subject[self._place]
        # A record that names no subject counts in none.
        enough = subject >= 0
        if not len(enough):
            return np.zeros(self.students, np.int64)
        at = np.searchsorted(self._of_place, self._place)
        for need in rule.each:
            best = np.maximum.reduceat(self._worth(need), self._of_place)
            enough &= np.add.reduceat(best, at) >= need.at_least
        return np.bincount(student[enough], minlength=self.students).astype(np.int64)

    def _worth(self, need: Need) -> Integers:
        """(records,) what each adds to a need."""
        return np.where(need.match.rows(self.records), self.records.credits, 0).astype(np.int64)

    @cached_property
    def _first_of_choice(self) -> Integers:
        """(choices,) a record of each."""
        return self._starts if self._by_choice is None else self._by_choice[self._starts]

    def _best_of_choice(self, values: Integers) -> Integers:
        """(choices,) the largest value of each."""
        if not len(values):
            return np.zeros(0, np.int64)
        ordered = values if self._by_choice is None else values[self._by_choice]
        best: Integers = np.maximum.reduceat(ordered, self._starts)
        return best

    @cached_property
    def _several(self) -> tuple[Integers, Integers]:
        """The records that others stand beside in their choice, and which choice that is."""
        count = np.diff(np.append(self._starts, len(self._choice)))
        which = np.repeat(np.arange(len(count)), count)
        rows = np.arange(len(which)) if self._by_choice is None else self._by_choice
        beside = count[which] > 1
        return rows[beside], (np.cumsum(count > 1) - 1)[which[beside]]

    def _unsettled(self, rule: Rule) -> Integers:
        """The students who have a choice of which no record is the best for everything."""
        rows, choice = self._several
        if not len(rows):
            return np.empty(0, np.int64)
        records = self.records.of(rows)
        best = np.ones(len(choice), bool)
        for need, by_subject in _needs(rule):
            worth = np.where(need.match.rows(records), records.credits, 0).astype(np.int64)
            if by_subject:
                counts = (worth > 0) & (records.subject >= 0)
                worth = np.where(counts, worth, 0)
                # What could count in one subject or in another is a choice.
                far = np.int64(2**40)
                first = -_largest(np.where(counts, -records.subject, -far), choice)
                last = _largest(np.where(counts, records.subject, -far), choice)
                best &= ~(last > first)[choice]
            best &= worth == _largest(worth, choice)[choice]
        settled = np.zeros(int(choice.max()) + 1, bool)
        settled[choice[best]] = True
        out: Integers = np.unique(records.student[~settled[choice]])
        return out

    def _searched(self, rule: Rule, student: int) -> bool:
        start, end = np.searchsorted(self.records.student, [student, student + 1])
        own = self.records.of(np.arange(start, end))
        every = replace(own, banked=np.ones(len(own.student), bool))
        group = self.group[start:end].tolist()
        return StudentRecords(replace(self.award, rule=rule), every, group).fewest(0) is not None


def _runs(*columns: Codes | Integers) -> Integers:
    """Where a run of equal values begins."""
    if not len(columns[0]):
        return np.empty(0, np.int64)
    new = np.ones(len(columns[0]), bool)
    new[1:] = np.logical_or.reduce([column[1:] != column[:-1] for column in columns])
    return np.flatnonzero(new)


def _twice(ascending: Integers) -> bool:
    return bool((ascending[1:] == ascending[:-1]).any())


def _sums(at: Integers, values: Integers, length: int) -> Integers:
    """Exact sums of whole numbers at each place."""
    out = np.zeros(length, np.int64)
    np.add.at(out, at, values)
    return out


def _needs(rule: Rule) -> list[tuple[Need, bool]]:
    if isinstance(rule, Credits):
        return [(rule.need, False)]
    if isinstance(rule, Subjects):
        return [(need, True) for need in rule.each]
    return [need for part in rule.parts for need in _needs(part)]


def _largest(values: Integers, at: Integers) -> Integers:
    """The largest value at each place."""
    out = np.full(int(at.max(initial=-1)) + 1, np.iinfo(np.int64).min)
    np.maximum.at(out, at, values)
    return out


def _groups(award: Award, records: CreditRecords) -> Integers:
    """(records,) of which one counts: the standard, or the set that it is in."""
    known = int(records.standard.max(initial=-1)) + 1
    group = np.arange(known + 1)
    for n, standards in enumerate(award.once):
        group[[one for one in standards if one < known]] = known + 1 + n
    out: Integers = group[records.standard]
    return out
