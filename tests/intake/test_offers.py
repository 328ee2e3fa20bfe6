"""Matches that are likely and not certain: offered with evidence, never made silently."""

from __future__ import annotations

import pytest
from tests.support import TODAY, Place

from bridge_chart.intake.keep.keep import Plan
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.finding import Finding

HEADS = "Number,Given name,Family name,Birth date,School,Year"
PEOPLE = [
    "10001,Ann,Smith,2013-04-01,Tarn,8",
    "10002,Ben,Smith,2013-04-01,Tarn,8",
    "10003,Cleo,Marsh,2013-05-02,Tarn,8",
    "10004,Cleo,Marsh,2012-06-03,Netherby,8",
    "10005,Zoë,O'Hara,2013-07-04,Netherby,8",
]


@pytest.fixture
def five(place: Place) -> Place:
    place.bring("roster", "\n".join([HEADS, *PEOPLE]), academic_year="2025-26")
    return place


def scores(rows: list[str], heads: str = "No,Name,Born,Mark") -> str:
    return "\n".join([heads, *rows]) + "\n"


def found(plan: Plan, key: str) -> Finding:
    return next(f for f in plan.examination.findings if f.key == key)


def keys(plan: Plan) -> set[str]:
    return {f.key for f in plan.examination.findings}


def kept_of(place: Place, number: str) -> int:
    query = (
        "SELECT count(*) FROM attempt JOIN student ON student.id = student_id "
        f"WHERE student.number = '{number}'"
    )
    return int(str(place.scalar(query)))


def test_name_and_birth_date_are_offered_and_not_taken(five: Place) -> None:
    text = scores(["10001,Ann Smith,2013-04-01,5", "77,Zoe OHara,2013-07-04,9"])
    plan = five.look("results", text)
    offer = found(plan, "offer_birth").offers[0]
    assert (offer.number, offer.row, offer.student, offer.name) == ("77", 3, "10005", "Zoë O'Hara")
    assert "birth date agrees" in offer.why
    assert plan.examination.rows_kept == 1
    five.bring("results", text)
    assert kept_of(five, "10005") == 0


def test_an_accepted_number_is_remembered_and_can_be_left(five: Place) -> None:
    text = scores(["77,Zoe OHara,2013-07-04,9"])
    five.bring("results", text, decisions={"is:77": "10005"})
    assert kept_of(five, "10005") == 1
    later = scores(["77,8"], "No,Mark")
    again = five.look("results", later, sitting="autumn")
    assert found(again, "remembered").n == 1
    assert again.examination.rows_kept == 1
    left = five.look("results", later, sitting="autumn", decisions={"remembered": "forget"})
    assert left.examination.rows_kept == 0


def test_all_of_one_kind_can_be_accepted(five: Place) -> None:
    text = scores(["77,Zoe OHara,2013-07-04,9", "78,Ann Smith,2013-04-01,5"])
    plan = five.look("results", text, decisions={"offer_birth": "accept"})
    assert plan.examination.rows_kept == 2
    assert plan.examination.picture is not None
    assert plan.examination.picture.by_hand == 2


def test_a_refused_offer_stays_refused_and_is_listed(five: Place) -> None:
    text = scores(["77,Zoe OHara,2013-07-04,9"])
    plan = five.look("results", text, decisions={"is:77": "no"})
    assert "offer_birth" not in keys(plan)
    assert [o.why for o in found(plan, "as_said").offers] == ["you said no"]
    assert found(plan, "no_student").rows == [2]


def test_two_students_of_one_name_are_never_guessed(five: Place) -> None:
    plan = five.look("results", scores(["5,Cleo Marsh,9"], "No,Name,Mark"))
    assert not {key for key in keys(plan) if key.startswith("offer_")}
    slip = five.look("results", scores(["10093,Cleo Marsh,9"], "No,Name,Mark"))
    assert [o.student for o in found(slip, "offer_slip").offers] == ["10003"]


def test_a_twin_is_not_the_other_twin(five: Place) -> None:
    plan = five.look("results", scores(["90,Ben Smith,2013-04-01,5"]))
    assert [o.student for o in found(plan, "offer_birth").offers] == ["10002"]
    third = five.look("results", scores(["90,Dora Smith,2013-04-01,5"]))
    assert not {key for key in keys(third) if key.startswith("offer_")}


def test_a_mistyped_number_that_is_somebody_elses_stops(five: Place) -> None:
    text = scores(["10001,Ann Smith,2013-04-01,5", "10001,Zoë O'Hara,2013-07-04,9"])
    plan = five.look("results", text)
    stop = found(plan, "name_differs")
    assert (stop.kind, stop.rows, stop.chosen) == ("stop", [3], None)
    assert stop.offers[0].student == "10005"
    moved = five.bring("results", text, decisions={"is:10001": "10005"})
    assert moved.examination.rows_kept == 2
    assert (kept_of(five, "10001"), kept_of(five, "10005")) == (1, 1)
    # The number is Ann's own: it must not be remembered as Zoë's.
    assert five.snapshot.aliases == {}


def test_a_changed_family_name_is_the_same_student(five: Place) -> None:
    plan = five.look("results", scores(["10001,Ann Jones,2013-04-01,5"]))
    assert "name_differs" not in keys(plan)
    assert plan.examination.rows_kept == 1


def test_numbers_made_figures_by_a_spreadsheet_are_read(five: Place) -> None:
    plan = five.look("results", scores(["10001.0,5", "1.0002E+04,6"], "No,Mark"))
    assert plan.examination.rows_kept == 2


def test_a_saying_about_nobody_is_refused(five: Place) -> None:
    with pytest.raises(InvalidQuestion, match="a number that no student has"):
        five.look("results", scores(["77,9"], "No,Mark"), decisions={"is:77": "555"})


def test_a_roster_with_a_changed_number_stops(five: Place) -> None:
    rows = [*PEOPLE[:4], "20005,Zoë,O'Hara,2013-07-04,Tarn,8"]
    text = "\n".join([HEADS, *rows])
    said = {"academic_year": "2025-26", "as_of": "2026-01-10"}
    plan = five.look("roster", text, **said)
    stop = found(plan, "offer_birth")
    assert (stop.kind, stop.chosen, stop.offers[0].student) == ("stop", None, "10005")
    kept = five.bring("roster", text, **said, decisions={"offer_birth": "accept"})
    counts = {c.key: c.n for c in kept.examination.counts}
    assert (counts["new"], counts["moved"]) == (0, 1)
    assert five.scalar("SELECT count(*) FROM student") == 5
    new = five.snapshot
    assert {str(new.numbers[at]): text for text, at in new.aliases.items()} == {"10005": "20005"}


def test_a_reused_number_in_a_roster_stops(five: Place) -> None:
    rows = ["10001,Umar,Vale,2014-01-01,Tarn,7", *PEOPLE[1:]]
    said = {"academic_year": "2025-26", "as_of": "2026-01-10"}
    plan = five.look("roster", "\n".join([HEADS, *rows]), **said)
    assert found(plan, "name_differs").rows == [2]
    right = five.look(
        "roster", "\n".join([HEADS, *rows]), **said, decisions={"name_differs": "number"}
    )
    assert not right.examination.unsettled


def test_new_students_in_a_roster_are_simply_new(five: Place) -> None:
    rows = [*PEOPLE, "10006,Umar,Vale,2014-01-01,Tarn,7"]
    said = {"academic_year": "2025-26", "as_of": str(TODAY)}
    plan = five.bring("roster", "\n".join([HEADS, *rows]), **said)
    assert not plan.examination.unsettled
    assert five.scalar("SELECT count(*) FROM student") == 6


def test_unattended_a_likely_match_is_set_aside_not_made(five: Place) -> None:
    rows = [*PEOPLE[:4], "20005,Zoë,O'Hara,2013-07-04,Tarn,8"]
    said = {"academic_year": "2025-26", "as_of": "2026-01-10"}
    plan = five.bring("roster", "\n".join([HEADS, *rows]), **said)
    assert plan.examination.rows_set_aside == 1
    assert five.scalar("SELECT count(*) FROM student") == 5
