"""What a split gives: its groups, who is in each, and the conditions that open them."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import overload

import numpy as np

from bridge_chart.core.arrays import Mask
from bridge_chart.store.snapshot import Array
from bridge_chart.terms import question as q

Key = tuple[str, int]
"""The kind of a group and its id there: (“school”, 3). No kind has a digit or a dash at its end."""
MEASURES = ("measure", "sitting", "subject", "part")
"""Words for the measures themselves as a dimension."""
UNKNOWN: Key = ("unknown", 0)
Conditions = tuple[q.Condition, ...]


def wire(keys: Sequence[Key]) -> str:
    """A row's key as the answer writes it: as different as the keys are.

    >>> wire([("school", 3)]), wire([("school", 3), UNKNOWN]), wire([("all", 0)])
    ('school-3', 'school-3/unknown', 'all')
    """
    return "/".join(kind if kind in WHOLE else f"{kind}-{at}" for kind, at in keys)


WHOLE = ("all", "unknown", "district", "nation")
"""Kinds of which there is one only."""


def nothing() -> Conditions:
    """The conditions that open everybody."""
    return ()


@dataclass(frozen=True)
class Group:
    """`path`: the groups of the first and the second split, where there are two. `conditions` are
    made only where a row is shown: of thousands of classes in the strip nobody opens one."""

    key: Key
    label: str
    conditions: Callable[[], Conditions] = nothing
    path: tuple[Group, ...] = ()

    @property
    def steps(self) -> tuple[Group, ...]:
        """The groups that lead to it, outer first."""
        return self.path or (self,)

    @property
    def known(self) -> bool:
        return all(step.key != UNKNOWN for step in self.steps)

    @property
    def adds(self) -> Conditions:
        """What opens the group's students."""
        return self.conditions()

    @property
    def name(self) -> str:
        """Its key as the answer writes it."""
        return wire([step.key for step in self.steps])


EVERYBODY = Group(("all", 0), "All of them")


class Groups(Sequence[Group]):
    """Groups made when they are looked at: the strip has thousands of classes and shows sixty."""

    def __init__(
        self, present: Array, size: int, make: Callable[[int], Group], last: Group
    ) -> None:
        self._present, self._size, self._make, self._last = present, size, make, last

    def __len__(self) -> int:
        return len(self._present)

    @overload
    def __getitem__(self, n: int) -> Group: ...
    @overload
    def __getitem__(self, n: slice) -> list[Group]: ...
    def __getitem__(self, n: int | slice) -> Group | list[Group]:
        if isinstance(n, slice):
            return [self[i] for i in range(*n.indices(len(self)))]
        code = int(self._present[n])
        return self._make(code) if code < self._size else self._last

    def known(self) -> Array:
        """(groups,) False for the row of those in none."""
        return np.asarray(self._present < self._size)


@dataclass(frozen=True)
class Grouping:
    """`at`: positions of students (one may stand in several groups), `code`: the group of each.

    `within_school`: every group lies in one school by definition; `overlaps`: some student stands
    in two groups, so the rows may not be summed; `partial`: students in none are no row.
    """

    label: str
    groups: Sequence[Group]
    at: Array
    code: Array
    within_school: bool = False
    overlaps: bool = False
    within: str = ""
    """What the second split is called, where there are two."""
    partial: bool = False

    def known(self) -> Array:
        """(groups,) False for the row of those in none."""
        if isinstance(self.groups, Groups):
            return self.groups.known()
        return np.array([group.known for group in self.groups], bool)


class Split(ABC):
    """One dimension with everything found. `asked`: with ids; `label`: in words."""

    asked: q.Dimension
    label: str

    @abstractmethod
    def group(self, people: Mask) -> Grouping:
        """The grouping of a population."""


def one_row(
    people: Mask,
    label: str = "nothing",
    key: Key = ("all", 0),
    called: str = "All of them",
    conditions: Callable[[], Conditions] = nothing,
) -> Grouping:
    """A grouping with a single row for all."""
    at = np.flatnonzero(people)
    return Grouping(label, [Group(key, called, conditions)], at, np.zeros(len(at), np.int16))


def present(
    label: str,
    make: Callable[[int], Group],
    size: int,
    last: Group,
    at: Array,
    code: Array,
    *,
    within_school: bool = False,
    overlaps: bool = False,
) -> Grouping:
    """Only groups that have somebody; those in none make a row of their own, so rows add up.

    `make`: the group of a code 0 … size−1; `last`: the row of those in none.
    """
    code = np.where(code < 0, size, code.astype(np.int64))  # small codes cannot hold every size
    there = np.flatnonzero(np.bincount(code, minlength=size + 1))
    place = np.zeros(size + 1, np.int32)
    place[there] = np.arange(len(there))
    kept = Groups(there, size, make, last)
    return Grouping(label, kept, at, place[code], within_school, overlaps)


def grouped(splits: Sequence[Split], people: Mask) -> Grouping:
    """The grouping by none, one or two dimensions; two make a row for every pair that has
    somebody."""
    if len(splits) < 2:
        return splits[0].group(people) if splits else one_row(people)
    first, second = (split.group(people) for split in splits)
    at, pair = _met(first, second)
    wide = len(second.groups)
    there, code = np.unique(pair, return_inverse=True)
    groups = [_pair(first.groups[n // wide], second.groups[n % wide]) for n in there.tolist()]
    return Grouping(
        first.label, groups, at, code, first.within_school or second.within_school,
        first.overlaps or second.overlaps, second.label, first.partial or second.partial,
    )  # fmt: skip


def cells(splits: Sequence[Split], people: Mask) -> tuple[Array, Array, int]:
    """Students and the cell of each by any number of dimensions, and how many cells there are."""
    held = one_row(people)
    for split in splits:
        at, pair = _met(held, split.group(people))
        there, code = np.unique(pair, return_inverse=True)
        held = replace(held, at=at, code=code, groups=[EVERYBODY] * len(there))
    return held.at, held.code, len(held.groups)


def _met(first: Grouping, second: Grouping) -> tuple[Array, Array]:
    """Every membership of a student in the one with every membership in the other."""
    order = np.argsort(second.at, kind="stable")
    other_at, other_code = second.at[order], second.code[order]
    begin = np.searchsorted(other_at, first.at, side="left")
    count = np.searchsorted(other_at, first.at, side="right") - begin
    offset = np.arange(int(count.sum())) - np.repeat(np.cumsum(count) - count, count)
    at = np.repeat(first.at, count)
    other = other_code[np.repeat(begin, count) + offset]
    return at, np.repeat(first.code, count).astype(np.int64) * len(second.groups) + other


def _pair(one: Group, two: Group) -> Group:
    return Group(
        one.key, f"{one.label}, {two.label}", lambda: (*one.adds, *two.adds), (one, two)
    )  # fmt: skip
