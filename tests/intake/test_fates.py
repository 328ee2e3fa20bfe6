"""No column, row or cell is lost without a word: what is read in one way only is read so, and what
is open is asked or said."""

from __future__ import annotations

import math

import numpy as np
import pytest
from tests.intake.test_keeping import undo
from tests.support import Place

from bridge_chart.intake.examine.results import ResultsPlan
from bridge_chart.intake.keep.keep import Plan
from bridge_chart.terms.errors import InvalidQuestion, UnreadableFile


@pytest.fixture
def ten(place: Place) -> Place:
    rows = [f"{n:03d},A,8" for n in range(10)]
    place.bring("roster", "\n".join(["Number,School,Year", *rows]) + "\n", academic_year="2025-26")
    return place


def sheet(head: str, rows: list[str], sep: str = ";") -> str:
    return "\n".join([f"Number{sep}{head}", *(f"{n:03d}{sep}{r}" for n, r in enumerate(rows))])


def values(place: Place, name: str, score: str = "scaled") -> list[float]:
    found = [m for m in place.snapshot.measures if m.about == name and m.score == score]
    (measure,) = found
    return [float(v) for v in place.snapshot.values(measure) if not math.isnan(v)]


def found(plan: Plan) -> dict[str, str]:
    return {f.key: f.kind for f in plan.examination.findings}


class TestDecimals:
    def test_a_nought_before_the_comma_is_no_thousands(self, ten: Place) -> None:
        plan = ten.bring("results", sheet("Test;Scaled score;Date",
                         ["Quiz;0,679;2026-05-01", "Quiz;1,250;2026-05-01"]))  # fmt: skip
        assert values(ten, "Quiz") == [0.679, 1.25]
        assert not [key for key in found(plan) if key.startswith("number_style")]

    def test_each_column_has_its_own_way(self, ten: Place) -> None:
        text = sheet("Maths scaled;Art scaled", ["1,234;0.371", "1,500;0.402"])
        plan = ten.look("results", text, test="Quiz", date="2026-05-01")
        assert found(plan)["number_style_scaled:Maths scaled"] == "ask"
        ten.bring("results", text, test="Quiz", date="2026-05-01",
                  decisions={"number_style_scaled:Maths scaled": "comma"})  # fmt: skip
        assert values(ten, "Maths") == [1.234, 1.5]
        assert values(ten, "Art") == [0.371, 0.402]

    def test_a_column_in_doubt_is_taken_as_the_others_write(self, ten: Place) -> None:
        text = sheet("Maths scaled;Art scaled", ["1,234;0,371", "1,500;0,402"])
        plan = ten.bring("results", text, test="Quiz", date="2026-05-01")
        assert found(plan)["number_style_scaled:Maths scaled"] == "ask"
        assert values(ten, "Maths") == [1.234, 1.5]

    def test_the_range_of_what_is_kept_settles_it(self, ten: Place) -> None:
        ten.bring("results", sheet("Test;Scaled score", ["Survey;312", "Survey;455.5"]),
                  sitting="autumn", date="2025-10-01")  # fmt: skip
        later = sheet("Test;Scaled score", ["Survey;318,250", "Survey;402,125"])
        plan = ten.bring("results", later,
                         sitting="spring", date="2026-03-01")  # fmt: skip
        assert not [key for key in found(plan) if key.startswith("number_style")]
        spring = next(m for m in ten.snapshot.measures if m.sitting.name == "spring")
        held = ten.snapshot.values(spring)
        np.testing.assert_array_equal(held[~np.isnan(held)], [318.25, 402.125])

    def test_large_figures_keep_their_thousands(self, ten: Place) -> None:
        ten.bring("results", sheet("Test;Scaled score", ["Quiz;1,234", "Quiz;12,345,678"]),
                  date="2026-05-01")  # fmt: skip
        assert values(ten, "Quiz") == [1234.0, 12345678.0]


class TestClaims:
    def test_grades_beside_a_mark_are_kept(self, ten: Place) -> None:
        text = sheet(
            "Test;Mark;Predicted grade;Target", ["Mock;41;B;A", "Mock;55;A;A", "Mock;12;;C"]
        )
        ten.bring("results", text, date="2026-05-01")
        kept = {(m.role, m.score): m for m in ten.snapshot.measures}
        assert {("result", "raw"), ("predicted", "grade"), ("target", "grade")} <= set(kept)
        measure = kept["predicted", "grade"]
        names = [measure.steps[int(v) - 1] for v in ten.snapshot.values(measure) if v == v]
        assert names == ["B", "A"]

    def test_what_is_no_figure_among_figures_is_said(self, ten: Place) -> None:
        text = sheet("Test;Mark;Target", ["Mock;41;50", "Mock;55;sixty", "Mock;12;20"])
        plan = ten.look("results", text, date="2026-05-01")
        (said,) = [f for f in plan.examination.findings if f.key.startswith("unread_claim")]
        assert "“sixty” will be unknown" in said.detail

    def test_fine_steps_stand_in_their_order(self, ten: Place) -> None:
        text = sheet("Test;Grade", [f"Mock;{g}" for g in ("5=", "9", "4-", "4+", "5+", "4=", "1")])
        ten.bring("results", text, date="2026-05-01")
        (measure,) = ten.snapshot.measures
        assert measure.steps == ("1", "4-", "4=", "4+", "5=", "5+", "9")


class TestForms:
    def test_each_sitting_has_its_own_form_column(self, ten: Place) -> None:
        text = sheet("Autumn form;Maths autumn scaled;Spring form;Maths spring scaled",
                     ["A;300;C;310", "B;301;D;311"])  # fmt: skip
        plan = ten.bring("results", text, test="Quiz", academic_year="2025-26", date="2026-05-01")
        assert isinstance(plan, ResultsPlan)
        told = {}
        for m in ten.snapshot.measures:
            names = {f.id: f.name for f in m.forms}
            told[m.sitting.name] = [names.get(int(n), "") for n in ten.snapshot.form(m)[:2]]
        assert told == {"autumn": ["A", "B"], "spring": ["C", "D"]}


class TestRows:
    def test_rows_that_differ_where_nobody_reads_are_no_copies(self, ten: Place) -> None:
        text = ("Number;Test;Mark;Attempt\n001;Quiz;5;first\n001;Quiz;5;second\n"
                "002;Quiz;6;first\n002;Quiz;6;first\n")  # fmt: skip
        plan = ten.look("results", text, date="2026-05-01")
        kinds = {f.key: f for f in plan.examination.findings}
        assert kinds["copies"].n == kinds["alike"].n == 1
        assert "They differ in Attempt alone" in kinds["alike"].detail
        shown = plan.examination
        assert (shown.rows_kept, shown.rows_copies, shown.rows_in_file) == (2, 2, 4)

    def test_same_total_of_other_marks_contradicts(self, ten: Place) -> None:
        text = "Number;Test;Q1;Q2\n001;Quiz;1;2\n001;Quiz;2;1\n"
        plan = ten.look("results", text, date="2026-05-01")
        assert found(plan)["two_scores"] == "stop"

    def test_blank_cells_of_the_only_score_are_counted(self, ten: Place) -> None:
        ten.bring("results", sheet("Test;Scaled score", ["Old;300"]), subject="Maths",
                  date="2025-05-01")  # fmt: skip
        plan = ten.bring("results", sheet("Maths scaled", ["300", "", "310", ""]), test="Quiz",
                         date="2026-05-01")  # fmt: skip
        assert found(plan)["blank_cells"] == "ask"
        assert plan.examination.rows_kept == plan.examination.rows_in_file == 4
        coverage = ten.ask({"what": [{"assessment": "Quiz"}]}).coverage[0]
        assert {m.label: m.n for m in coverage.missing} == {"not sat": 2, "no row": 6}

    def test_mixed_orders_of_day_and_month(self, ten: Place) -> None:
        text = sheet("Test;Mark;Date", ["Quiz;1;25/12/2025", "Quiz;2;12/26/2025",
                                        "Quiz;3;27/12/2025"])  # fmt: skip
        plan = ten.look("results", text)
        assert found(plan)["date_order"] == "ask"
        assert "unread_date" not in found(plan)
        doubtful = ten.look("results", text + "\n003;Quiz;4;03/04/2026")
        assert found(doubtful)["date_order"] == "stop"


class TestScaleAfterResults:
    SCALE = "Test,Score,Step,Synonyms,Pass\nMock,grade,Ungraded,U|X,\n" + "".join(
        f"Mock,grade,Grade {n},{n},{'yes' if n >= 4 else ''}\n" for n in range(1, 10)
    )

    def test_what_was_kept_before_is_read_by_it(self, ten: Place) -> None:
        written = ["5", "9", "U", "3", "4", "Q", "grade 9", "", "1", "2"]
        text = sheet("Test;Grade", [f"Mock;{g}" for g in written])
        ten.bring("results", text, date="2026-05-01")
        before = ten.snapshot.version
        plan = ten.bring("scale", self.SCALE)
        told = {f.key: f for f in plan.examination.findings}
        assert told["read_again"].n == 8
        assert "“5” as Grade 5" in told["read_again"].detail
        assert (told["no_step"].n, told["no_step"].kind) == (1, "ask")
        assert "“Q” (1)" in told["no_step"].detail
        assert ten.snapshot.version == before + 1
        (measure,) = ten.snapshot.measures
        assert measure.steps == ("Ungraded", *(f"Grade {n}" for n in range(1, 10)))
        read = [0 if v != v else int(v) for v in ten.snapshot.values(measure)]
        assert read == [6, 10, 1, 4, 5, 0, 10, 0, 2, 3]
        answer = ten.ask({"what": [{"assessment": "Mock"}], "show": "levels"})
        assert answer.coverage[0].counted == 8
        assert answer.body.pass_at == 4


class TestSittingDates:
    QUIZ = "Number;Test;Mark\n001;Quiz;5\n002;Quiz;6\n"

    def date(self, place: Place) -> str:
        (measure,) = place.snapshot.measures
        return f"{measure.date} {measure.academic_year}"

    def test_a_date_that_is_said_again_corrects_it_in_a_new_version(self, ten: Place) -> None:
        ten.bring("results", self.QUIZ, sitting="mock", date="2026-05-01")
        before = ten.snapshot
        plan = ten.bring("results", self.QUIZ, sitting="mock", date="2025-11-20")
        (asked,) = [f for f in plan.examination.findings if f.key.startswith("sitting_date")]
        assert (asked.kind, asked.chosen) == ("ask", "correct")
        assert self.date(ten) == "2025-11-20 2025-26"
        assert str(before.measures[0].date) == "2026-05-01"  # the version before is as it was
        kept = {"decisions": {asked.key: "keep"}}
        ten.bring("results", self.QUIZ, sitting="mock", date="2026-01-01", **kept)
        assert self.date(ten) == "2025-11-20 2025-26"
        undo(ten, 3)
        assert self.date(ten) == "2026-05-01 2025-26"
        undo(ten, 3, "kept")
        assert self.date(ten) == "2025-11-20 2025-26"

    def test_after_undo_the_old_date_is_forgotten(self, ten: Place) -> None:
        ten.bring("results", self.QUIZ, sitting="mock", date="2027-05-01", academic_year="2026-27")
        undo(ten, 2)
        ten.bring("results", self.QUIZ, sitting="mock", date="2026-05-01")
        assert self.date(ten) == "2026-05-01 2025-26"

    def test_those_who_sat_later_do_not_move_a_sitting(self, ten: Place) -> None:
        ten.bring("results", self.QUIZ, sitting="mock", date="2026-05-01")
        later = "Number;Test;Mark;Date\n003;Quiz;7;2026-05-09\n"
        plan = ten.bring("results", later, sitting="mock")
        (asked,) = [f for f in plan.examination.findings if f.key.startswith("sitting_date")]
        assert asked.chosen == "keep"
        assert self.date(ten) == "2026-05-01 2025-26"

    def test_a_known_sitting_is_not_asked_when_it_was(self, ten: Place) -> None:
        ten.bring("results", self.QUIZ, sitting="mock", date="2026-05-01")
        plan = ten.look("results", "Number;Test;Mark\n003;Quiz;7\n", sitting="mock")
        assert not [f for f in plan.examination.findings if f.key == "date"]

    def test_each_undated_sitting_is_answered_for_itself(self, ten: Place) -> None:
        text = "Number;Test;Sitting;Mark\n001;Quiz;one;5\n001;Quiz;two;6\n001;Quiz;May 2026;7\n"
        plan = ten.look("results", text, test="Quiz")
        assert [f.key for f in plan.examination.unsettled] == ["date:one", "date:two"]
        said = {"date:one": "2025-10-03", "date:two": "spring"}
        ten.bring("results", text, test="Quiz", decisions=said)
        told = {m.sitting.name: str(m.date) for m in ten.snapshot.measures}
        assert told == {"one": "2025-10-03", "two": "2026-03-15", "May 2026": "2026-05-15"}
        later = text.replace(";one;", ";three;")
        with pytest.raises(InvalidQuestion, match="no day"):
            ten.look("results", later, decisions={"date:three": "2026-02-30"})


def test_a_prediction_that_names_no_sitting_is_of_the_one_that_the_file_has(ten: Place) -> None:
    text = "Number,Maths autumn,Maths predicted,English predicted\n001,5,6,7\n002,4,5,6\n"
    plan = ten.look("results", text, test="Check", date="2025-11-01")
    assert isinstance(plan, ResultsPlan)
    assert [(s.subject, s.name) for s in plan.sittings] == [
        ("English", "2025-26"), ("Maths", "autumn"),
    ]  # fmt: skip
    two = text.replace("Number,Maths autumn,", "Number,Maths autumn,Maths spring,")
    two = two.replace(",5,6,7", ",5,5,6,7").replace(",4,5,6", ",4,4,5,6")
    plan = ten.look("results", two, test="Check", date="2025-11-01")
    assert isinstance(plan, ResultsPlan)
    assert ("Maths", "2025-26") in [(s.subject, s.name) for s in plan.sittings]


def test_a_sitting_has_no_date_before_it_is_answered(ten: Place) -> None:
    plan = ten.look("results", "Number,Sitting,Score\n001,one,5\n002,one,6\n", test="Check")
    made = {c.kind: c.names for c in plan.examination.creates}
    assert made["sittings"] == ["Check: Check, one"]


def test_a_table_of_which_nothing_can_be_kept_is_an_error(ten: Place) -> None:
    with pytest.raises(UnreadableFile, match="No row"):
        ten.bring("scale", "Test,Step,Points\n,A,1\n,B,2\n")
