"""Names that mean the same: declared before or after keeping, and taken back."""

from __future__ import annotations

import pytest
from tests.intake.test_keeping import undo
from tests.support import Place, signed_in

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.sight import say_who_sees
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.people import Actor

HEAD = "What,Name,Of,Means,Date,Place,Holds\n"


def roster(school: str, first: int, sexes: str, head: str = "Sex") -> str:
    rows = [f"{first + n},{school},7,7A,{s}" for n, s in enumerate(sexes.split())]
    return "\n".join([f"Number,School,Year,Class,{head}", *rows]) + "\n"


def district(place: Place) -> None:
    """Two files of one school under two names, with two ways to write sex, two tests."""
    place.bring("roster", roster("Ostrey Sch.", 100, "M F M F"), academic_year="2025-26")
    place.bring("roster", roster("Ostrey School", 200, "Male Female Male", "Gender"),
                academic_year="2025-26",
                decisions={"near_school:Ostrey School": "new"})  # fmt: skip
    place.bring("results", "Number,Score\n100,10\n101,20\n200,30\n", test="Quiz",
                subject="Maths", sitting="autumn", date="2025-10-10")  # fmt: skip
    place.bring("results", "Number,Score\n100,12\n102,40\n202,50\n", test="Quiz",
                subject="Mathematics", sitting="Autumn term", date="2025-10-12",
                decisions={"near_subject:Mathematics": "new", "near_sitting:Autumn term": "new",
                           "near_subject:Maths": "new"})  # fmt: skip


def means(place: Place, split: dict[str, object], subject: str = "Mathematics") -> dict[str, int]:
    body = place.ask({"what": [{"assessment": "Quiz", "subject": subject}], "split": [split]}).body
    return {row.label: row.n for row in body.rows}


JOIN = (
    HEAD + "school,Ostrey Sch.,,Ostrey School,,,\ncharacteristic,Gender,,Sex,,,\n"
    "value,M,Sex,Male,,2,\nvalue,F,Gender,Female,,1,\nsubject,Maths,,Mathematics,,,\n"
    "sitting,Autumn term,Quiz,autumn,2025-10-11,,\n"
)


def test_names_that_were_kept_apart_become_one_and_come_apart_again(place: Place) -> None:
    district(place)
    before = place.snapshot
    assert [s.name for s in before.schools] == ["Ostrey Sch.", "Ostrey School"]
    plan = place.bring("names", JOIN)
    assert plan.examination.rows_kept == 6
    told = {f.key: f for f in plan.examination.findings}
    assert told["joined"].n == 4  # M and F are of another characteristic than Male, so far
    assert told["called"].n == 2
    assert told["in_both"].n == 1  # student 100: 10 in one, 12 in the other
    assert told["dated"].n == 2
    now = place.snapshot
    assert [s.name for s in now.schools] == ["Ostrey School"]
    assert [c.name for c in now.classes] == ["7A"]
    assert [(c.called, [o.name for o in c.options]) for c in now.characteristics] == [
        ("Sex", ["Female", "Male"])
    ]
    assert [(m.label, str(m.date), m.set_aside) for m in now.measures] == [
        ("Mathematics, autumn", "2025-10-11", 0)
    ]
    assert means(place, {"field": "school"}) == {"Ostrey School": 5}
    assert means(place, {"characteristic": "Sex"}) == {"Female": 1, "Male": 4}
    values = now.values(now.measures[0])
    assert values[now.numbers == "100"].tolist() == [12.0]
    undo(place, 5)
    assert [s.name for s in place.snapshot.schools] == ["Ostrey Sch.", "Ostrey School"]
    assert len(place.snapshot.measures) == 2


def test_old_ids_open_what_they_have_become(place: Place) -> None:
    district(place)
    before = place.snapshot
    old = before.measures[1]
    last = max(s.id for s in before.schools)
    sex = {c.called: c for c in before.characteristics}
    question = {
        "what": [{"assessment": old.assessment.id, "subject": old.subject.id,
                  "sitting": old.sitting.id}],
        "who": {"all": [{"field": "school", "in": [last]},
                        {"characteristic": sex["Gender"].id, "in": [sex["Gender"].options[1].id]}]},
        "split": [{"field": "school"}],
    }  # fmt: skip
    place.bring("names", JOIN)
    body = place.ask(question).body
    assert [(row.label, row.n) for row in body.rows] == [("Ostrey School", 4)]


def test_a_lead_of_either_school_sees_the_one_that_both_are(place: Place) -> None:
    district(place)
    ids = {s.name: s.id for s in place.snapshot.schools}
    place.bring("names", JOIN)
    for held in ids.values():
        lead = Actor(7, "x", "X", "school_lead", frozenset([held]))
        body = place.ask({"what": [{"assessment": "Quiz"}], "split": [{"field": "school"}]},
                         lead).body  # fmt: skip
        assert [(row.label, row.n) for row in body.rows] == [("Ostrey School", 5)]


def test_what_is_declared_first_is_read_so_and_said(place: Place) -> None:
    place.bring("names", HEAD + "value,M,Sex,Male,,,\nschool,Ostrey Sch.,,Ostrey School,,,\n"
                "subject,Maths,,Mathematics,,,\n")  # fmt: skip
    plan = place.bring("roster", roster("Ostrey Sch.", 100, "M Male M"), academic_year="2025-26")
    told = {f.key: f for f in plan.examination.findings}
    assert told["declared:Sex"].n == 2
    assert told["declared:school"].n == 3
    wide = place.look("results", "Number,Maths autumn,Maths spring\n100,5,6\n101,4,4\n",
                      date="2025-11-01", test="Quiz")  # fmt: skip
    assert {s.subject for s in wide.sittings} == {"Mathematics"}
    assert [o.name for o in place.snapshot.characteristics[0].options] == ["Male"]


def test_rows_that_cannot_be_meant_are_set_aside_with_the_reason(place: Place) -> None:
    text = HEAD + (
        "planet,Mars,,Earth,,,\nvalue,M,,Male,,,\nsubject,A,,B,,,\nsubject,B,,A,,,\n"
        "characteristic,Sex,,,,,sorted\ntest,Quiz,,,,,\ntest,Quizz,,Quiz,,,\n"
    )
    plan = place.bring("names", text)
    assert sorted(plan.aside.values()) == [
        "characteristic of an unknown kind", "name of an unknown kind",
        "name that does not say of what", "names that mean each other in a circle",
        "names that mean each other in a circle", "row that says nothing of a name",
    ]  # fmt: skip
    assert plan.examination.rows_kept == 1


def test_a_scale_stays_that_of_its_test_under_the_new_name(place: Place) -> None:
    place.bring("roster", roster("Ash", 100, "M F"), academic_year="2025-26")
    place.bring("scale", "Test,Step,Points,Pass\nQuiz,low,1,no\nQuiz,high,2,yes\n")
    place.bring("results", "Number,Grade\n100,high\n101,low\n", test="Quiz")
    place.bring("names", HEAD + "test,Quiz,,Short quiz,,,\n")
    measure = place.snapshot.measures[0]
    assert (measure.assessment.name, measure.steps) == ("Short quiz", ("low", "high"))
    again = place.look("results", "Number,Grade\n100,low\n", test="Quiz")
    assert {s.test for s in again.sittings} == {"Short quiz"}
    assert again.sittings[0].known_id == measure.sitting.id


def test_names_over_http_and_for_the_data_lead_alone(place: Place) -> None:
    district(place)
    place.account("ailsa", "data_lead")
    place.account("rowan", "school_lead", "Ostrey School")
    place.bring("names", JOIN)
    with signed_in(place) as client:
        names = client.get("/api/names").get_json()["names"]
        by = {(n["what"], n["name"]): n for n in names}
        assert by["school", "Ostrey School"]["also"] == ["Ostrey Sch."]
        assert by["school", "Ostrey School"]["n"] == 7
        assert by["value", "Male"] == {
            "what": "value", "of": "Sex", "name": "Male", "n": 4, "also": ["M"], "dates": [],
            "holds": "",
        }  # fmt: skip
        assert by["sitting", "autumn"]["dates"] == ["2025-10-11"]
    with signed_in(place, "rowan") as client:
        assert client.get("/api/names").status_code == 403


def test_what_one_of_two_names_hides_is_hidden_under_both(place: Place) -> None:
    district(place)
    place.account("rowan", "school_lead", "Ostrey School", "Ostrey Sch.")
    lead = actor_named(place.engine, "rowan")
    split = {"what": [{"assessment": "Quiz", "subject": "Mathematics"}],
             "split": [{"characteristic": "Sex"}]}  # fmt: skip
    assert place.ask(split, lead).body.rows
    gender = next(c.id for c in place.snapshot.characteristics if c.called == "Gender")
    say_who_sees(place.engine, OPERATOR, str(gender), sensitive=True, roles=["data_lead"])
    assert place.ask(split, lead).body.rows
    place.bring("names", JOIN)
    assert place.ask(split).body.rows
    with pytest.raises(NotFound):
        place.ask(split, lead)
