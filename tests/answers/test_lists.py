"""Lists: columns that somebody chose, groups with what they come to, highlights, order; kept,
shared, changed by one at a time, and held against an earlier version. Written down first."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import pytest
from scipy import stats
from tests.answers import islands
from tests.support import Place, forget_place, new_place

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.sight import say_who_sees, sights
from bridge_chart.answers.asking.answer import Answer, lines_of
from bridge_chart.answers.asking.ask import read_question
from bridge_chart.answers.beside.lists import (
    Plan,
    SharedWith,
    change_list,
    keep_list,
    list_changes,
    list_of,
    lists,
    looked_at,
    share_list,
)
from bridge_chart.answers.beside.saved import list_questions, retire_question
from bridge_chart.answers.beside.student_notes import note_student, notes_on_student
from bridge_chart.answers.shows.students.body import StudentColumn, StudentsBody
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import ChangedMeanwhile, InvalidQuestion, NotFound

QUIZ = {"assessment": "Quiz", "subject": "Maths"}
NOW, BEFORE = {**QUIZ, "sitting": "spring 2026"}, {**QUIZ, "sitting": "spring 2025"}
SPAN = {"derive": "span", "of": NOW, "against": {"prior": {}}}
ASH = {"all": [{"field": "school", "in": ["Ash"]}]}
LIST = {"what": [NOW], "who": ASH, "show": "students"}


@pytest.fixture(scope="module")
def isles(cluster: Settings) -> Iterator[Place]:
    place = islands.fill(new_place(cluster))
    place.account("ashlead", "school_lead", "Ash")
    place.account("elmlead", "school_lead", "Elm")
    yield place
    forget_place(place)


@pytest.fixture
def own(cluster: Settings) -> Iterator[Place]:
    place = islands.fill(new_place(cluster))
    place.account("elmlead", "school_lead", "Elm")
    yield place
    forget_place(place)


def listed(answer: Answer) -> StudentsBody:
    assert isinstance(answer.body, StudentsBody)
    return answer.body


def column(answer: Answer, label: str) -> StudentColumn:
    return next(one for one in listed(answer).columns if one.label == label)


def by_number(answer: Answer, label: str, part: str = "values") -> dict[str, Any]:
    numbers = column(answer, "Number").values
    return dict(zip(numbers, getattr(column(answer, label), part), strict=True))


def test_columns_are_those_that_were_chosen_in_their_order(isles: Place) -> None:
    asked = [{"characteristic": "Meals"}, {"measure": BEFORE}, {"measure": NOW}, {"field": "class"}]
    answer = isles.ask({**LIST, "columns": asked})
    assert [one.label for one in listed(answer).columns] == [
        "Student", "Number", "Meals", "Maths, spring 2025", "Maths, spring 2026", "Class",
    ]  # fmt: skip
    assert by_number(answer, "Maths, spring 2025") == {
        islands.numbered(n): 50.0 + n for n in range(20)
    }
    # 66 is a Low, one step below the pass line; 70 is the first step on it.
    assert by_number(answer, "Maths, spring 2026", "level")["009"] == "Mid"
    assert by_number(answer, "Maths, spring 2026", "tone")["009"] == 1
    assert by_number(answer, "Maths, spring 2026", "tone")["005"] == -1
    assert by_number(answer, "Maths, spring 2026")["007"] is None
    assert by_number(answer, "Maths, spring 2026", "why")["007"] == "absent"


def test_each_sitting_is_a_column_and_a_blank_says_why(isles: Place) -> None:
    answer = isles.ask({**LIST, "columns": [{"measure": {**QUIZ, "sitting": "each"}}, "notes"]})
    assert [one.label for one in listed(answer).columns][2:] == [
        "Maths, spring 2025", "Maths, spring 2026", "Notes",
    ]  # fmt: skip


def test_a_mark_beyond_one_error_stands_at_who_fell_and_at_nobody_alike(isles: Place) -> None:
    answer = isles.ask({**LIST, "columns": [{"measure": SPAN}]})
    label = "Maths, spring 2026, span"
    signs = by_number(answer, label, "sign")
    assert signs["005"] == "behind"
    assert set(signs.values()) <= {"behind", "ahead", "none", ""}
    # An independent line through the thirty-nine who have both.
    n = np.array([one for one in range(40) if one != islands.ABSENT])
    second = 60.0 + n + np.where(n % 2, 2, -2)
    second[n == islands.FELL] = 40
    line = stats.linregress(50.0 + n, second)
    residual = second - (line.intercept + line.slope * (50.0 + n))
    spans = by_number(answer, label)
    for number, one in zip(n, residual, strict=True):
        if number < 20:
            assert spans[islands.numbered(int(number))] == pytest.approx(one)


def test_the_last_row_respects_who_is_missing(isles: Place) -> None:
    answer = isles.ask({**LIST, "columns": [{"characteristic": "Meals"}, {"measure": NOW}]})
    meals, now = column(answer, "Meals").total, column(answer, "Maths, spring 2026").total
    assert meals is not None
    assert now is not None
    assert {one.label: one.n for one in meals.counts} == {"yes": 10, "no": 10}
    values = np.array([v for v in column(answer, "Maths, spring 2026").values if v is not None])
    low, high = stats.t.interval(0.95, 18, values.mean(), stats.sem(values))
    assert (now.n, now.missing) == (19, 1)
    assert now.mean == pytest.approx(values.mean())
    assert (now.low, now.high) == (pytest.approx(low), pytest.approx(high))
    assert now.median == pytest.approx(np.median(values))


def test_groups_stand_together_each_with_its_own_means(isles: Place) -> None:
    asked = {**LIST, "who": {}, "columns": [{"measure": BEFORE}], "split": [{"field": "school"}],
             "sort": [{"by": "number", "dir": "desc"}]}  # fmt: skip
    answer = isles.ask(asked)
    body = listed(answer)
    assert [(one.label, one.n) for one in body.groups] == [("Ash", 20), ("Elm", 20)]
    assert body.in_group == [0] * 20 + [1] * 20
    assert column(answer, "Number").values[:2] == ["019", "018"]
    means = [one.mean for one in column(answer, "Maths, spring 2025").by_group]
    assert means == [pytest.approx(59.5), pytest.approx(79.5)]


def test_who_is_in_two_classes_stands_under_both_and_counts_once(own: Place) -> None:
    text = "Number,School,Year,Class\n" + "".join(
        f"{islands.numbered(n)},Ash,8,{c}\n" for n in range(3) for c in ("8A", "Choir")
    )
    own.bring("roster", text, academic_year="2025-26", name="more.csv", as_of="2026-01-05")
    asked = {**LIST, "who": {"as_of": "today", **ASH}, "split": [{"field": "class"}],
             "columns": [{"measure": BEFORE}]}  # fmt: skip
    answer = own.ask(asked)
    labels = [one.label for one in listed(answer).groups]
    assert {"8A", "Choir"} <= set(labels)
    total = column(answer, "Maths, spring 2025").total
    assert total is not None
    assert total.n == len(set(listed(answer).student))
    assert len(listed(answer).student) > total.n


def test_highlighting_leaves_every_row(isles: Place) -> None:
    focus = [{"characteristic": "Meals", "in": ["yes"]}]
    answer = isles.ask({**LIST, "columns": [{"characteristic": "Meals"}], "focus": focus})
    body = listed(answer)
    assert len(body.student) == 20
    assert body.focus == [value == "yes" for value in column(answer, "Meals").values]


def test_several_columns_sort_one_after_the_other(isles: Place) -> None:
    asked = {**LIST, "columns": [{"characteristic": "Meals"}, {"measure": BEFORE}]}
    keys = {one.label: one.key for one in listed(isles.ask(asked)).columns}
    sort = [{"by": keys["Meals"]}, {"by": keys["Maths, spring 2025"], "dir": "desc"}]
    answer = isles.ask({**asked, "sort": sort})
    assert column(answer, "Number").values[:3] == ["019", "017", "015"]
    with pytest.raises(InvalidQuestion, match="cannot be sorted by"):
        isles.ask({**asked, "sort": [{"by": "height"}]})


def test_what_is_taken_out_has_every_cell_that_is_shown(isles: Place) -> None:
    heads, lines = lines_of(isles.ask({**LIST, "columns": [{"measure": NOW}]}))
    assert heads == [
        "Student", "Number", "Maths, spring 2026", "Maths, spring 2026: level",
        "Maths, spring 2026: why blank",
    ]  # fmt: skip
    assert lines[[line[1] for line in lines].index("007")][2:] == [None, "", "absent"]


def test_a_target_is_held_beside_the_result_in_steps(own: Place) -> None:
    text = "Number,Grade,Predicted grade,Target grade\n000,C,B,A\n001,B,B,B\n002,A,,B\n"
    scale = (
        "Test,Score,Step,Points,Passes\nExam,grade,C,1,no\nExam,grade,B,2,yes\nExam,grade,A,3,yes\n"
    )
    own.bring("scale", scale, name="exam-scale.csv")
    own.bring("results", text, name="exam.csv", test="Exam", subject="Maths", sitting="June",
              date="2026-06-01")  # fmt: skip
    exam = {"assessment": "Exam", "subject": "Maths", "sitting": "June", "score": "grade"}
    kinds = {m.role: m.kind for m in own.snapshot.measures if m.role == "target"}
    against = {"target": {"kind": kinds["target"]}}
    asked = {**LIST, "what": [exam], "columns": [{"measure": exam, "against": against}]}
    answer = own.ask(asked)
    one = next(c for c in listed(answer).columns if c.label.startswith("Maths, June"))
    cells = zip(one.values, one.of or [], one.away or [], one.tone or [], strict=True)
    told = dict(zip(column(answer, "Number").values, cells, strict=True))
    assert told["000"] == ("C", "A", -2.0, -2.0)
    assert told["001"] == ("B", "B", 0.0, 0.0)
    assert told["002"] == ("A", "B", 1.0, 1.0)
    assert one.total is not None
    assert one.total.met == 2


def test_a_list_is_kept_shared_and_seen_in_ones_own_scope(own: Place) -> None:
    made = keep_list(own.engine, own.settings, OPERATOR, "All of them", _of({**LIST, "who": {}}))
    elm = actor_named(own.engine, "elmlead")
    assert [one.id for one in lists(own.engine, own.settings, elm)] == []
    with pytest.raises(NotFound):
        list_of(own.engine, own.settings, elm, made.id)
    share_list(own.engine, own.settings, OPERATOR, made.id, made.revision, everybody=False,
               shared_with=SharedWith(accounts=[elm.account_id or 0]))  # fmt: skip
    assert lists(own.engine, own.settings, OPERATOR)[0].students == 40
    seen = lists(own.engine, own.settings, elm)
    assert [(one.students, one.own) for one in seen] == [(20, False)]
    shown = own.ask(seen[0].question.model_dump(mode="json", by_alias=True), elm)
    assert {*column(shown, "Number").values} == {islands.numbered(n) for n in range(20, 40)}
    with pytest.raises(NotFound, match="of yours"):
        change_list(own.engine, own.settings, elm, made.id, 2, name="mine now")
    retire_question(own.engine, OPERATOR, made.id)
    assert lists(own.engine, own.settings, elm) == []


def test_a_list_of_a_school_that_one_does_not_see_is_left_out(own: Place) -> None:
    made = keep_list(own.engine, own.settings, OPERATOR, "Ash", _of(LIST))
    share_list(
        own.engine, own.settings, OPERATOR, made.id, 1, everybody=True, shared_with=SharedWith()
    )
    assert lists(own.engine, own.settings, actor_named(own.engine, "elmlead")) == []


def test_a_list_loses_the_columns_that_are_not_for_ones_role_and_says_how_many(own: Place) -> None:
    meals = {"characteristic": "Meals"}
    asked = _of({**LIST, "who": {}, "columns": [meals, {"measure": NOW}, {"characteristic": "Sex"}],
                 "split": [meals], "sort": [{"by": "Meals", "dir": "asc"}]})  # fmt: skip
    made = keep_list(own.engine, own.settings, OPERATOR, "Quiz with meals", asked)
    only = _of({**LIST, "who": {"all": [{**meals, "in": ["yes"]}]}})
    hidden = keep_list(own.engine, own.settings, OPERATOR, "Who has meals", only)
    for one in (made, hidden):
        share_list(own.engine, own.settings, OPERATOR, one.id, 1, everybody=True,
                   shared_with=SharedWith())  # fmt: skip
    elm = actor_named(own.engine, "elmlead")
    before = lists(own.engine, own.settings, elm)
    assert [(one.name, one.left_out) for one in before] == [
        ("Who has meals", 0), ("Quiz with meals", 0),
    ]  # fmt: skip
    (of_meals,) = [one for one in sights(own.engine, OPERATOR) if one.label == "Meals"]
    say_who_sees(own.engine, OPERATOR, of_meals.what, sensitive=True, roles=[])
    # Who is in the second hangs on it, so that one is gone; the first only showed it.
    after = lists(own.engine, own.settings, elm)
    assert [(one.name, one.students, one.left_out) for one in after] == [("Quiz with meals", 20, 1)]
    shown = own.ask(after[0].question.model_dump(mode="json", by_alias=True), elm)
    told = [one.label for one in listed(shown).columns]
    assert "Sex" in told
    assert "Meals" not in after[0].model_dump_json() + shown.model_dump_json()
    assert listed(shown).groups == []
    mine = lists(own.engine, own.settings, OPERATOR)
    assert [(one.name, one.left_out) for one in mine] == [
        ("Who has meals", 0), ("Quiz with meals", 0),
    ]  # fmt: skip


def test_a_fixed_list_stays_and_is_seen_in_ones_own_scope(own: Place) -> None:
    low = {"all": [{"measure": NOW, "below": 75}]}
    asked = _of({**LIST, "who": low, "columns": [{"measure": NOW}]})
    made = keep_list(own.engine, own.settings, OPERATOR, "Low then", asked, fixed=True)
    assert made.fixed
    before = lists(own.engine, own.settings, OPERATOR)[0].students
    own.bring("results", "Number,Scaled score\n000,99\n", name="late.csv", test="Quiz",
              subject="Maths", sitting="spring 2026", date="2026-05-01")  # fmt: skip
    assert lists(own.engine, own.settings, OPERATOR)[0].students == before
    share_list(
        own.engine, own.settings, OPERATOR, made.id, 1, everybody=True, shared_with=SharedWith()
    )
    # Nobody of Elm is that low, so to its lead there is no such list.
    assert lists(own.engine, own.settings, actor_named(own.engine, "elmlead")) == []
    all_ = keep_list(own.engine, own.settings, OPERATOR, "All", _of({**LIST, "who": {}}),
                     fixed=True)  # fmt: skip
    share_list(
        own.engine, own.settings, OPERATOR, all_.id, 1, everybody=True, shared_with=SharedWith()
    )
    elm = lists(own.engine, own.settings, actor_named(own.engine, "elmlead"))
    assert [(one.name, one.students) for one in elm] == [("All", 20)]
    assert list_questions(own.engine, own.settings, actor_named(own.engine, "elmlead")) == []
    # Neither the ids nor the number of the others are told.
    told = elm[0].question.who.all_[0].model_dump()["in_"]
    assert set(told) == set(own.snapshot.student_ids[20:].tolist())
    none = _of({**LIST, "who": {"all": [{"measure": NOW, "below": -1}]}})
    with pytest.raises(InvalidQuestion, match="fixed list has"):
        keep_list(own.engine, own.settings, OPERATOR, "None", none, fixed=True)


def test_two_who_change_a_list_at_once_lose_nothing(own: Place) -> None:
    made = keep_list(own.engine, own.settings, OPERATOR, "A", _of(LIST))
    now = change_list(own.engine, own.settings, OPERATOR, made.id, 1, name="B")
    assert (now.name, now.revision) == ("B", 2)
    with pytest.raises(ChangedMeanwhile):
        change_list(own.engine, own.settings, OPERATOR, made.id, 1, name="C")
    assert list_of(own.engine, own.settings, OPERATOR, made.id).name == "B"
    wrong = Plan(start="2026-03-02", review="2026-02-01")  # type: ignore[arg-type]
    with pytest.raises(InvalidQuestion, match="before the start"):
        change_list(own.engine, own.settings, OPERATOR, made.id, 2, plan=wrong)


def test_since_one_looked_says_who_came_and_which_cells_are_others(own: Place) -> None:
    asked = {**LIST, "columns": [{"measure": NOW}]}
    made = keep_list(own.engine, own.settings, OPERATOR, "Ash", _of(asked))
    looked_at(own.engine, own.settings, OPERATOR, made.id)
    assert list_changes(own.engine, own.settings, OPERATOR, made.id, None).rows == []
    own.bring("results", "Number,Scaled score\n007,99\n", name="late.csv", test="Quiz",
              subject="Maths", sitting="spring 2026", date="2026-05-01")  # fmt: skip
    found = list_changes(own.engine, own.settings, OPERATOR, made.id, None)
    assert [(row.name, row.came, row.went) for row in found.rows] == [("Þóra Bjørk", False, False)]
    cell = found.rows[0].cells[0]
    assert cell.before == "absent"
    assert cell.now.startswith("99")
    assert found.shifted == 0


def test_a_line_that_moved_changes_no_row_by_itself(own: Place) -> None:
    made = keep_list(own.engine, own.settings, OPERATOR, "Ash",
                     _of({**LIST, "columns": [{"measure": NOW}, {"measure": SPAN}]}))  # fmt: skip
    looked_at(own.engine, own.settings, OPERATOR, made.id)
    own.bring("results", "Number,Scaled score\n039,60\n", name="late.csv", test="Quiz",
              subject="Maths", sitting="spring 2026", date="2026-05-01")  # fmt: skip
    found = list_changes(own.engine, own.settings, OPERATOR, made.id, None)
    assert (found.rows, found.shifted) == ([], 19)


def test_a_note_is_read_by_whoever_sees_the_student_if_it_is_shared(own: Place) -> None:
    own.account("ashlead", "school_lead", "Ash")
    first, last = (int(own.snapshot.student_ids[n]) for n in (0, 39))
    elm = actor_named(own.engine, "elmlead")
    note_student(own.engine, own.settings, OPERATOR, first, "for me alone")
    note_student(own.engine, own.settings, OPERATOR, last, "moved seats", shared=True)
    with pytest.raises(NotFound):
        note_student(own.engine, own.settings, elm, first, "not mine to see")
    with pytest.raises(NotFound, match="no such list"):
        note_student(own.engine, own.settings, elm, last, "in no list", list_id=999)
    assert [one.text for one in notes_on_student(own.engine, own.settings, elm, last)] == [
        "moved seats"
    ]
    asked = {**LIST, "who": {}, "columns": ["notes"]}
    assert by_number(own.ask(asked, elm), "Notes")["039"] == "moved seats"
    assert by_number(own.ask(asked), "Notes")["000"] == "for me alone"
    ash = actor_named(own.engine, "ashlead")
    assert "for me alone" not in own.ask(asked, ash).model_dump_json()


def _of(question: dict[str, Any]) -> Any:
    return read_question(question)
