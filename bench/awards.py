"""Awards: 50,000 students with 100 records each judged in five conditions, against a plain Python
loop over each student's records. The loop is timed on some of the students and held to the same
figures; it knows no sets of which one counts, which ours allows for."""

from __future__ import annotations

from time import perf_counter

import numpy as np

from bridge_chart.core.awards.judge import judge
from bridge_chart.core.awards.records import CreditRecords, Match
from bridge_chart.core.awards.rules import AllOf, Award, Credits, Need, Subjects

STUDENTS, RECORDS, LOOPED = 50_000, 100, 2_000
PASSING = frozenset({1, 2, 3})
Row = tuple[str, float, str]


def award_rows() -> list[Row]:
    """The ratio of one student's share of both; below 1 we are faster."""
    records = _made(np.random.default_rng(1))
    award = Award(
        AllOf((
            Credits(Need(160, Match(results=PASSING))),
            Credits(Need(60, Match(levels={3}, results=PASSING))),
            Subjects(3, (Need(14, Match(results=PASSING)),)),
            Credits(Need(30, Match(kinds={1}, results={2, 3}))),
            Credits(Need(10, Match(subjects={1, 2}, results=PASSING))),
        ))
    )  # fmt: skip
    begun = perf_counter()
    ours = judge(award, records, STUDENTS)
    mine = (perf_counter() - begun) / STUDENTS
    begun = perf_counter()
    theirs = [[_looped(records, n, hoped) for hoped in (False, True)] for n in range(LOOPED)]
    loop = (perf_counter() - begun) / LOOPED
    assert ours.status[:LOOPED].tolist() == [2 if met else int(hoped) for met, hoped in theirs]
    seconds = f"{STUDENTS * mine:.1f} s against {STUDENTS * loop:.0f} s"
    what = f"an award of {STUDENTS:,} students with {RECORDS} records each, three states"
    return [(what, mine / loop, f"a plain Python loop ({seconds})")]


def _made(rng: np.random.Generator) -> CreditRecords:
    each = np.stack([rng.permutation(300)[:RECORDS] for _ in range(500)])
    standard = np.tile(each, (STUDENTS // 500, 1)).ravel()
    many = STUDENTS * RECORDS
    return CreditRecords(
        np.repeat(np.arange(STUDENTS), RECORDS), standard, standard // 15,
        rng.integers(1, 4, many), rng.integers(0, 2, many), rng.integers(0, 4, many),
        rng.integers(2, 7, many), rng.random(many) < 0.6,
    )  # fmt: skip


def _looped(records: CreditRecords, student: int, hoped: bool) -> bool:
    """Whether one student has met the award, record by record; hoped: with what is estimated."""
    total = top = external = some = 0
    by_subject: dict[int, int] = {}
    for row in range(student * RECORDS, (student + 1) * RECORDS):
        credits, result = int(records.credits[row]), int(records.result[row])
        if not (hoped or records.banked[row]) or result not in PASSING:
            continue
        subject = int(records.subject[row])
        total += credits
        by_subject[subject] = by_subject.get(subject, 0) + credits
        top += credits if records.level[row] == 3 else 0
        external += credits if records.kind[row] == 1 and result in (2, 3) else 0
        some += credits if subject in (1, 2) else 0
    enough = sum(1 for held in by_subject.values() if held >= 14)
    return total >= 160 and top >= 60 and enough >= 3 and external >= 30 and some >= 10
