"""Wide sheets as people keep them: names in several lines, and hundreds of columns named alike."""

from __future__ import annotations

import pytest
from tests.support import Place

from bridge_chart.intake.examine.results import ResultsPlan
from bridge_chart.intake.keep.keep import Plan
from bridge_chart.intake.reading.heading_lines import joined
from bridge_chart.terms.errors import InvalidQuestion, UnreadableFile

PUPILS = [("001", "Ida"), ("002", "Bo"), ("003", "Cy")]


@pytest.fixture
def ash(place: Place) -> Place:
    rows = "".join(f"{n},{name},Ash,7\n" for n, name in PUPILS)
    place.bring("roster", "Number,Forename,School,Year\n" + rows, academic_year="2025-26")
    return place


def sheet(*heads: str, cells: str) -> str:
    return "\n".join([*heads, *(f"{n},{name},{cells}" for n, name in PUPILS)]) + "\n"


def about(plan: Plan) -> list[tuple[str, str, str, str]]:
    """Header, role, subject and sitting of each column of results."""
    return [
        (c.header, c.role, str(c.about.get("subject", "")), str(c.about.get("sitting", "")))
        for c in plan.examination.columns[2:]
    ]


@pytest.mark.parametrize(
    "heads",
    [
        [",,Maths,,,,English,,,", ",,Autumn,,Spring,,Autumn,,Spring,",
         "Number,Forename,raw,grade,raw,grade,raw,grade,raw,grade"],
        ["Number,Forename,Maths,,,,English,,,", ",,Autumn,,Spring,,Autumn,,Spring,",
         ",,raw,grade,raw,grade,raw,grade,raw,grade"],
        ["Tracker of year 7,,,,,,,,,", ",,Maths,,,,English,,,",
         ",,Autumn,,Spring,,Autumn,,Spring,",
         "Number,Forename,raw,grade,raw,grade,raw,grade,raw,grade"],
    ],
)  # fmt: skip
def test_names_in_three_lines_are_one_each(ash: Place, heads: list[str]) -> None:
    plan = ash.look("results", sheet(*heads, cells="1,A,2,B,3,C,4,D"), date="2025-10-01")
    assert about(plan)[:3] == [
        ("Maths Autumn raw", "score:raw", "Maths", "Autumn"),
        ("Maths Autumn grade", "score:grade", "Maths", "Autumn"),
        ("Maths Spring raw", "score:raw", "Maths", "Spring"),
    ]
    assert about(plan)[-1] == ("English Spring grade", "score:grade", "English", "Spring")
    assert plan.examination.rows_kept == 12


def test_names_over_four_lines() -> None:
    assert joined([["", "Y7", "", ""], ["", "Maths", "", ""], ["", "Aut", "", "Spr"],
                   ["No", "raw", "grade", "raw"]]) == [
        "No", "Y7 Maths Aut raw", "Y7 Maths Aut grade", "Y7 Maths Spr raw",
    ]  # fmt: skip


def test_topics_and_maxima_above_the_students_are_no_students(ash: Place) -> None:
    text = sheet("Number,Forename,Q1,Q2,Q3", ",Topic,Fractions,Angles,Angles", ",Max,2,3,1",
                 cells="2,1,0")  # fmt: skip
    plan = ash.bring("results", text, test="Quiz", sitting="autumn", date="2025-10-01")
    assert plan.examination.rows_kept == 3
    assert plan.aside == {}
    told = ash.snapshot.tables.questions("Quiz", None, "autumn", None)
    assert [(q.name, q.maximum, q.tags) for q in told.values()] == [
        ("Q1", 2, {"topic": "Fractions"}), ("Q2", 3, {"topic": "Angles"}),
        ("Q3", 1, {"topic": "Angles"}),
    ]  # fmt: skip


def test_lines_are_what_a_person_points_at(ash: Place) -> None:
    text = sheet("Paper 1,,,,", ",,2,3,1", ",,Fractions,Angles,Angles", "Nr,Elev,Q1,Q2,Q3",
                 cells="2,1,0")  # fmt: skip
    lines = {"1": "left_out", "2": "maximum", "3": "topic", "4": "names"}
    said = {"reading": {"lines": lines}, "columns": {"Nr": "number"}, "test": "Quiz",
            "sitting": "autumn", "date": "2025-10-01"}  # fmt: skip
    plan = ash.look("results", text, **said)
    assert isinstance(plan, ResultsPlan)
    assert plan.examination.rows_kept == 3
    assert plan.grid is not None
    assert (plan.grid.maxima, plan.grid.topics) == ((2, 3, 1), ("Fractions", "Angles", "Angles"))
    with pytest.raises(UnreadableFile, match="no filled line 99"):
        ash.look("results", text, reading={"lines": {"99": "names"}})


def test_a_line_of_maxima_over_subjects_is_no_student_either(ash: Place) -> None:
    text = sheet("Number,Forename,Maths,English", ",Out of,80,60", cells="70,55")
    plan = ash.look("results", text, test="Mock", sitting="autumn", date="2025-10-01")
    assert plan.examination.rows_kept == 6
    assert plan.aside == {}
    assert {f.key: f.rows for f in plan.examination.findings}["maxima"] == [2]


def tracker() -> tuple[str, int]:
    """A tracker of 300 columns: 10 subjects, 6 half terms, 5 kinds."""
    heads = [
        f"{subject} {year}.{half} {kind}"
        for subject in ("Ma", "En", "Sc", "Hi", "Ge", "Fr", "Ar", "Mu", "Dr", "Co")
        for year in (8, 9) for half in (1, 2, 3)
        for kind in ("CA", "Pred", "Target", "Eff", "%")
    ]  # fmt: skip
    cells = ",".join(["4,5,6,A,71"] * (len(heads) // 5))
    return sheet("Number,Forename," + ",".join(heads), cells=cells), len(heads)


def test_three_hundred_columns_are_said_at_once(ash: Place) -> None:
    text, n = tracker()
    assert n == 300
    said = {"pattern": "{subject} {sitting} {kind}", "test": "Tracker", "date": "2025-10-01",
            "kinds": {"CA": "score:grade", "Pred": "predicted", "eff": "ignore"}}  # fmt: skip
    plan = ash.look("results", text, **said)
    columns = plan.examination.columns[2:]
    roles = [c.role for c in columns[:5]]
    assert roles == ["score:grade", "predicted", "target", "ignore", "score:percent"]
    assert {c.about.get("subject") for c in columns if c.role != "ignore"} == {
        "Ma", "En", "Sc", "Hi", "Ge", "Fr", "Ar", "Mu", "Dr", "Co",
    }  # fmt: skip
    assert plan.examination.rows_kept == 3 * 60
    assert isinstance(plan, ResultsPlan)
    assert len(plan.sittings) == 60


def test_a_word_that_nobody_knows_is_left_out_and_named(ash: Place) -> None:
    text, _ = tracker()
    plan = ash.look("results", text, pattern="{subject} {sitting} {kind}", test="T",
                    date="2025-10-01")  # fmt: skip
    unknown = {c.word for c in plan.examination.columns if c.word and c.role == "ignore"}
    assert unknown == {"CA", "Pred", "Eff"}
    assert {one.why for one in plan.examination.left_out} == {
        f"“{word}” is no kind of score that is known" for word in unknown
    }


def test_a_date_in_the_pattern_dates_each_sitting(ash: Place) -> None:
    text = sheet("Number,Forename,Maths (3/10/2025) mark,Maths (19/1/2026) mark", cells="4,5")
    plan = ash.look("results", text, pattern="{subject} ({date}) {kind}", test="Quiz")
    assert isinstance(plan, ResultsPlan)
    assert [(s.name, str(s.date)) for s in plan.sittings] == [
        ("2025-10-03", "2025-10-03"), ("2026-01-19", "2026-01-19"),
    ]  # fmt: skip


@pytest.mark.parametrize("pattern", ["{subject} {subject}", "{colour}", "no fields"])
def test_a_pattern_that_cannot_be_is_refused(ash: Place, pattern: str) -> None:
    with pytest.raises(InvalidQuestion, match="no pattern"):
        ash.look("results", "Number,Maths\n001,4\n", pattern=pattern)


def test_a_pattern_that_fits_no_column_is_refused(ash: Place) -> None:
    with pytest.raises(InvalidQuestion, match="is called like"):
        ash.look("results", "Number,Maths\n001,4\n", pattern="{subject}: {kind}")
