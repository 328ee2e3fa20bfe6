"""One student's records against a rule, exactly: is there a choice of records, one of each standard
and one of each set of which one counts, under which all of it holds, and with how few estimates?

Depth first over what may be chosen, each branch cut off where even the best that is left, every
condition taken by itself, would not do.
"""

from __future__ import annotations

from bisect import insort
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import accumulate

import numpy as np

from bridge_chart.core.arrays import Integers
from bridge_chart.core.awards.records import CreditRecords
from bridge_chart.core.awards.rules import AllOf, Award, Credits, Need, Rule, Subjects

Totals = list[int]


@dataclass(frozen=True)
class Option:
    """One record that may be chosen: what it adds to each sum; `estimate`: 1 where it is one."""

    adds: tuple[int, ...]
    estimate: int
    row: int


class StudentRecords:
    """The records of one student, grouped by what can be chosen once.

    records: of that student alone; group: (records,) of which one counts.
    """

    def __init__(self, award: Award, records: CreditRecords, group: Sequence[int]) -> None:
        self._sums: list[tuple[Need, int | None]] = []
        subjects = sorted(set(records.subject.tolist()) - {-1})
        self._rule = self._compile(award.rule, subjects)
        adds = np.zeros((len(records.student), len(self._sums)), np.int64)
        for at, (need, subject) in enumerate(self._sums):
            rows = need.match.rows(records)
            if subject is not None:
                rows = rows & (records.subject == subject)
            adds[:, at] = np.where(rows, records.credits, 0)
        choices = _choices(adds, records, group)
        settled = [options[0].adds for options in choices if len(options) == 1]
        self._base = np.sum([[0] * len(self._sums), *settled], axis=0).tolist()
        self._groups = [options for options in choices if len(options) > 1]
        self._rest = _left_after_each(self._groups, len(self._sums))

    def fewest(self, most: int | None = None) -> list[int] | None:
        """The rows of a choice that holds with the fewest estimates, of `most` at most; None where
        none holds. Rows that nothing else could take the place of are not among them."""
        estimates = sum(any(option.estimate for option in group) for group in self._groups)
        for budget in range(min(estimates, estimates if most is None else most) + 1):
            chosen = self._from(0, self._base, budget)
            if chosen is not None:
                return chosen
        return None

    def _from(self, at: int, totals: Totals, budget: int) -> list[int] | None:
        rest = self._rest[at]
        if not self._rule(totals, rest, budget):
            return None
        if self._rule(totals, _NOTHING, 0):
            return []
        if at == len(self._groups):
            return None
        for option in self._groups[at]:
            if option.estimate > budget:
                continue
            more = [a + b for a, b in zip(totals, option.adds, strict=True)]
            found = self._from(at + 1, more, budget - option.estimate)
            if found is not None:
                return [option.row, *found] if option.row >= 0 else found
        return None

    def _compile(self, rule: Rule, subjects: list[int]) -> Holds:
        """The rule as a test: whether it may hold, given totals and the best of what is left."""
        if isinstance(rule, Credits):
            at, need = self._sum(rule.need, None), rule.need.at_least
            return lambda totals, rest, budget: totals[at] + rest.most(at, budget) >= need
        if isinstance(rule, Subjects):
            count = rule.count
            each = [[(self._sum(n, s), n.at_least) for n in rule.each] for s in subjects]
            return lambda totals, rest, budget: _enough(each, count, totals, rest, budget)
        parts = [self._compile(part, subjects) for part in rule.parts]
        join = all if isinstance(rule, AllOf) else any
        return lambda totals, rest, budget: join(part(totals, rest, budget) for part in parts)

    def _sum(self, need: Need, subject: int | None) -> int:
        self._sums.append((need, subject))
        return len(self._sums) - 1


@dataclass(frozen=True)
class _Rest:
    """What the groups that are left can add to each sum at the most: `free` without an estimate,
    `more[k]` beyond that with k of them."""

    free: list[int]
    more: list[list[int]]

    def most(self, at: int, budget: int) -> int:
        if not self.free:
            return 0
        gains = self.more[at]
        return self.free[at] + gains[min(budget, len(gains) - 1)]


def _left_after_each(groups: list[list[Option]], sums: int) -> list[_Rest]:
    """What is left from each group on, and after the last."""
    free = [0] * sums
    gains: list[list[int]] = [[] for _ in range(sums)]
    out = [_Rest(list(free), [[0]] * sums)]
    for group in reversed(groups):
        for at in range(sums):
            banked = max(o.adds[at] for o in group if not o.estimate)
            free[at] += banked
            gain = max(o.adds[at] for o in group) - banked
            if gain:
                insort(gains[at], -gain)
        out.append(_Rest(list(free), [[0, *accumulate(-gain for gain in of)] for of in gains]))
    return out[::-1]


_NOTHING = _Rest([], [])
Holds = Callable[[Totals, _Rest, int], bool]


def _enough(
    each: list[list[tuple[int, int]]], count: int, totals: Totals, rest: _Rest, budget: int
) -> bool:
    """Whether enough subjects may hold: an estimate serves one subject, so what they take adds."""
    takes = []
    for needs in each:
        fewest = 0
        for at, need in needs:
            while totals[at] + rest.most(at, fewest) < need:
                fewest += 1
                if fewest > budget:
                    break
        if fewest <= budget:
            takes.append(fewest)
    return len(takes) >= count and sum(sorted(takes)[:count]) <= budget


def _choices(adds: Integers, records: CreditRecords, group: Sequence[int]) -> list[list[Option]]:
    """For each group what may be chosen, nothing among it; what another option is at least as good
    as is left out. The groups that add most come first."""
    found: dict[int, list[Option]] = {}
    for row, one in enumerate(group):
        option = Option(tuple(adds[row].tolist()), int(not records.banked[row]), row)
        if any(option.adds):
            found.setdefault(int(one), []).append(option)
    nothing = Option((0,) * adds.shape[1], 0, -1)
    out = []
    for options in found.values():
        kept: list[Option] = []
        for option in sorted([*options, nothing], key=lambda o: (o.estimate, -sum(o.adds))):
            if not any(_as_good(other, option) for other in kept):
                kept.append(option)
        kept.sort(key=lambda o: -sum(o.adds))
        out.append(kept)
    return sorted(out, key=lambda options: -sum(options[0].adds))


def _as_good(one: Option, other: Option) -> bool:
    return one.estimate <= other.estimate and all(
        a >= b for a, b in zip(one.adds, other.adds, strict=True)
    )
