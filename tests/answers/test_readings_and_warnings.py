"""What it says never claims more than the numbers; each warning fires when it should."""

from __future__ import annotations

import re
from typing import Any

import pytest
from tests.support import Place, roster

from bridge_chart.answers.asking.answer import Answer

MATHS = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
SPLITS = ["school", "class", "teacher", "year_level"]


@pytest.mark.parametrize("year", range(4, 12))
@pytest.mark.parametrize("split", SPLITS)
@pytest.mark.parametrize("subject", ["Mathematics", "Reading"])
def test_readings_never_claim_more_than_the_intervals(
    demo: Place, year: int, split: str, subject: str
) -> None:
    answer = demo.ask(
        {"what": [{**MATHS, "subject": subject}], "split": [{"field": split}],
         "against": {"prior": {}}, "who": {"all": [{"field": "year_level", "in": [year]}]}}
    )  # fmt: skip
    rows = {row.key: row for row in answer.body.rows}
    for reading in answer.readings:
        for key in reading.rows:
            row = rows[key]
            assert reading.kind == row.verdict or (row.verdict, row.because) == ("alike", "start")
            assert row.low is not None or row.verdict == "few" or row.because == "by_construction"
            if reading.kind == "behind":
                assert row.high is not None
                assert row.high < 0
            elif reading.kind == "ahead":
                assert row.low is not None
                assert row.low > 0
            elif reading.kind == "few":
                assert row.n < 20 or (row.df or 0) < 4
    named = [key for reading in answer.readings for key in reading.rows]
    assert sorted(named) == sorted(rows), "every row is spoken of, once"
    for reading in answer.readings:
        assert not re.search(r"\b1 (students|schools|classes|rows)\b", reading.text)
        assert "-" not in re.sub(r"[A-Za-z]-[A-Za-z]", "", reading.text), "a true minus"


def codes(answer: Answer) -> set[str]:
    return {warning.code for warning in answer.warnings}


def quiz(place: Place, scores: dict[str, Any], sitting: str = "June", date: str = "2026-06-01",
         more: str = "") -> None:  # fmt: skip
    lines = [f"{number},Quiz,{sitting},{date},{score}" for number, score in scores.items()]
    place.bring("results", "Number,Test,Sitting,Date,Score\n" + "\n".join(lines) + "\n" + more)


@pytest.fixture
def hundred(place: Place) -> Place:
    rows = [(f"{n:03d}", "East" if n < 50 else "West", 8) for n in range(100)]
    place.bring("roster", roster(rows), academic_year="2025-26")
    return place


def test_nothing_is_warned_of_without_need(hundred: Place) -> None:
    quiz(hundred, {f"{n:03d}": 20 + n % 30 for n in range(100)})
    assert codes(hundred.ask({"what": [{"assessment": "Quiz"}]})) == set()


def test_low_coverage(hundred: Place) -> None:
    quiz(hundred, {f"{n:03d}": 20 + n % 30 for n in range(89)})
    answer = hundred.ask({"what": [{"assessment": "Quiz"}]})
    assert codes(answer) == {"low_coverage"}
    assert "Only 89 of 100 are counted (89%)" in answer.warnings[0].text


def test_ceiling_and_floor(hundred: Place) -> None:
    quiz(hundred, {f"{n:03d}": min(20 + n % 30, 40) for n in range(100)})
    assert codes(hundred.ask({"what": [{"assessment": "Quiz"}]})) == {"ceiling"}
    quiz(hundred, {f"{n:03d}": max(20 + n % 30, 30) for n in range(100)}, "July", "2026-07-01")
    assert codes(hundred.ask({"what": [{"assessment": "Quiz"}]})) == {"floor"}


def test_rows_set_aside_are_counted_where_they_could_matter(hundred: Place) -> None:
    scores = {f"{n:03d}": 20 + n % 30 for n in range(100)}
    quiz(hundred, scores, more="999,Quiz,June,2026-06-01,31\n")
    answer = hundred.ask({"what": [{"assessment": "Quiz"}]})
    assert codes(answer) == {"set_aside"}
    assert answer.coverage[0].set_aside == 1
    assert "1 row of Quiz, June is set aside" in answer.warnings[0].text


def test_those_missing_started_lower(hundred: Place) -> None:
    before = {f"{n:03d}": n for n in range(100)}
    quiz(hundred, before, "May", "2026-05-01")
    quiz(hundred, {k: v + 3 for k, v in before.items() if v >= 25})
    answer = hundred.ask({"what": [{"assessment": "Quiz"}], "against": {"prior": {}}})
    assert codes(answer) == {"low_coverage", "missing_differ"}
    text = next(w.text for w in answer.warnings if w.code == "missing_differ")
    assert "25 students with a starting score but no result" in text
    assert "lower than those counted" in text


def test_mixed_year_levels_without_a_yardstick(place: Place) -> None:
    rows = [(f"{n:03d}", "East", 7 + n % 2) for n in range(60)]
    place.bring("roster", roster(rows), academic_year="2025-26")
    quiz(place, {f"{n:03d}": 20 + n % 30 for n in range(60)})
    answer = place.ask({"what": [{"assessment": "Quiz"}], "split": [{"field": "year_level"}]})
    assert codes(answer) == {"year_levels_mixed"}
    assert answer.warnings[0].instead == {"against": {"prior": {}}}
    one = {"all": [{"field": "year_level", "in": [7]}]}
    assert codes(place.ask({"what": [{"assessment": "Quiz"}], "who": one})) == set()


def test_nobody_counted_is_said(hundred: Place) -> None:
    quiz(hundred, {f"{n:03d}": 20 + n % 30 for n in range(60)})
    who = {"all": [{"measure": {"assessment": "Quiz"}, "above": 1000}]}
    answer = hundred.ask({"what": [{"assessment": "Quiz"}], "who": who})
    assert answer.coverage[0].population == 0
    assert [r.text for r in answer.readings] == ["Nobody is counted, so nothing can be said."]


def test_a_characteristic_is_called_as_the_district_writes_it(place: Place) -> None:
    lines = [f"{n},Tarn,{'yes' if n % 3 else 'no'}" for n in range(60)]
    place.bring("roster", "Number,School,SEN\n" + "\n".join(lines) + "\n",
                academic_year="2025-26")  # fmt: skip
    quiz(place, {str(n): n % 9 for n in range(60)})
    asked = {"what": [{"assessment": "Quiz"}], "split": [{"characteristic": "SEN"}]}
    assert "split by SEN," in place.ask(asked).sentence
    entries = place.ask({"what": [{"assessment": "Quiz"}], "show": "strip"}).body.entries
    assert [entry.label for entry in entries] == ["SEN"]


@pytest.mark.parametrize("split", [*SPLITS, None])
def test_a_roster_without_year_levels_or_classes_answers_every_split(
    place: Place, split: str | None
) -> None:
    """Number, school and one characteristic are enough for every lens that is built."""
    lines = [f"{n},{'East' if n < 30 else 'West'},{'yes' if n % 3 else 'no'}" for n in range(60)]
    place.bring("roster", "Number,School,SEN\n" + "\n".join(lines) + "\n",
                academic_year="2025-26")  # fmt: skip
    quiz(place, {str(n): n % 9 + n % 4 for n in range(60)}, "May", "2026-05-01")
    quiz(place, {str(n): n % 9 for n in range(60)})
    asked = {"what": [{"assessment": "Quiz"}], "against": {"prior": {}}}
    by = [{"field": split}] if split else []
    for show in ("spans", "table", "students", "strip"):
        answer = place.ask({**asked, "split": by if show in ("spans", "table") else [],
                            "show": show})  # fmt: skip
        assert answer.coverage[0].counted == 60


@pytest.mark.parametrize("expect", ["linear", "cubic", "spline", "equal_scores"])
def test_curves_on_a_small_school_with_few_different_starts(place: Place, expect: str) -> None:
    """60 students in year 5 with nine different starts; 12 in year 6, too few to expect from."""
    rows = [(str(n), "East", 5 if n < 60 else 6) for n in range(72)]
    place.bring("roster", roster(rows), academic_year="2025-26")
    quiz(place, {str(n): n % 9 for n in range(72)}, "May", "2026-05-01")
    quiz(place, {str(n): 2 * (n % 9) + n % 4 for n in range(72)})
    answer = place.ask(
        {"what": [{"assessment": "Quiz"}], "split": [{"field": "year_level"}],
         "against": {"prior": {"expect": expect}}}
    )  # fmt: skip
    missing = {m.reason: m.n for m in answer.coverage[0].missing}
    assert answer.coverage[0].counted == 60
    assert missing == {"no_yardstick": 12}
    five = next(row for row in answer.body.rows if row.label == "Year 5")
    assert five.span == pytest.approx(0, abs=1e-9)  # the year group is held against itself
    assert [y["year_level"] for y in answer.method.facts["year_levels"]] == [5]


@pytest.mark.parametrize("expect", ["linear", "cubic", "spline"])
def test_a_start_that_is_the_same_for_all_expects_nothing(place: Place, expect: str) -> None:
    place.bring("roster", roster([(str(n), "East", 5) for n in range(40)]), academic_year="2025-26")
    quiz(place, {str(n): 7 for n in range(40)}, "May", "2026-05-01")
    quiz(place, {str(n): n % 9 for n in range(40)})
    answer = place.ask({"what": [{"assessment": "Quiz"}], "against": {"prior": {"expect": expect}}})
    assert answer.coverage[0].counted == 0
    assert {m.reason: m.n for m in answer.coverage[0].missing} == {"no_yardstick": 40}
    assert answer.method.facts["year_levels"] == []


@pytest.mark.parametrize("split", ["Meal support", "Sex", "Learning plan"])
def test_a_gap_of_shares_is_said_with_its_own_interval(demo: Place, split: str) -> None:
    """The size that is said lies in the interval beside it, whichever group is named first."""
    answer = demo.ask({"what": [MATHS], "show": "levels", "split": [{"characteristic": split}]})
    said = [r.text for r in answer.readings if "percentage points" in r.text]
    assert said
    for text in said:
        found = re.search(r"(\d+) percentage points.*interval (−?\d+) to (−?\d+)", text)
        assert found, text
        size, low, high = (int(part.replace("−", "-")) for part in found.groups())
        assert low <= size <= high, text
