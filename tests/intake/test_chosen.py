"""Letters, keys and texts of a test come in whole: wide and in rows, damaged files with what must
come out."""

from __future__ import annotations

import numpy as np
import pytest
from tests.support import Place, roster

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.intake.keep.keep import change_standing
from bridge_chart.store.snapshot import MarkedForm, MeasureKey
from bridge_chart.terms.errors import BridgeError

STUDENTS = [(f"{n:03}", "Fell School", 8) for n in range(1, 13)]
SAID = {"test": "Check", "sitting": "autumn", "date": "2025-11-12"}
WIDE = """Number,Q1,Q2,Q3,Q2 explanation
Key,B,C,,
Maximum,1,2,3,
001,B,c,3,It is half of it
002,A,C,0,
003,b,,2,It is half of it!
004,,D,1,"<b>half</b> =1+1"
"""


@pytest.fixture
def fell(place: Place) -> Place:
    place.bring("roster", roster(STUDENTS))
    return place


def form_of(place: Place) -> tuple[MeasureKey, MarkedForm]:
    snapshot = place.snapshot
    key = next(m for m in snapshot.measures if m.score == "raw")
    (form,) = snapshot.marked_forms(key.sitting.id)
    return key, form


def totals(place: Place) -> dict[str, float]:
    snapshot = place.snapshot
    values = snapshot.values(form_of(place)[0])
    return {
        str(snapshot.numbers[at]): float(values[at]) for at in np.flatnonzero(~np.isnan(values))
    }


def findings(place: Place, text: str) -> dict[str, str]:
    plan = place.look("results", text, **SAID)
    return {one.key: f"{one.title}. {one.detail}" for one in plan.examination.findings}


def test_letters_are_marked_by_the_key_of_their_file(fell: Place) -> None:
    fell.bring("results", WIDE, **SAID)
    assert totals(fell) == {"001": 6.0, "002": 2.0, "003": 3.0, "004": 1.0}
    _, form = form_of(fell)
    assert form.questions == ("Q1", "Q2", "Q3")
    assert np.asarray(form.marks).tolist() == [[1, 2, 3], [0, 2, 0], [1, -1, 2], [-1, 0, 1]]
    assert form.options == ("A", "B", "C", "D")
    assert form.choices is not None
    assert np.asarray(form.choices)[:, 0].tolist() == [1, 0, 1, -1]
    written = form.written
    assert written is not None
    assert [written.text(n) for n in range(3)] == [
        "It is half of it", "It is half of it!", "<b>half</b> =1+1",
    ]  # fmt: skip


def test_a_key_that_is_corrected_moves_every_mark_and_undo_moves_them_back(fell: Place) -> None:
    fell.bring("results", WIDE, **SAID)
    before = fell.snapshot.version
    fell.bring("questions", "Test,Sitting,Question,Key\nCheck,autumn,Q1,A\n")
    assert totals(fell) == {"001": 5.0, "002": 3.0, "003": 2.0, "004": 1.0}
    fell.bring("questions", "Test,Sitting,Question,Key\nCheck,autumn,Q1,A|B\n")
    assert totals(fell) == {"001": 6.0, "002": 3.0, "003": 3.0, "004": 1.0}
    batch = int(str(fell.scalar("SELECT max(id) FROM batch")))
    change_standing(fell.engine, fell.settings, OPERATOR, batch, "undone")
    assert totals(fell) == {"001": 5.0, "002": 3.0, "003": 2.0, "004": 1.0}
    answer = fell.ask(
        {"what": [{"assessment": "Check"}], "who": {"as_of": "today"}, "version": before}
    )
    assert answer.coverage[0].counted == 4


def test_what_a_new_key_moves_is_told_before_it_is_kept(fell: Place) -> None:
    fell.bring("results", WIDE, **SAID)
    plan = fell.look("questions", "Test,Sitting,Question,Key\nCheck,autumn,Q1,A\n")
    (moved,) = [one for one in plan.examination.findings if one.key == "marks_moved"]
    assert moved.title == "3 marks of kept answers move"
    assert "1 gain, 2 lose" in moved.detail
    same = fell.look("questions", "Test,Sitting,Question,Key\nCheck,autumn,Q1,b\n")
    assert not [one for one in same.examination.findings if one.key == "marks_moved"]


def test_answers_in_rows_become_the_same_sheet(fell: Place) -> None:
    rows = ["Number,Question,Option,Mark,Explanation"]
    rows += ["001,Q1,B,,", "001,Q2,c,,It is half of it", "001,Q3,,3,"]
    rows += ["002,Q1,A,,", "002,Q2,C,,", "002,Q3,,0,", "003,Q1,b,,", "003,Q3,,2,"]
    rows += ["003,Q2,,,It is half of it!", "004,Q2,D,,<b>half</b> =1+1", "004,Q3,,1,"]
    keys = "Test,Question,Key,Maximum\nCheck,Q1,B,1\nCheck,Q2,C,2\nCheck,Q3,,3\n"
    fell.bring("questions", keys)
    fell.bring("results", "\n".join(rows) + "\n", **SAID)
    assert totals(fell) == {"001": 6.0, "002": 2.0, "003": 3.0, "004": 1.0}
    _, form = form_of(fell)
    order = [form.questions.index(name) for name in ("Q1", "Q2", "Q3")]
    marks = np.asarray(form.marks)[:, order]
    assert marks.tolist() == [[1, 2, 3], [0, 2, 0], [1, -1, 2], [-1, 0, 1]]
    assert form.written is not None
    assert len(form.written.at) == 3


def test_what_was_written_alone_changes_no_mark(fell: Place) -> None:
    fell.bring("results", WIDE, **SAID)
    before = totals(fell)
    text = "Number,Question,What they wrote\n001,Q3,Because\n005,Q3,I was not there\n"
    fell.bring("results", text, "more.csv", **SAID)
    assert totals(fell) == before
    _, form = form_of(fell)
    assert form.written is not None
    held = zip(form.written.at, form.written.question, strict=True)
    assert [(int(at), int(q)) for at, q in held][:2] == [(0, 1), (0, 2)]


def test_two_papers_in_two_files_add_up(fell: Place) -> None:
    said = {**SAID}
    fell.bring("results", "Number,Q1,Q2\n001,1,1\n002,0,1\n003,1,0\n", "one.csv", **said)
    fell.bring("results", "Number,Q3,Q4\n001,1,0\n002,1,1\n", "two.csv", **said)
    assert totals(fell) == {"001": 3.0, "002": 3.0, "003": 1.0}
    _, form = form_of(fell)
    assert np.asarray(form.marks).tolist() == [[1, 1, 1, 0], [0, 1, 1, 1], [1, 0, -2, -2]]


def test_the_best_of_questions_to_choose_from_count(fell: Place) -> None:
    table = "Test,Question,Choose from,Best\nCheck,Q1,,\nCheck,Q2,B,2\nCheck,Q3,B,2\nCheck,Q4,B,2\n"
    fell.bring("questions", table)
    fell.bring("results", "Number,Q1,Q2,Q3,Q4\n001,1,3,5,2\n002,2,,4,\n003,,1,1,1\n", **SAID)
    assert totals(fell) == {"001": 9.0, "002": 6.0, "003": 2.0}


def test_unknown_letters_and_questions_without_a_key_are_told(fell: Place) -> None:
    told = "Test,Question,Key,Options\nCheck,Q1,B,A: one | B: two | C: three\n"
    fell.bring("questions", told)
    text = "Number,Q1,Q2\n001,B,A\n002,E,B\n003,AB,A\n004,C,*\n"
    found = findings(fell, text)
    assert "Q1: E" in found["unknown_options"]
    assert "Q1: AB" in found["unknown_options"]
    assert "Q2: *" in found["unknown_options"]
    assert "Q2" in found["no_key"]
    fell.bring("results", text, **SAID)
    assert totals(fell) == {"001": 1.0, "002": 0.0, "003": 0.0, "004": 0.0}
    _, form = form_of(fell)
    assert (np.asarray(form.marks)[:, 1] == -2).all()
    fell.bring("questions", "Test,Question,Key\nCheck,Q2,A\n")
    assert totals(fell) == {"001": 2.0, "002": 0.0, "003": 1.0, "004": 0.0}


def test_two_different_answers_to_one_question_stop(fell: Place) -> None:
    text = "Number,Question,Option\n001,Q1,A\n001,Q1,B\n002,Q1,B\n002,Q1,B\n"
    found = findings(fell, text)
    assert "2 rows with two answers to one question" in found["two_answers"]
    with pytest.raises(BridgeError):
        fell.bring("results", text, **SAID)
    fell.bring("questions", "Test,Question,Key\nCheck,Q1,B\n")
    fell.bring("results", text, **SAID, decisions={"two_answers": "first"})
    assert totals(fell) == {"001": 0.0, "002": 1.0}


def test_a_key_that_nobody_chose_is_told(fell: Place) -> None:
    assert "The key says E" in findings(fell, "Number,Q1\nKey,E\n001,A\n002,B\n")["key_of:Q1"]


def test_marks_above_the_maximum_stop_beside_letters(fell: Place) -> None:
    found = findings(fell, "Number,Q1,Q2\nMaximum,1,2\nKey,A,\n001,A,3\n002,B,2\n003,A,1\n")
    assert "Q2: 3" in found["impossible_marks"]


def test_a_long_text_is_kept_and_a_longer_one_is_cut_and_told(fell: Place) -> None:
    text = "Number,Q1,Q1 explanation\nKey,A,\n001,A," + "x" * 10_000 + "\n002,B," + "y" * 20_001
    assert "1 text on Q1 cut" in findings(fell, text + "\n")["long_text:Q1"]
    fell.bring("results", text + "\n", **SAID)
    _, form = form_of(fell)
    assert form.written is not None
    assert [len(form.written.text(n)) for n in (0, 1)] == [10_000, 20_000]
