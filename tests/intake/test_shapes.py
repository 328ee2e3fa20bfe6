"""Grades, targets, forms, marks by question and tables of reference, from file to answer."""

from __future__ import annotations

import pytest
from tests.support import Place, roster

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.answers.beside.catalogue import catalogue
from bridge_chart.intake.keep.keep import change_standing
from bridge_chart.terms.errors import NotFound, UnreadableFile

PUPILS = roster([(f"{n:03d}", "Tarn", 8) for n in range(1, 31)])
SCALE = "Test,Score,Step,Points,Pass,Synonyms\n" + "".join(
    f"Finals,grade,{name},{n},{'yes' if n > 1 else 'no'},{also}\n"
    for n, (name, also) in enumerate([("U", ""), ("B", ""), ("A", ""), ("A*", "A star|A+")])
)


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", PUPILS, academic_year="2025-26")
    return place


def graded(cells: list[str]) -> str:
    lines = [f"{n:03d},{cell}" for n, cell in enumerate(cells, start=1)]
    return "\n".join(["No,Grade", *lines]) + "\n"


def grid(rows: list[str], heads: str = "No,Form,Q1,Question 2,3") -> str:
    return "\n".join([heads, *rows]) + "\n"


def test_grades_with_a_scale_read_its_order_and_synonyms(tarn: Place) -> None:
    tarn.bring("scale", SCALE, name="scale.csv")
    cells = ["A", "a star", "A +", "B", "U", ""] * 2 + ["abs"]
    plan = tarn.bring("results", graded(cells), name="Finals.csv")
    assert plan.examination.rows_set_aside == 0
    shown = tarn.ask({"what": [{"assessment": "Finals"}], "show": "levels"}).body
    assert [s.name for s in shown.steps] == ["U", "B", "A", "A*"]
    assert shown.rows[0].counts == [2, 2, 2, 4]
    answer = tarn.ask({"what": [{"assessment": "Finals"}]})
    assert answer.body.rows[0].mean == pytest.approx((0 + 1 + 2 + 3 + 3) / 5)
    assert {m.reason: m.n for m in answer.coverage[0].missing} == {
        "no_row": 17,
        "absent": 1,
        "not_sat": 2,
    }


def test_a_grade_that_the_scale_lacks_is_set_aside(tarn: Place) -> None:
    tarn.bring("scale", SCALE, name="scale.csv")
    text = "No,Grade\n001,A\n002,Z\n003,B\n"
    plan = tarn.look("results", text, name="Finals.csv")
    finding = next(f for f in plan.examination.findings if f.key == "unknown_grade")
    assert (finding.kind, finding.rows) == ("stop", [3])
    assert "the scale has U, B, A, A*" in finding.detail
    assert tarn.bring("results", text, name="Finals.csv").examination.rows_set_aside == 1


def test_without_a_scale_letters_are_grades_and_the_order_is_said(tarn: Place) -> None:
    plan = tarn.bring("results", graded(["A", "E", "A*", "X", "B"] * 3), name="Finals.csv")
    order = next(f for f in plan.examination.findings if f.key == "grade_order")
    assert "From lowest: E, B, A, A*" in order.detail
    shown = tarn.ask({"what": [{"assessment": "Finals"}], "show": "levels"})
    assert shown.body.rows[0].counts == [3, 3, 3, 3]
    assert "No pass line is declared" in shown.readings[0].text
    offered = catalogue(tarn.engine, tarn.settings, OPERATOR).measures[0]
    assert (offered.has_figures, offered.has_prior) == (False, False)


def test_a_scale_that_comes_later_reorders_what_is_kept(tarn: Place) -> None:
    tarn.bring("results", graded(["A", "U", "A*", "B", "B"] * 3), name="Finals.csv")
    before = tarn.ask({"what": [{"assessment": "Finals"}], "show": "levels"})
    tarn.bring("scale", SCALE, name="scale.csv")
    after = tarn.ask({"what": [{"assessment": "Finals"}], "show": "levels"})
    assert [s.name for s in after.body.steps] == ["U", "B", "A", "A*"]
    assert after.body.rows[0].counts == [3, 6, 3, 3]
    assert (before.body.pass_at, after.body.pass_at) == (None, 2)
    old = tarn.ask({"what": [{"assessment": "Finals"}], "show": "levels",
                    "version": before.resolved.version})  # fmt: skip
    assert old.body == before.body


def test_targets_and_predictions_stand_beside_the_outcome(tarn: Place) -> None:
    tarn.bring("scale", SCALE, name="scale.csv")
    text = (
        "No,Grade,Predicted grade,Floor target,Stretch target\n"
        "001,A,A*,B,A\n002,B,B,B,A\n003,abs,A,A,A*\n004,U,,B,\n"
    )
    tarn.bring("results", text, name="Finals.csv")
    finals = {"assessment": "Finals"}
    found = {}
    for kind in ("floor", "stretch"):
        answer = tarn.ask({"what": [finals], "against": {"target": {"kind": kind}},
                           "show": "students"})  # fmt: skip
        columns = {c.key: c.values for c in answer.body.columns}
        found[kind] = dict(zip(columns["number"], columns["span"], strict=True))
    assert found["floor"] == {"001": 1.0, "002": 0.0, "003": None, "004": -1.0}
    assert found["stretch"] == {"001": 0.0, "002": -1.0, "003": None, "004": None}
    answer = tarn.ask({"what": [finals], "against": {"predicted": {}}})
    reasons = {m.label: m.n for m in answer.coverage[0].missing}
    assert reasons == {"absent": 1, "no prediction": 1}


@pytest.mark.parametrize(
    ("header", "role"),
    [
        ("Mock grade", "score:grade"),
        ("Grade", "score:grade"),
        ("Predicted grade", "predicted"),
        ("Aspirational target grade", "target"),
        ("Target", "target"),
        ("Q7", "question"),
        ("Colour", "ignore"),
    ],
)
def test_columns_of_grades_and_claims_are_known_by_name(
    tarn: Place, header: str, role: str
) -> None:
    text = f"No,{header},Score\n001,A,5\n002,B,6\n"
    columns = tarn.look("results", text, name="Finals.csv").examination.columns
    assert columns[1].role == role


def test_targets_alone_do_not_take_results_away(tarn: Place) -> None:
    tarn.bring("scale", SCALE, name="scale.csv")
    said = {"test": "Finals", "sitting": "June", "date": "2026-06-01"}
    tarn.bring("results", "No,Grade\n001,A\n002,B\n", name="grades.csv", **said)
    tarn.bring("results", "No,Target\n001,A*\n002,B\n003,A\n", name="targets.csv", **said)
    answer = tarn.ask({"what": [{"assessment": "Finals"}], "against": {"target": {"kind": ""}},
                       "show": "students"})  # fmt: skip
    columns = {c.key: c.values for c in answer.body.columns}
    spans = dict(zip(columns["number"], columns["span"], strict=True))
    assert spans == {"001": -1.0, "002": 0.0, "003": None}


def test_a_grid_of_marks_with_its_maxima_and_forms(tarn: Place) -> None:
    rows = ["Maximum,,1,2,5", "001,A,1,2,5", "002,A,0,,3", "003,B,1,1,0", "004,B,,,"]
    plan = tarn.bring("results", grid(rows), name="Quiz.csv")
    assert (plan.examination.rows_kept, plan.examination.rows_set_aside) == (4, 0)
    assert "maxima" in [f.key for f in plan.examination.findings]
    quiz = {"assessment": "Quiz"}
    total = tarn.ask({"what": [quiz], "show": "students"}).body
    columns = {c.key: c.values for c in total.columns}
    assert dict(zip(columns["number"], columns["score"], strict=True)) | {"004": None} == {
        "001": 8.0, "002": 3.0, "003": 2.0, "004": None, **{
            n: None for n in columns["number"] if n > "004"}
    }  # fmt: skip
    form = tarn.ask({"what": [{**quiz, "form": "A"}]}).coverage[0]
    assert (form.counted, form.population) == (2, 2)
    part = {"part": {"kind": "question", "is": "Q3"}}
    question = tarn.ask({"what": [{**quiz, **part}], "show": "students"}).body
    shares = {c.key: c.values for c in question.columns}
    told = dict(zip(shares["number"], shares["score"], strict=True))
    assert (told["001"], told["002"], told["003"]) == (100.0, 60.0, 0.0)


def test_strands_come_with_the_question_table(tarn: Place) -> None:
    rows = ["Maximum,,1,2,5", *[f"{n:03d},A,1,1,{n % 6}" for n in range(1, 31)]]
    tarn.bring("results", grid(rows), name="Quiz.csv")
    table = "Test,Question,Strand\nQuiz,Q1,Number\nQuiz,Q2,Number\nQuiz,Q3,Shape\n"
    tarn.bring("questions", table, name="questions.csv")
    strand = {"assessment": "Quiz", "part": {"kind": "strand", "is": "each"}}
    found = {r.label: r for r in tarn.ask({"what": [strand], "show": "table"}).body.rows}
    assert found["Number"].mean == pytest.approx(100 * 2 / 3)
    assert found["Shape"].mean == pytest.approx(100 * sum(n % 6 for n in range(1, 31)) / 30 / 5)


def test_marks_that_cannot_be_are_set_aside(tarn: Place) -> None:
    rows = ["Maximum,,1,2,5", "001,A,1,3,5", "002,A,0.5,1,1", "003,A,1,2,5", "004,A,x,2,abs"]
    plan = tarn.bring("results", grid(rows), name="Quiz.csv")
    finding = next(f for f in plan.examination.findings if f.key == "impossible_marks")
    assert finding.rows == [3, 4]
    assert plan.examination.rows_kept == 2


def test_national_figures_need_their_columns_and_known_statistics(place: Place) -> None:
    with pytest.raises(UnreadableFile, match="must have a column with the statistic"):
        place.look("national", "Test,Score,Value\nQuiz,raw,3\n")
    text = (
        "Test,Year level,Score,Statistic,Of,Value\n"
        "Quiz,8,raw,mean,,4\nQuiz,8,raw,median,,4\nQuiz,8,furlongs,mean,,4\n"
        "Quiz,8,raw,mean,,5\n,8,raw,sd,,1\nQuiz,8,raw,n,,x\n"
    )
    plan = place.look("national", text, name="nation.csv")
    stops = {f.key: f.rows for f in plan.examination.findings if f.kind == "stop"}
    assert stops == {"no_test": [6], "no_value": [7], "unknown_statistic": [3],
                     "unknown_score": [4], "doubled": [2, 5]}  # fmt: skip
    shown = plan.examination
    assert (shown.rows_kept, shown.rows_set_aside, shown.rows_in_file) == (0, 6, 6)
    with pytest.raises(UnreadableFile, match="No row"):
        place.bring("national", text, name="nation.csv")


def test_a_table_can_be_undone(tarn: Place) -> None:
    tarn.bring("results", "No,Score\n" + "".join(f"{n:03d},{n}\n" for n in range(1, 31)),
               name="Quiz.csv")  # fmt: skip
    tarn.bring("national", "Test,Score,Statistic,Of,Value\nQuiz,raw,mean,,10\n", name="nation.csv")
    asked = {"what": [{"assessment": "Quiz"}], "against": {"nation": {}}}
    assert tarn.ask(asked).body.rows[0].span == pytest.approx(5.5)
    batch = int(str(tarn.scalar("SELECT max(id) FROM batch")))
    change_standing(tarn.engine, tarn.settings, OPERATOR, batch, "undone")
    with pytest.raises(NotFound, match="no national figures"):
        tarn.ask(asked)
