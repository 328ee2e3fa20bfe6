"""Marks by strand: each strand is a part of the test, whatever the total beside it."""

from __future__ import annotations

import pytest
from tests.support import Place, roster

from bridge_chart.answers.what.parts import parts_of

HEAD = "Number,Test,Strand: Number (max 20),Algebra strand /10,Shape strand"
MARKS = HEAD + "\n01,Check,15,5,3\n02,Check,20,,6\n03,Check,10,0,0\n04,Check,abs,abs,abs\n"


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", roster([(f"0{n}", "Tarn", 8) for n in range(1, 5)]),
                academic_year="2025-26")  # fmt: skip
    return place


def values(place: Place, **measure: object) -> dict[str, float]:
    question = {"what": [{"assessment": "Check", **measure}], "show": "students"}
    columns = {c.key: c.values for c in place.ask(question).body.columns}
    return {n: v for n, v in zip(columns["number"], columns["score"], strict=True) if v is not None}


def test_strand_columns_are_known_by_their_names(tarn: Place) -> None:
    columns = tarn.look("results", MARKS).examination.columns
    assert [c.role for c in columns] == [
        "number", "test", "strand:Number", "strand:Algebra", "strand:Shape"
    ]  # fmt: skip


def test_each_strand_is_a_part_of_the_test(tarn: Place) -> None:
    plan = tarn.bring("results", MARKS)
    assert plan.examination.rows_kept == 4
    assert values(tarn, score="raw") == {"01": 23, "02": 26, "03": 10}
    number = {"part": {"kind": "strand", "is": "Number"}, "score": "percent"}
    assert values(tarn, **number) == {"01": 75, "02": 100, "03": 50}
    algebra = {"part": {"kind": "strand", "is": "Algebra"}, "score": "raw"}
    assert values(tarn, **algebra) == {"01": 5, "03": 0}
    # Without a maximum the best mark of all stands for it.
    shape = {"part": {"kind": "strand", "is": "Shape"}, "score": "percent"}
    assert values(tarn, **shape) == {"01": 50, "02": 100, "03": 0}


def test_a_strand_is_not_offered_as_a_question(tarn: Place) -> None:
    tarn.bring("results", MARKS)
    key = next(m for m in tarn.snapshot.measures if m.score == "raw")
    assert parts_of(tarn.snapshot, key, "question") == []
    assert parts_of(tarn.snapshot, key, "strand") == ["Number", "Algebra", "Shape"]


def test_a_total_of_its_own_stays(tarn: Place) -> None:
    text = "Number,Test,Mark,Number strand,Shape strand\n01,Check,30,15,5\n02,Check,28,14,9\n"
    tarn.bring("results", text)
    assert values(tarn, score="raw") == {"01": 30, "02": 28}


def test_marks_above_the_maximum_stop(tarn: Place) -> None:
    text = MARKS.replace("01,Check,15", "01,Check,21")
    found = {f.key: f for f in tarn.look("results", text).examination.findings}
    assert found["impossible_marks"].rows == [2]


def test_any_column_can_be_said_to_be_a_strand(tarn: Place) -> None:
    text = "Number,Test,Inference,Retrieval\n01,Check,4,5\n02,Check,3,9\n"
    said = {"Inference": "strand", "Retrieval": "strand:Finding facts"}
    tarn.bring("results", text, columns=said)
    assert values(tarn, part={"kind": "strand", "is": "Finding facts"}, score="raw") == {
        "01": 5, "02": 9
    }  # fmt: skip


def test_beside_questions_strands_are_not_counted_twice(tarn: Place) -> None:
    text = "Number,Test,Q1,Q2,Number strand\n01,Check,1,2,3\n02,Check,0,1,1\n"
    plan = tarn.bring("results", text)
    found = {f.key: f for f in plan.examination.findings}
    assert (found["strands_beside"].kind, found["strands_beside"].n) == ("ask", 1)
    assert values(tarn, score="raw") == {"01": 3, "02": 1}


def test_a_row_of_maxima_says_what_strands_are_worth(tarn: Place) -> None:
    text = "Number,Test,Number strand,Shape strand\nMaximum,,40,20\n01,Check,10,15\n02,Check,20,5\n"
    tarn.bring("results", text)
    part = {"part": {"kind": "strand", "is": "Number"}, "score": "percent"}
    assert values(tarn, **part) == {"01": 25, "02": 50}
