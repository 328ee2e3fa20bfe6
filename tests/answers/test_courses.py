"""Courses: what a class is taught, as condition, as split, and to pick the classes of a subject."""

from __future__ import annotations

import pytest
from tests.support import Place

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.answers.beside.catalogue import catalogue
from bridge_chart.terms.errors import InvalidQuestion, NotFound

ROWS = ["No,School,Year,Class,Teacher,Course"]
for n in range(1, 25):
    ROWS.append(f"{n:03d},Tarn,8,8M{1 + n % 2},R. Vale,Maths")
    if n <= 12:
        ROWS.append(f"{n:03d},Tarn,8,8A1,K. Orme,Art")
MARKS = "No,Subject,Mark\n" + "".join(
    f"{n:03d},{subject},{n}\n" for n in range(1, 25) for subject in ("Maths", "Art")
)
WHAT = {"assessment": "Check", "subject": "Maths"}


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", "\n".join(ROWS) + "\n", academic_year="2025-26")
    place.bring("results", MARKS, name="Check.csv")
    return place


def rows(place: Place, **asked: object) -> dict[str, tuple[int, float | None]]:
    body = place.ask({"what": [WHAT], **asked}).body
    return {row.label: (row.n, row.mean) for row in body.rows}


def test_a_split_by_course_counts_each_student_in_every_course(tarn: Place) -> None:
    shown = rows(tarn, split=[{"field": "course"}])
    assert shown == {"Art": (12, 6.5), "Maths": (24, 12.5)}
    body = tarn.ask({"what": [WHAT], "split": [{"field": "course"}]}).body
    assert all(row.overlap for row in body.rows)


def test_students_who_are_taught_a_course(tarn: Place) -> None:
    asked = {"who": {"all": [{"field": "course", "in": ["Art"]}]}}
    answer = tarn.ask({"what": [WHAT], **asked})
    assert answer.coverage[0].counted == 12
    assert "taught Art" in answer.model_dump_json()
    without = {"who": {"all": [{"not": {"field": "course", "in": ["Art"]}}]}}
    assert tarn.ask({"what": [WHAT], **without}).coverage[0].counted == 12


def test_only_the_classes_of_the_subject(tarn: Place) -> None:
    every = rows(tarn, split=[{"field": "class"}])
    assert set(every) == {"8M1", "8M2", "8A1"}
    own = rows(tarn, split=[{"field": "class", "of": "subject"}])
    assert own == {"8M1": (12, 13.0), "8M2": (12, 12.0)}
    art = tarn.ask(
        {"what": [{**WHAT, "subject": "Art"}], "split": [{"field": "class", "of": "subject"}]}
    )
    assert [row.label for row in art.body.rows] == ["8A1", "No class"]


def test_what_makes_no_sense_is_refused(tarn: Place) -> None:
    with pytest.raises(InvalidQuestion, match="classes only"):
        rows(tarn, split=[{"field": "school", "of": "subject"}])
    with pytest.raises(NotFound):
        rows(tarn, who={"all": [{"field": "course", "in": ["Latin"]}]})


def test_courses_are_offered_with_their_students(tarn: Place) -> None:
    offered = catalogue(tarn.engine, tarn.settings, OPERATOR).courses
    assert [(o.label, o.n) for o in offered] == [("Art", 12), ("Maths", 24)]


def test_a_roster_without_courses_offers_none(place: Place) -> None:
    place.bring("roster", "No,School\n001,Tarn\n", academic_year="2025-26")
    assert catalogue(place.engine, place.settings, OPERATOR).courses == []
