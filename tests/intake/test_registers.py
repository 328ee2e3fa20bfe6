"""Forms and sets, from one file or from several; what a roster changes, by kinds."""

from __future__ import annotations

from tests.support import Place

FORMS = "Number,Forename,School,Year,Form\n1,Ida,Ash,7,7A\n2,Bo,Ash,7,7A\n3,Cy,Ash,7,7B\n"
SETS = (
    "Number,School,Year,Set,Teacher,Subject\n1,Ash,7,Ma1,Ms Moe,Maths\n1,Ash,7,En2,Mr Ek,English\n"
    "2,Ash,7,Ma1,Ms Moe,Maths\n3,Ash,7,Ma2,Ms Moe,Maths\n"
)


def classes(place: Place) -> dict[str, set[str]]:
    """Per student number, the classes on the newest roll."""
    snapshot = place.snapshot
    out: dict[str, set[str]] = {str(n): set() for n in snapshot.numbers}
    for student, at in snapshot.rolls[-1].members.tolist():
        out[str(snapshot.numbers[student])].add(snapshot.classes[at].name)
    return out


def titles(place: Place, text: str, **said: object) -> list[str]:
    plan = place.look("roster", text, academic_year="2025-26", **said)
    return [group.title for group in plan.examination.change_groups]


def test_forms_and_sets_of_two_files_stand_side_by_side(place: Place) -> None:
    place.bring("roster", FORMS, academic_year="2025-26", as_of="2025-09-01")
    assert titles(place, SETS, as_of="2025-09-20") == ["3 students gained a set or teaching group"]
    place.bring("roster", SETS, academic_year="2025-26", as_of="2025-09-20")
    assert classes(place) == {"1": {"7A", "Ma1", "En2"}, "2": {"7A", "Ma1"}, "3": {"7B", "Ma2"}}
    assert {c.name: c.kinds for c in place.snapshot.classes}["7A"] == ("form",)
    taught = {c.name: [place.snapshot.staff[t] for t in c.teachers] for c in place.snapshot.classes}
    assert taught == {"7A": [], "7B": [], "Ma1": ["Ms Moe"], "Ma2": ["Ms Moe"], "En2": ["Mr Ek"]}


def test_a_file_of_sets_replaces_sets_alone_and_says_what_changes(place: Place) -> None:
    place.bring("roster", FORMS, academic_year="2025-26", as_of="2025-09-01")
    place.bring("roster", SETS, academic_year="2025-26", as_of="2025-09-20")
    later = "Number,School,Year,Set\n1,Ash,7,Ma2\n2,Ash,7,\n3,Ash,7,Ma2\n"
    assert titles(place, later, as_of="2026-01-10") == [
        "1 student with another set or teaching group", "1 student lost a set or teaching group",
    ]  # fmt: skip
    place.bring("roster", later, academic_year="2025-26", as_of="2026-01-10")
    assert classes(place) == {"1": {"7A", "Ma2"}, "2": {"7A"}, "3": {"7B", "Ma2"}}


def test_a_roster_without_classes_ends_none(place: Place) -> None:
    place.bring("roster", FORMS, academic_year="2025-26", as_of="2025-09-01")
    place.bring("roster", "Number,School,Year\n1,Ash,7\n2,Ash,7\n", academic_year="2025-26",
                as_of="2026-01-10")  # fmt: skip
    assert classes(place) == {"1": {"7A"}, "2": {"7A"}, "3": set()}


def test_a_form_and_a_set_in_one_row_are_both_kept_and_the_teacher_is_the_sets(
    place: Place,
) -> None:
    text = "Number,School,Year,Form,Set,Teacher\n1,Ash,7,7A,Ma1,Ms Moe\n2,Ash,7,7A,,Mr Ek\n"
    plan = place.bring("roster", text, academic_year="2025-26")
    assert [c.role for c in plan.examination.columns][3:5] == ["form", "set"]
    assert classes(place) == {"1": {"7A", "Ma1"}, "2": {"7A"}}
    taught = {c.name: [place.snapshot.staff[t] for t in c.teachers] for c in place.snapshot.classes}
    assert taught == {"7A": ["Mr Ek"], "Ma1": ["Ms Moe"]}


def test_what_matters_first_stands_first(place: Place) -> None:
    head = "Number,Forename,DOB,School,Year,Form,House\n"
    place.bring("roster", head + "1,Ida,2013-05-01,Ash,7,7A,x\n2,Bo,2013-05-02,Ash,7,7A,x\n"
                "3,Cy,2013-05-03,Ash,7,7B,x\n4,Di,2013-05-04,Elm,7,7C,x\n",
                academic_year="2025-26", as_of="2025-09-01")  # fmt: skip
    new = head + ("1,Ida May,2013-05-01,Ash,8,7A,y\n2,Bo,2013-05-20,Elm,7,7C,x\n"
                  "4,Di,2013-05-04,Elm,7,7C,x\n5,Ev,2013-05-05,Elm,7,7C,x\n")  # fmt: skip
    assert titles(place, new, as_of="2026-01-10") == [
        "1 student no longer on roll", "1 student changed school", "1 student with another name",
        "1 student with another birth date", "1 student with another year level",
        "1 student with another House", "1 student with another form or tutor group",
        "1 student not seen before",
    ]  # fmt: skip
