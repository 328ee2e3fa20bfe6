"""Wide sheets: a column per subject, test or sitting, read as a row per result."""

from __future__ import annotations

import pytest
from tests.support import Place, roster

from bridge_chart.intake.examine.results import ResultsPlan

PUPILS = roster([(f"{n:03d}", "Tarn", 8) for n in range(1, 21)])


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", PUPILS, academic_year="2025-26")
    return place


def wide(heads: str, cells: list[str]) -> str:
    return "\n".join([heads, *(f"{n:03d},{row}" for n, row in enumerate(cells, 1))]) + "\n"


def results_of(plan: object) -> ResultsPlan:
    assert isinstance(plan, ResultsPlan)
    return plan


def test_a_column_per_subject_becomes_a_sitting_each(tarn: Place) -> None:
    text = wide("No,Maths mark,Reading mark", [f"{40 + n},{60 + n}" for n in range(20)])
    plan = results_of(tarn.bring("results", text, name="Spring check.csv", sitting="spring 2026"))
    assert [(s.test, s.subject) for s in plan.sittings] == [
        ("Spring check", "Maths"),
        ("Spring check", "Reading"),
    ]
    assert plan.examination.lines_in_file == 20
    assert (plan.examination.rows_in_file, plan.examination.rows_kept) == (40, 40)
    for subject, mean in (("Maths", 49.5), ("Reading", 69.5)):
        answer = tarn.ask({"what": [{"assessment": "Spring check", "subject": subject}]})
        assert answer.body.rows[0].mean == pytest.approx(mean)
        assert answer.body.rows[0].n == 20
    # Each result names the file's own column.
    assert tarn.scalar('SELECT array_agg(DISTINCT "column" ORDER BY "column") FROM result') == [
        1,
        2,
    ]


def test_blank_cells_are_no_results_unless_a_person_says_so(tarn: Place) -> None:
    text = wide("No,Art grade,Music grade", ["A,", ",B", "B,A"] + ["A,A"] * 17)
    plan = results_of(tarn.look("results", text))
    blank = next(f for f in plan.examination.findings if f.key == "blank_cells")
    assert (blank.kind, blank.n, blank.chosen) == ("ask", 2, "leave")
    assert plan.examination.rows_kept == 38
    said = tarn.look("results", text, decisions={"blank_cells": "not_sat"})
    assert said.examination.rows_kept == 40


def test_grades_targets_and_predictions_beside_each_other(tarn: Place) -> None:
    heads = "No,Maths grade,Maths predicted,Maths floor target,Art grade,Art predicted"
    text = wide(heads, ["A,B,B,C,C", "B,B,A,A,A"] * 10)
    plan = results_of(tarn.bring("results", text, name="Finals.csv"))
    told = {c.header: (c.role, c.about.get("subject")) for c in plan.examination.columns}
    assert told["Maths floor target"] == ("target:floor", "Maths")
    assert told["Art predicted"] == ("predicted", "Art")
    assert sorted((c.role, c.kind) for c in plan.claims) == [("predicted", ""), ("target", "floor")]
    query = (
        "SELECT count(*) FROM claim JOIN sitting ON sitting.id = sitting_id "
        "JOIN subject ON subject.id = subject_id WHERE subject.name = "
    )
    assert tarn.scalar(query + "'Art'") == 20
    assert tarn.scalar(query + "'Maths'") == 40


def test_two_lines_of_names_with_merged_subjects(tarn: Place) -> None:
    rows = [f"{n:03d},{n},B,{n + 1},A" for n in range(1, 21)]
    text = "\n".join([",Maths,,Reading,", "No,mark,grade,mark,grade", *rows]) + "\n"
    plan = results_of(tarn.look("results", text, name="Check.csv"))
    assert {s.subject for s in plan.sittings} == {"Maths", "Reading"}
    assert set(plan.columns) == {"raw", "grade"}
    assert plan.examination.rows_kept == 40


def test_a_column_per_sitting_of_one_test(tarn: Place) -> None:
    text = wide("No,Autumn 2025 score,Spring 2026 score", [f"{n},{n + 2}" for n in range(1, 21)])
    plan = results_of(tarn.look("results", text, name="Times tables.csv"))
    assert [(s.test, s.subject, s.name) for s in plan.sittings] == [
        ("Times tables", "", "Autumn 2025"),
        ("Times tables", "", "Spring 2026"),
    ]


def test_what_a_column_is_about_can_be_said(tarn: Place) -> None:
    text = wide("No,Paper 1,Paper 2", [f"{n},{n}" for n in range(1, 21)])
    plan = results_of(
        tarn.look(
            "results", text, name="Check.csv",
            columns={"Paper 1": "score:raw", "Paper 2": "score:raw"},
            about={"Paper 1": {"subject": "Physics"}, "Paper 2": {"subject": "Chemistry"}},
        )
    )  # fmt: skip
    assert {s.subject for s in plan.sittings} == {"Physics", "Chemistry"}


def test_a_row_set_aside_is_counted_per_result_and_named_by_its_line(tarn: Place) -> None:
    text = wide("No,Maths mark,Reading mark", [f"{n},{n}" for n in range(1, 21)])
    text += "999,5,6\n"
    plan = results_of(tarn.bring("results", text, name="Check.csv"))
    finding = next(f for f in plan.examination.findings if f.key == "no_student")
    assert (finding.n, finding.rows) == (2, [22])
    assert plan.examination.rows_set_aside == 2
    assert tarn.scalar("SELECT array_agg(row) FROM set_aside") == [22, 22]


def test_a_long_file_stays_long(tarn: Place) -> None:
    text = "No,Subject,Mark\n001,Maths,5\n001,Reading,6\n"
    plan = results_of(tarn.look("results", text, name="Check.csv"))
    assert plan.examination.rows_in_file == plan.examination.lines_in_file == 2
    assert {s.subject for s in plan.sittings} == {"Maths", "Reading"}
