"""Awards: the rules by hand, and against every choice of records written out."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest
from tests.effort import seeds

from bridge_chart.core.awards.judge import MET, NOT_YET, ON_COURSE, fewest_estimates, judge
from bridge_chart.core.awards.records import CreditRecords, Match
from bridge_chart.core.awards.rules import AllOf, AnyOf, Award, Credits, Need, Rule, Subjects

NAMES = ("student", "standard", "subject", "level", "kind", "result", "credits", "banked")
Row = tuple[int, int, int, int, int, int, int, bool]


def records(rows: list[Row]) -> CreditRecords:
    columns = dict(zip(NAMES, zip(*rows, strict=True), strict=True))
    return CreditRecords(**{name: np.array(columns[name]) for name in NAMES})


def credits_of(least: int, **match: object) -> Credits:
    return Credits(Need(least, Match(**match)))  # type: ignore[arg-type]


def test_a_standard_counts_once_and_the_better_resit_counts() -> None:
    made = records([
        (0, 7, 0, 1, 0, 1, 4, True), (0, 7, 0, 1, 0, 3, 4, True),  # a resit with a better result
        (0, 8, 0, 1, 0, 1, 4, True), (0, 8, 0, 1, 0, 3, 4, False),  # hoped for better
        (1, 7, 0, 1, 0, 3, 4, False),
    ])  # fmt: skip
    total = judge(Award(credits_of(8)), made, 3)
    assert total.banked.tolist() == [8, 0, 0]
    assert total.with_estimates.tolist() == [8, 4, 0]
    assert total.status.tolist() == [MET, NOT_YET, NOT_YET]
    best = judge(Award(credits_of(8, results=[3])), made, 3)
    assert best.banked.tolist() == [4, 0, 0]
    assert best.status.tolist() == [ON_COURSE, NOT_YET, NOT_YET]
    assert fewest_estimates(Award(credits_of(8, results=[3])), made, 0).tolist() == [3]


def test_conditions_match_level_kind_subject_result_and_standards() -> None:
    made = records([(0, k, k % 3, k % 2, k % 2, k % 4, 4, True) for k in range(12)])
    for match, n in (
        ({"standards": [1, 5]}, 2), ({"levels": [1], "kinds": [1]}, 6), ({"subjects": [2]}, 4),
        ({"results": [2, 3], "subjects": [0]}, 2), ({"results": []}, 0),
    ):  # fmt: skip
        assert judge(Award(credits_of(1, **match)), made, 1).banked[0] == 4 * n


def test_one_choice_of_records_has_to_meet_the_whole() -> None:
    """Each condition is met by itself, and both are not: of the two standards one counts."""
    made = records([(0, 1, 0, 1, 0, 1, 6, True), (0, 2, 1, 1, 1, 1, 6, True)])
    rule = AllOf((credits_of(6, subjects=[0]), credits_of(6, kinds=[1])))
    free, once = Award(rule), Award(rule, (frozenset({1, 2}),))
    assert judge(free, made, 1).status.tolist() == [MET]
    found = judge(once, made, 1)
    assert [part.status.tolist() for part in found.parts] == [[MET], [MET]]
    assert found.status.tolist() == [NOT_YET]
    assert judge(Award(AnyOf(rule.parts), once.once), made, 1).status.tolist() == [MET]
    assert judge(Award(credits_of(12), once.once), made, 1).banked.tolist() == [6]


def test_the_smaller_record_is_taken_where_the_rule_needs_it() -> None:
    """The one with more credits is internal; the rule wants 3 external and has enough besides."""
    made = records([
        (0, 1, 0, 1, 0, 1, 6, True), (0, 2, 0, 1, 1, 1, 3, True), (0, 3, 0, 1, 0, 1, 5, True),
    ])  # fmt: skip
    rule = AllOf((credits_of(8), credits_of(3, kinds=[1])))
    award = Award(rule, (frozenset({1, 2}),))
    assert judge(award, made, 1).status.tolist() == [MET]
    more = Award(AllOf((credits_of(9), credits_of(3, kinds=[1]))), award.once)
    assert judge(more, made, 1).status.tolist() == [NOT_YET]


def test_subjects_with_a_minimum_of_two_parts_each() -> None:
    """Two subjects with 8 each, of which 3 external: subject 0 has too few external ones."""
    made = records([
        (0, 1, 0, 1, 0, 1, 8, True), (0, 2, 0, 1, 1, 1, 2, True),
        (0, 3, 1, 1, 0, 1, 5, True), (0, 4, 1, 1, 1, 1, 3, True),
        (0, 5, 2, 1, 1, 1, 8, False), (0, 6, -1, 1, 1, 1, 20, True),
    ])  # fmt: skip
    rule = Subjects(2, (Need(8), Need(3, Match(kinds=[1]))))
    found = judge(Award(rule), made, 1)
    assert (found.banked[0], found.with_estimates[0]) == (1, 2)  # what names no subject is in none
    assert found.status.tolist() == [ON_COURSE]
    assert fewest_estimates(Award(rule), made, 0).tolist() == [4]


def test_what_cannot_be_meant_is_refused() -> None:
    for rule in (AllOf(()), credits_of(0), Subjects(0, (Need(3),)), Subjects(1, ())):
        with pytest.raises(ValueError, match="must"):
            Award(rule)
    with pytest.raises(ValueError, match="one set only"):
        Award(credits_of(1), (frozenset({1, 2}), frozenset({2, 3})))
    with pytest.raises(ValueError, match="whole parts"):
        CreditRecords(*(np.array([0]) for _ in range(6)), np.array([0.5]), np.array([True]))
    with pytest.raises(ValueError, match="students"):
        judge(Award(credits_of(1)), records([(4, 1, 0, 1, 0, 1, 3, True)]), 4)


# ── against every choice, written out ────────────────────────────────────────
def random_rule(rng: np.random.Generator, depth: int = 0) -> Rule:
    def match() -> Match:
        def some(n: int, share: float) -> list[int] | None:
            chosen = np.flatnonzero(rng.random(n) < 0.6).tolist()
            return chosen if rng.random() < share else None

        return Match(some(2, 0.3), some(2, 0.4), some(3, 0.3), some(3, 0.3), some(8, 0.2))

    kind = rng.integers(0, 4 if depth < 2 else 2)
    if kind == 0:
        return Credits(Need(int(rng.integers(2, 14)), match()))
    if kind == 1:
        needs = tuple(Need(int(rng.integers(1, 7)), match()) for _ in range(rng.integers(1, 3)))
        return Subjects(int(rng.integers(1, 4)), needs)
    parts = tuple(random_rule(rng, depth + 1) for _ in range(rng.integers(2, 4)))
    return AllOf(parts) if kind == 2 else AnyOf(parts)


def random_records(rng: np.random.Generator, students: int, each: int) -> CreditRecords:
    n = students * each
    return CreditRecords(
        np.repeat(np.arange(students), each), rng.integers(0, 8, n), rng.integers(-1, 3, n),
        rng.integers(0, 2, n), rng.integers(0, 2, n), rng.integers(0, 3, n),
        rng.integers(0, 6, n), rng.random(n) < 0.55,
    )  # fmt: skip


def holds(rule: Rule, rows: list[tuple[int, ...]]) -> bool:
    """As the rule reads: standard, subject, level, kind, result, credits of chosen records."""

    def counted(need: Need, of: list[tuple[int, ...]]) -> bool:
        wanted = need.match
        total = 0
        for standard, subject, level, kind, result, worth in of:
            pairs = (
                (wanted.standards, standard),
                (wanted.subjects, subject),
                (wanted.levels, level),
                (wanted.kinds, kind),
                (wanted.results, result),
            )
            if all(only is None or one in only for only, one in pairs):
                total += worth
        return total >= need.at_least

    if isinstance(rule, Credits):
        return counted(rule.need, rows)
    if isinstance(rule, Subjects):
        subjects = {row[1] for row in rows} - {-1}
        good = [all(counted(n, [r for r in rows if r[1] == s]) for n in rule.each)
                for s in subjects]  # fmt: skip
        return sum(good) >= rule.count
    join = all if isinstance(rule, AllOf) else any
    return join(holds(part, rows) for part in rule.parts)


def written_out(award: Award, made: CreditRecords, student: int) -> tuple[int, int | None]:
    """Status, and on how few estimates it rests, from every choice of records."""
    sets = {one: n for n, standards in enumerate(award.once) for one in standards}
    choices: dict[object, list[tuple[tuple[int, ...], bool] | None]] = {}
    for row in np.flatnonzero(made.student == student):
        standard = int(made.standard[row])
        told = (standard, *(int(column[row]) for column in (
            made.subject, made.level, made.kind, made.result, made.credits)))  # fmt: skip
        group = ("set", sets[standard]) if standard in sets else standard
        choices.setdefault(group, [None]).append((told, bool(made.banked[row])))
    fewest: int | None = None
    for choice in product(*choices.values()):
        chosen = [one for one in choice if one is not None]
        if holds(award.rule, [told for told, _ in chosen]):
            rests = sum(not banked for _, banked in chosen)
            fewest = rests if fewest is None else min(fewest, rests)
    if fewest is None:
        return NOT_YET, None
    return (MET if fewest == 0 else ON_COURSE), fewest


@pytest.mark.parametrize("seed", seeds(60))
def test_against_every_choice_of_records(seed: int) -> None:
    rng = np.random.default_rng(seed)
    made = random_records(rng, 12, 9)
    shuffled = rng.permutation(8)
    once = tuple(
        frozenset(shuffled[a:b].tolist()) for a, b in ((0, 2), (2, 5))[: rng.integers(0, 3)]
    )
    award = Award(random_rule(rng), once)
    found = judge(award, made, 12)
    for student in range(12):
        status, fewest = written_out(award, made, student)
        assert found.status[student] == status
        rests = fewest_estimates(award, made, student)
        assert (None if rests is None else len(rests)) == fewest
        if rests is not None:
            banked = made.banked.copy()
            banked[rests] = True
            sure = CreditRecords(*(getattr(made, n) for n in NAMES[:-1]), banked)
            assert written_out(award, sure, student)[0] == MET


@pytest.mark.parametrize("seed", seeds(30))
def test_the_most_of_a_condition_is_what_a_higher_need_says(seed: int) -> None:
    """The figure of a node is the highest need that would still be met."""
    rng = np.random.default_rng(1000 + seed)
    made = random_records(rng, 8, 8)
    once = (frozenset(rng.permutation(8)[:3].tolist()),)
    rule = random_rule(rng, 2)
    found = judge(Award(rule, once), made, 8)
    for student in range(8):
        most = int(found.with_estimates[student])
        for count in (most, most + 1):
            if count < 1:
                continue
            if isinstance(rule, Credits):
                higher: Rule = Credits(Need(count, rule.need.match))
            else:
                assert isinstance(rule, Subjects)
                higher = Subjects(count, rule.each)
            status, _ = written_out(Award(higher, once), made, student)
            assert (status >= ON_COURSE) == (count == most)
