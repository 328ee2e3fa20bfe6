"""Rosters of one year that come school by school, in whatever order and on whatever day."""

from __future__ import annotations

import pytest
from tests.intake.test_keeping import undo
from tests.support import Place

from bridge_chart.terms.errors import UnreadableFile

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


def test_the_school_and_year_of_a_whole_file_are_said_once(place: Place) -> None:
    plain = "Number,Name\n1,Ada\n2,Bo\n"
    with pytest.raises(UnreadableFile, match="each student's school"):
        place.look("roster", plain, academic_year="2025-26")
    place.bring("roster", plain, academic_year="2025-26", school="Ash", year_level="Year 7")
    roll = place.snapshot.rolls[0]
    assert [place.snapshot.schools[n].name for n in roll.school] == ["Ash", "Ash"]
    assert roll.year_level.tolist() == [7, 7]
    place.bring("results", "Number,Score\n1,5\n2,6\n", test="Quiz", date="2026-05-01",
                year_level="8")  # fmt: skip
    (measure,) = place.snapshot.measures
    assert place.snapshot.tested_year_level(measure).tolist() == [8, 8]


def test_what_is_left_out_is_told(place: Place) -> None:
    text = "Number,School,Born,Comment\n1,Ash,01/02/2014,kind\n2,Ash,soon,\n"
    shown = place.look("roster", text, academic_year="2025-26",
                       columns={"Comment": "ignore", "Born": "birth_date"}).examination  # fmt: skip
    told = {one.header: (one.n, one.why) for one in shown.left_out}
    assert told == {"Comment": (1, "as you said"), "birth date": (1, "not understood")}
