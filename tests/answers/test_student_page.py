"""A student's page: every figure against one that is worked out apart, words that claim no more
than one test can, and nothing of anybody whom the asker may not see."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest
from scipy import stats
from tests.answers import islands
from tests.support import Place, forget_place, new_place

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.asking.ask import HIDDEN_NOTE, read_question
from bridge_chart.answers.beside.find import Found, find
from bridge_chart.answers.beside.lists import keep_list
from bridge_chart.answers.beside.student_notes import note_student
from bridge_chart.answers.person.findings import findings
from bridge_chart.answers.person.page import Result, StudentPage, Timeline
from bridge_chart.answers.person.student import student_of_number, student_page
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.people import Actor


@pytest.fixture(scope="module")
def isles(cluster: Settings) -> Iterator[Place]:
    place = islands.fill(new_place(cluster))
    islands.add_paper(place)
    place.bring("reliability", "Test,Score,Error\nQuiz,scaled,3\n", name="exact.csv")
    place.account("elmlead", "school_lead", "Elm")
    yield place
    forget_place(place)


def page_of(place: Place, number: str, actor: Actor = OPERATOR) -> StudentPage:
    found = student_of_number(place.engine, place.settings, actor, number)
    return student_page(place.engine, place.settings, actor, found)


def result(page: StudentPage, label: str) -> Result:
    return next(one for one in page.results if one.label == label)


def test_who_they_are_and_where_they_were(isles: Place) -> None:
    page = page_of(isles, "005")
    assert (page.name, page.number) == ("Bo Marrable", "005")
    assert page.place == "Ash, Year 8, 8A (Ms Ash)"
    told = {(one.what, one.value): (one.since, one.until) for one in page.spells}
    before, now = dt.date(2024, 9, 1), dt.date(2025, 9, 1)
    year = told[("year level", "Year 7")]
    assert year[0].year == before.year
    assert year[1] == told[("year level", "Year 8")][0]
    assert told[("year level", "Year 8")][0].year == now.year
    assert told[("Meals", "no")][1] is None
    assert len([one for one in page.spells if one.what == "Meals"]) == 1


def test_every_result_stands_against_what_applies(isles: Place) -> None:
    fell = result(page_of(isles, "005"), "Maths, spring 2026")
    n = np.array([one for one in range(40) if one != islands.ABSENT])
    second = 60.0 + n + np.where(n % 2, 2, -2)
    second[n == islands.FELL] = 40
    line = stats.linregress(50.0 + n, second)
    error = np.sqrt(np.sum((second - line.intercept - line.slope * (50.0 + n)) ** 2) / (39 - 2))
    assert fell.value == 40
    assert fell.level == "Low"
    assert fell.tone == -1
    assert fell.expected == pytest.approx(line.intercept + line.slope * 55)
    assert fell.span == pytest.approx(40 - (line.intercept + line.slope * 55))
    assert fell.error == pytest.approx(error, rel=0.05)
    assert fell.sign == "behind"
    assert fell.measured == 3
    assert fell.file == "two.csv"
    first = result(page_of(isles, "005"), "Maths, spring 2025")
    assert (first.value, first.expected) == (55, None)


def test_a_timeline_is_in_one_unit_with_its_errors(isles: Place) -> None:
    page = page_of(isles, "005")
    maths = next(one for one in page.timelines if one.about == "Maths")
    assert maths.unit == "z"
    days = [page.results[at].date for at in maths.results]
    assert days == sorted(days)
    first = result(page, "Maths, spring 2025")
    scores = 50.0 + np.arange(40)
    z = (55 - scores.mean()) / scores.std(ddof=1)
    assert first.standing == pytest.approx(z)
    assert first.standing_low == pytest.approx((52 - scores.mean()) / scores.std(ddof=1))
    fell = result(page, "Maths, spring 2026")
    assert fell.standing is not None
    assert fell.similar_low is not None
    assert fell.standing < fell.similar_low


def test_a_blank_says_why(isles: Place) -> None:
    absent = result(page_of(isles, "007"), "Maths, spring 2026")
    assert (absent.value, absent.why, absent.sign) == (None, "absent", "")


def test_a_single_result_is_a_hint_and_chance_is_named(isles: Place) -> None:
    said = page_of(isles, "005").says
    hint = next(one for one in said if one.kind == "hint")
    assert "behind what students who started alike reached" in hint.text
    assert "A single result is a hint." in hint.text
    assert said[-1].kind == "chance"
    assert said[-1].text == "Marked: 2 of 2 results; chance alone would give about 1."


def made(signs: str) -> tuple[list[Timeline], list[Result]]:
    """A subject whose sittings came out so: b behind, a ahead, n neither."""
    kinds = {"b": "behind", "a": "ahead", "n": "none"}
    results = [
        Result(label=f"Maths, {n}", about="Maths", sitting=str(n), date=dt.date(2020 + n, 5, 1),
               assessment="Quiz", score_name="", unit="", decimals=0, value=1.0, level="",
               tone=None, why="", expected=2.0, error=0.5, span=-1.0, sign=kinds[sign])
        for n, sign in enumerate(signs)
    ]  # fmt: skip
    line = Timeline(about="Maths", unit="z", results=list(range(len(signs))))
    return [line], results


@pytest.mark.parametrize(
    ("signs", "kind"),
    [("bbb", "finding"), ("nbbb", "finding"), ("bb", "hint"), ("babb", "hint"), ("bbbn", "plain"),
     ("aaa", "finding"), ("n", "plain")],
)  # fmt: skip
def test_three_in_a_row_are_a_finding_and_fewer_are_not(signs: str, kind: str) -> None:
    assert findings(*made(signs))[0].kind == kind


def test_of_students_of_whom_nothing_is_true_few_have_a_finding() -> None:
    """A thousand students whose spans are nothing but error: how many runs of three are claimed
    of four results each."""
    rng = np.random.default_rng(7)
    spans = rng.normal(size=(1000, 4))
    letters = np.select([spans < -1, spans > 1], ["b", "a"], "n")
    claimed = sum(findings(*made("".join(row)))[0].kind == "finding" for row in letters)
    # The last three on one side: 2 × .159³ = .008.
    assert claimed < 20


def test_the_weakest_strand_is_beside_others_on_the_same_questions(isles: Place) -> None:
    page = page_of(isles, "005")
    strands = page.strands[0]
    shape, number = strands.strands[0], strands.strands[1]
    assert (shape.strand, shape.questions, shape.won, shape.worth) == ("Shape", 2, 0, 2)
    assert shape.others == pytest.approx(1.0)
    assert shape.others_n == 39
    # Student 5 wins one of two in Number; of the others 20 win both and 19 one.
    assert number.share == 0.5
    assert number.others == pytest.approx((20 * 1 + 19 * 0.5) / 39)
    assert [one.text for one in page.next_steps] == ["Angles on a line"]


def test_next_steps_are_of_the_weakest_strand_alone(isles: Place) -> None:
    # All have both of Shape, so nobody else is weaker there; an odd number lies below in Number.
    assert [one.text for one in page_of(isles, "009").next_steps] == ["Place value"]
    assert page_of(isles, "008").next_steps == []


def test_notes_and_lists_are_those_that_the_asker_may_see(isles: Place) -> None:
    elm = actor_named(isles.engine, "elmlead")
    student = student_of_number(isles.engine, isles.settings, elm, "030")
    note_student(isles.engine, isles.settings, OPERATOR, student, "private")
    note_student(isles.engine, isles.settings, elm, student, "sits in front")
    question = read_question({
        "what": [{"assessment": "Quiz", "subject": "Maths"}], "show": "students",
    })  # fmt: skip
    keep_list(isles.engine, isles.settings, elm, "Elm's own", question)
    page = page_of(isles, "030", elm)
    assert [one.text for one in page.notes] == ["sits in front"]
    assert [one.name for one in page.lists] == ["Elm's own"]
    assert page_of(isles, "030").lists == []


def test_nobody_of_another_school_has_a_page(isles: Place) -> None:
    elm = actor_named(isles.engine, "elmlead")
    with pytest.raises(NotFound):
        page_of(isles, "005", elm)
    theirs = int(isles.snapshot.student_ids[5])
    with pytest.raises(NotFound):
        student_page(isles.engine, isles.settings, elm, theirs)


def test_figures_of_others_are_not_told_where_too_few_stand_behind_them(isles: Place) -> None:
    """Ash's twenty are behind the means of the year; a lead of Elm sees them as published."""
    whole = page_of(isles, "030")
    elm = page_of(isles, "030", actor_named(isles.engine, "elmlead"))
    mine, theirs = (result(page, "Maths, spring 2025") for page in (elm, whole))
    assert mine.standing == pytest.approx(theirs.standing)
    assert elm.strands[0].strands[0].others == whole.strands[0].strands[0].others


def test_opening_a_page_is_noted(isles: Place) -> None:
    page_of(isles, "012")
    student = int(isles.snapshot.student_ids[12])
    assert student == isles.scalar(
        "SELECT (detail->>'student')::int FROM audit WHERE action = 'open_student' "
        "ORDER BY id DESC LIMIT 1"
    )


def found(place: Place, text: str, actor: Actor = OPERATOR) -> list[Found]:
    return find(place.engine, place.settings, actor, text)


@pytest.mark.parametrize(
    ("text", "name"),
    [("zoe", "Zoë O'Ferran-Ågren"), ("oferran agren", "Zoë O'Ferran-Ågren"),
     ("Ferran", "Zoë O'Ferran-Ågren"), ("bjork", "Þóra Bjørk"), ("thora", "Þóra Bjørk"),
     ("marrabel", "Bo Marrable"), ("marable", "Bo Marrable"), ("005", "Bo Marrable"),
     ("bo marr", "Bo Marrable")],
)  # fmt: skip
def test_a_student_is_found_without_accents_and_with_slips(
    isles: Place, text: str, name: str
) -> None:
    assert found(isles, text)[0].label == name


def test_out_of_scope_is_not_found_and_the_last_opened_come_first(isles: Place) -> None:
    elm = actor_named(isles.engine, "elmlead")
    assert found(isles, "marrable", elm) == []
    page_of(isles, "033", elm)
    page_of(isles, "031", elm)
    assert [one.detail.split(",")[0] for one in found(isles, "", elm)][:2] == ["031", "033"]
    assert found(isles, "qqqq") == []


def test_with_names_hidden_no_output_holds_a_name_or_a_number(isles: Place) -> None:
    hidden = replace(OPERATOR, names_hidden=True)
    student = student_of_number(isles.engine, isles.settings, OPERATOR, "005")
    note_student(isles.engine, isles.settings, OPERATOR, student, "Bo Marrable moved")
    page = student_page(isles.engine, isles.settings, hidden, student)
    asked: dict[str, object] = {"what": [{"assessment": "Quiz", "subject": "Maths"}],
                                "show": "students", "columns": ["notes"]}  # fmt: skip
    answer = isles.ask(asked, hidden)
    for told in (page.model_dump_json(), answer.model_dump_json()):
        assert "Marrable" not in told
        assert '"005"' not in told
    assert [one.text for one in page.notes] == [HIDDEN_NOTE]
    assert found(isles, "marrable", hidden) == []
    # Nothing kept for the one is shown to the other.
    assert "Marrable" in isles.ask(asked).model_dump_json()
    assert [one.value for one in page.results] == [
        one.value for one in page_of(isles, "005").results
    ]
