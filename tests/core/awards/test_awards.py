"""Awards: the rules by hand, and against a plain student-by-student reading of them."""

from __future__ import annotations

from itertools import combinations

import numpy as np
import pytest
from tests.effort import seeds

from bridge_chart.core.awards.records import CreditRecords, Match, counting
from bridge_chart.core.awards.rules import (
    MET,
    NOT_YET,
    ON_COURSE,
    AllOf,
    AnyOf,
    Credits,
    Subjects,
    evaluate,
)

NAMES = ("student", "standard", "subject", "level", "kind", "result", "credits", "banked",
         "exclusion")  # fmt: skip


def records(rows: list[tuple], lists: dict[str, frozenset[int]] | None = None) -> CreditRecords:
    columns = dict(zip(NAMES, zip(*rows, strict=True), strict=True))
    return CreditRecords(
        **{name: np.array(columns[name], float if name == "credits" else None) for name in NAMES},
        lists=lists or {},
    )


def test_a_standard_counts_once_and_banked_replaces_estimated() -> None:
    made = records([
        (0, 7, 0, 1, 0, 1, 4, True, -1),
        (0, 7, 0, 1, 0, 3, 4, False, -1),  # hoped for better: it is banked, so it counts nowhere
        (0, 8, 0, 1, 0, 2, 4, False, -1),
        (0, 8, 0, 1, 0, 3, 4, False, -1),  # the better of two estimates
        (1, 7, 0, 1, 0, 3, 4, False, -1),  # another student
    ])  # fmt: skip
    assert counting(made, Match()).tolist() == [0, 3, 4]
    assert counting(made, Match(least_result=3)).tolist() == [3, 4]


def test_of_an_exclusion_set_one_standard_counts() -> None:
    made = records([
        (0, 1, 0, 1, 0, 1, 3, True, 5), (0, 2, 0, 1, 0, 1, 6, False, 5),
        (0, 3, 0, 1, 0, 1, 4, True, -1), (1, 2, 0, 1, 0, 1, 6, False, 5),
    ])  # fmt: skip
    assert counting(made, Match()).tolist() == [0, 2, 3]  # the banked one, though it is smaller


def test_conditions_match_level_kind_subject_result_and_list() -> None:
    made = records(
        [(0, k, k % 3, k % 2, k % 2, k % 4, 4, True, -1) for k in range(12)],
        {"reading": frozenset({1, 5})},
    )
    assert counting(made, Match(on_list="reading")).tolist() == [1, 5]
    both = Match(levels=(1,), subjects=(0,), least_result=1)
    assert counting(made, both).tolist() == [3, 9]
    assert len(counting(made, Match(kinds=()))) == 0
    with pytest.raises(ValueError, match='no list "writing"'):
        counting(made, Match(on_list="writing"))


def test_met_on_course_and_not_yet_with_slack_in_their_own_unit() -> None:
    made = records([
        (0, 1, 0, 1, 0, 1, 10, True, -1), (0, 2, 1, 1, 0, 1, 10, True, -1),
        (1, 1, 0, 1, 0, 1, 10, True, -1), (1, 2, 1, 1, 0, 1, 6, False, -1),
        (1, 3, 1, 1, 0, 1, 4, False, -1), (1, 4, 1, 1, 0, 1, 1, False, -1),
        (2, 1, 0, 1, 0, 1, 10, True, -1),
    ])  # fmt: skip
    rule = AllOf((Credits(20), Subjects(2, 10)))
    found = evaluate(rule, made, 4)
    assert found.status.tolist() == [MET, ON_COURSE, NOT_YET, NOT_YET]
    credits, subjects = found.parts
    assert credits.slack.tolist() == [0, 1, -10, -20]
    assert subjects.slack.tolist() == [0, 0, -1, -2]
    assert credits.estimates.tolist() == [0, 2, 0, 0]  # 6 and 4 will do
    assert found.estimates.tolist() == [0, 2, 0, 0]  # the same two serve both conditions


def test_any_of_takes_the_way_that_rests_on_the_fewest_estimates() -> None:
    made = records([
        (0, 1, 0, 1, 0, 1, 5, False, -1), (0, 2, 0, 1, 0, 1, 5, False, -1),
        (0, 3, 1, 1, 0, 1, 20, False, -1),
    ])  # fmt: skip
    rule = AnyOf((Credits(10, Match(subjects=(0,))), Credits(20, Match(subjects=(1,)))))
    found = evaluate(rule, made, 1)
    assert (found.status[0], found.estimates[0]) == (ON_COURSE, 1)
    assert found.uses.tolist() == [False, False, True]


def plain(rule, rows):
    """Status of one student by the words of the rule."""

    def best(match, banked_only):
        held = {}
        sure = {r[1] for r in rows if r[7]}
        for r in rows:
            if r[7] or (not banked_only and r[1] not in sure):
                fits = match.levels is None or r[3] in match.levels
                fits &= match.least_result is None or r[5] >= match.least_result
                if fits and (r[1] not in held or (r[7], r[6], r[5]) > held[r[1]][0]):
                    held[r[1]] = ((r[7], r[6], r[5]), r)
        return [r for _, r in held.values()]

    def holds(rule, banked_only):
        if isinstance(rule, AllOf):
            return all(holds(p, banked_only) for p in rule.parts)
        if isinstance(rule, AnyOf):
            return any(holds(p, banked_only) for p in rule.parts)
        counted = best(rule.match, banked_only)
        if isinstance(rule, Credits):
            return sum(r[6] for r in counted) >= rule.at_least
        sums = [sum(r[6] for r in counted if r[2] == s) for s in {r[2] for r in counted}]
        return sum(total >= rule.each for total in sums) >= rule.count

    return MET if holds(rule, True) else ON_COURSE if holds(rule, False) else NOT_YET


@pytest.mark.parametrize("seed", seeds(6))
def test_trees_agree_with_a_plain_reading_student_by_student(seed: int) -> None:
    rng = np.random.default_rng(seed)
    rows = [
        (int(s), int(k), int(k % 4), int(rng.integers(1, 4)), 0, int(rng.integers(0, 4)),
         int(rng.integers(2, 7)), bool(rng.random() < 0.6), -1)
        for s in range(40) for k in rng.integers(0, 14, rng.integers(0, 16))
    ]  # fmt: skip
    rule = AnyOf((
        AllOf((Credits(30, Match(levels=(1, 2, 3))), Credits(10, Match(levels=(2, 3))),
               Subjects(2, 6))),
        AllOf((Credits(24), Subjects(3, 5, Match(least_result=1)))),
    ))  # fmt: skip
    found = evaluate(rule, records(rows), 40)
    theirs = [plain(rule, [r for r in rows if r[0] == s]) for s in range(40)]
    assert found.status.tolist() == theirs
    assert len(set(theirs)) > 1


def test_the_estimates_named_are_as_few_as_will_do() -> None:
    rng = np.random.default_rng(3)
    rows = [(0, k, 0, 1, 0, 1, int(rng.integers(2, 9)), k < 2, -1) for k in range(9)]
    banked = sum(r[6] for r in rows if r[7])
    hoped = [r[6] for r in rows if not r[7]]
    need = banked + 15
    found = evaluate(Credits(need), records(rows), 1)
    fewest = next(k for k in range(1, 8) if any(sum(c) >= 15 for c in combinations(hoped, k)))
    assert found.estimates[0] == fewest
    assert found.uses.sum() == fewest


def test_rules_and_records_that_cannot_be() -> None:
    made = records([(0, 1, 0, 1, 0, 1, 4, True, -1)])
    for rule in (Credits(0), Subjects(0, 4), AllOf(()), AnyOf(())):
        with pytest.raises(ValueError, match="must"):
            evaluate(rule, made, 1)
    with pytest.raises(ValueError, match="students"):
        evaluate(Credits(1), records([(3, 1, 0, 1, 0, 1, 4, True, -1)]), 2)
    with pytest.raises(ValueError, match="0 or more"):
        records([(0, 1, 0, 1, 0, 1, -4, True, -1)])
    nobody = CreditRecords(*(np.empty(0, int) for _ in range(6)), np.empty(0), np.empty(0, bool),
                           np.empty(0, int), {})  # fmt: skip
    assert evaluate(AllOf((Credits(5), Subjects(1, 2))), nobody, 3).status.tolist() == [0, 0, 0]
