"""The rule of an award: conditions joined by and/or, and standards of which one counts."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from bridge_chart.core.awards.records import Match

EVERY_RECORD = Match()


@dataclass(frozen=True)
class Need:
    """At least `at_least` parts of a credit among records that match."""

    at_least: int
    match: Match = EVERY_RECORD


@dataclass(frozen=True)
class Credits:
    """At least so many credits among records that match."""

    need: Need
    name: str = "credits"


@dataclass(frozen=True)
class Subjects:
    """At least `count` subjects, in each of which every need holds."""

    count: int
    each: tuple[Need, ...]
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
class Award:
    """A rule, and sets of standards of which one counts (`once`): one choice of records has to meet
    all of the rule. Errors: ValueError on a rule without parts, a need of 0, a standard that is in
    two sets."""

    rule: Rule
    once: tuple[frozenset[int], ...] = ()

    def __post_init__(self) -> None:
        seen: set[int] = set()
        for standards in self.once:
            if seen & standards:
                raise ValueError("a standard may be in one set only of which one counts")
            seen |= standards
        for node in nodes(self.rule):
            _check(node)


def nodes(rule: Rule) -> Iterator[Rule]:
    """The rule and everything in it, from the top.

    >>> [node.name for node in nodes(AllOf((Credits(Need(8)), Subjects(3, (Need(14),)))))]
    ['all of', 'credits', 'subjects']
    """
    yield rule
    if isinstance(rule, AllOf | AnyOf):
        for part in rule.parts:
            yield from nodes(part)


def _check(node: Rule) -> None:
    if isinstance(node, AllOf | AnyOf):
        if not node.parts:
            raise ValueError(f"{node.name} must have at least one part")
        return
    needs = (node.need,) if isinstance(node, Credits) else node.each
    if not needs or any(need.at_least < 1 for need in needs):
        raise ValueError(f"{node.name} must need more than 0 credits")
    if isinstance(node, Subjects) and node.count < 1:
        raise ValueError(f"{node.name} must need at least one subject")
