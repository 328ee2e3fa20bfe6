"""Rosters of one year that come school by school, in whatever order and on whatever day."""

from __future__ import annotations

import pytest
from tests.intake.test_keeping import undo
from tests.support import Place

SCHOOLS = ["Ash", "Birch", "Cedar", "Damson", "Elder", "Fir", "Gorse"]
EACH = 20


def roster(place: int, more: str = "") -> str:
    rows = [f"{place}{n:03d},{SCHOOLS[place]},7,7{'AB'[n % 2]},{'xy'[n % 2]}" for n in range(EACH)]
    return "\n".join(["Number,School,Year,Class,House", *rows]) + "\n" + more


def results() -> str:
    rows = [f"{s}{n:03d},{n}" for s in range(len(SCHOOLS)) for n in range(EACH)]
    return "\n".join(["Number,Score", *rows]) + "\n"


QUESTION = {"what": [{"assessment": "Quiz"}], "split": [{"field": "school"}]}


def counted(place: Place) -> dict[str, int]:
    body = place.ask(QUESTION).body
    return {row.label: row.n for row in body.rows}


@pytest.mark.parametrize("days", [[None] * 7, [None, None, "2026-05-20", *[None] * 4],
                                  ["2025-09-04", *["2026-06-01"] * 6]])  # fmt: skip
def test_seven_schools_one_by_one_count_from_the_first_day(
    place: Place, days: list[str | None]
) -> None:
    for n, date in enumerate(days):
        said = {"as_of": date} if date else {}
        plan = place.bring("roster", roster(n), academic_year="2025-26", **said)
        assert plan.examination.rows_kept == EACH
        assumed = {d.key: d.value for d in plan.examination.defaults}
        assert assumed.get("as_of") == (None if date else "2025-08-01")
    place.bring("results", results(), test="Quiz", sitting="autumn", date="2025-10-10")
    assert counted(place) == dict.fromkeys(SCHOOLS, EACH)
    by_class = place.ask({**QUESTION, "split": [{"field": "class"}, {"characteristic": "House"}]})
    assert sum(row.n for row in by_class.body.rows) == 7 * EACH


def test_a_later_roster_of_a_school_moves_its_students_from_its_own_day(place: Place) -> None:
    place.bring("roster", roster(0), academic_year="2025-26")
    place.bring("roster", roster(1, "0000,Birch,7,7A,x\n"), academic_year="2025-26",
                as_of="2026-02-01")  # fmt: skip
    place.bring("results", results(), test="Quiz", sitting="autumn", date="2025-10-10")
    place.bring("results", results(), test="Quiz", sitting="spring", date="2026-03-10")
    autumn = place.ask({**QUESTION, "what": [{"assessment": "Quiz", "sitting": "autumn"}]})
    spring = place.ask({**QUESTION, "what": [{"assessment": "Quiz", "sitting": "spring"}]})
    assert {r.label: r.n for r in autumn.body.rows} == {"Ash": EACH, "Birch": EACH}
    assert {r.label: r.n for r in spring.body.rows} == {"Ash": EACH - 1, "Birch": EACH + 1}


def test_undone_and_put_back_in_any_order_gives_the_same(place: Place) -> None:
    for n in range(3):
        place.bring("roster", roster(n), academic_year="2025-26", as_of=f"2026-0{n + 1}-01")
    place.bring("results", results(), test="Quiz", sitting="autumn", date="2025-10-10")
    before = counted(place)
    assert before == dict.fromkeys(SCHOOLS[:3], EACH)
    undo(place, 2)
    assert counted(place) == {"Ash": EACH, "Cedar": EACH}
    undo(place, 2, "kept")
    assert counted(place) == before


def test_results_of_a_school_without_a_roster_of_then_are_spoken_of(place: Place) -> None:
    for n in range(2):
        place.bring("roster", roster(n), academic_year="2025-26")
    place.bring("roster", roster(0), academic_year="2024-25")
    place.bring("results", results(), test="Quiz", sitting="May", date="2025-05-10")
    (said,) = [w.text for w in place.ask(QUESTION).warnings if w.code == "nobody_on_roll"]
    assert said.startswith("Nobody of Birch was on roll at that date, so 20 results of Quiz")


def test_a_file_of_new_and_known_schools_says_what_it_assumes(place: Place) -> None:
    place.bring("roster", roster(0), academic_year="2025-26")
    both = roster(0) + "\n".join(roster(1).split("\n")[1:])
    plan = place.look("roster", both, academic_year="2025-26")
    (assumed,) = [d for d in plan.examination.defaults if d.key == "as_of"]
    assert assumed.value == "2026-06-01"
