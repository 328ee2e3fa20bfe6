"""Tables of expected outcomes, conversions, credit for movement and award rules."""

from __future__ import annotations

from pathlib import Path

import pytest
import sqlalchemy as sa
from tests.support import Place

from bridge_chart.intake.keep.undoing import consequences
from bridge_chart.terms.errors import UnreadableFile

EXAMPLES = Path(__file__).parents[2] / "docs" / "files" / "examples"


def cells(place: Place, kind: str) -> list[dict[str, object]]:
    query = sa.text("SELECT cells FROM table_row WHERE kind = :kind ORDER BY row")
    with place.engine.connect() as connection:
        return [row[0] for row in connection.execute(query, {"kind": kind})]


def found(place: Place, kind: str, text: str) -> dict[str, list[int]]:
    return {f.key: f.rows for f in place.look(kind, text).examination.findings if f.kind == "stop"}


def test_each_row_is_kept_by_what_it_says(place: Place) -> None:
    for kind, file in (("expectation", "expected"), ("conversion", "conversion"),
                       ("movement", "movement"), ("award", "award")):  # fmt: skip
        place.bring(kind, (EXAMPLES / f"{file}.csv").read_bytes(), f"{file}.csv")
    assert cells(place, "expectation")[0] == {
        "test": "Survey", "subject": "Reading", "score": "scaled", "year_level": 8,
        "start_test": "Survey", "start_score": "scaled", "start": "280",
        "expected_value": "301", "ambitious_value": "309", "published": "2026-01-12",
    }  # fmt: skip
    assert cells(place, "conversion")[2] == {
        "test": "Survey", "subject": "Reading", "score": "scaled", "value": "280",
        "onto": "Book band", "becomes": "Gold",
    }  # fmt: skip
    assert cells(place, "movement")[4] == {
        "test": "Survey", "before": "At", "after": "At", "credit": 0.5
    }  # fmt: skip
    assert cells(place, "award")[1] == {
        "award": "Certificate 2", "condition": "Reading", "credits": 5.0, "subject": "English",
        "standards": ["E1", "E2", "E4"],
    }  # fmt: skip
    assert cells(place, "award")[3]["subjects"] == 3.0


@pytest.mark.parametrize(
    ("kind", "text", "key", "rows"),
    [
        ("expectation", "Test,Start,Expected\nS,10,12\nS,10,13\nS,11,14\n", "doubled", [2, 3]),
        ("expectation", "Test,Start,Expected\nS,,12\nS,11,\n", "no_start", [2]),
        ("conversion", "Test,Value,Onto,Becomes\nS,1,Band,A\nS,1,Band,B\n", "doubled", [2, 3]),
        ("conversion", "Test,Value,Onto,Becomes\nS,1,Band,\n", "no_becomes", [2]),
        ("movement", "Test,Before,After,Credit\nS,A,B,2\nS,A,A,1\n", "credit_outside", [2]),
        ("movement", "Test,Before,After,Credit\nS,A,B,1\nS,A,B,0\n", "doubled", [2, 3]),
        ("award", "Award,Condition,Credits\nC,Total,many\n", "award_unclear", [2]),
        ("award", "Award,Condition,Credits\nC,Total,0\nC,More,5\nD,X,1\n", "award_unclear", [2, 3]),
        ("award", "Award,Condition,Credits\nC,Total,5\nC,Total,6\n", "award_unclear", [2, 3]),
        ("award", "Award,Condition,Credits,Joins\nC,Either,,any\n", "award_unclear", [2]),
        ("award", "Award,Condition,Credits,Joins\nC,Total,5,perhaps\n", "award_unclear", [2]),
        ("award", "Award,Condition,Credits,Within\nC,A,5,Nowhere\n", "award_unclear", [2]),
        (
            "award",
            "Award,Condition,Credits,Within,Joins\nC,A,,B,all\nC,B,,A,all\n",
            "award_unclear",
            [2, 3],
        ),
        ("award", "Award,Condition,Credits,Subjects\nC,A,14,2.5\n", "award_unclear", [2]),
        ("award", "Award,Condition,Standards,Joins\nC,A,E1,once\n", "award_unclear", [2]),
        (
            "award",
            "Award,Condition,Standards,Joins\nC,A,E1|E2,once\nC,B,E2|E3,once\n",
            "award_unclear",
            [2, 3],
        ),
        ("award", "Award,Condition,Standards,Joins\nC,A,E1|E2,once\n", "award_unclear", [2]),
        (
            "award",
            "Award,Grade,Condition,Credits\nC,,Total,5\nC,merit,total,6\n",
            "award_unclear",
            [2, 3],
        ),
        (
            "award",
            "Award,Grade,Condition,Credits,Within,Joins\nC,,Any,,,any\nC,A,X,5,Any,\nC,B,Y,5,,\n",
            "award_unclear",
            [2, 3, 4],
        ),
        (
            "award",
            "Award,Grade,Condition,Credits,Within,Joins\nC,A,Any,,,any\nC,A,X,5,Any,\n"
            "C,B,Y,5,Any,\nC,B,Z,5,,\n",
            "award_unclear",
            [2, 3, 4, 5],
        ),
        ("award", "Award,Condition,Credits,School year\nC,A,5,2026\n", "bad_school_year", [2]),
    ],
)
def test_what_cannot_be_stops(
    place: Place, kind: str, text: str, key: str, rows: list[int]
) -> None:
    assert found(place, kind, text)[key] == rows


def test_an_award_is_read_back_and_may_be_a_tree(place: Place) -> None:
    text = (
        "Award,Grade,Condition,Within,Joins,Credits,Subjects,Kind,Result,Standards\n"
        "Tide,,Total,,,60,,,,\nTide,,Either,,any,,,,,\nTide,,Maths,Either,,10,,,,\n"
        "Tide,,English,Either,,10.5,,,,\nTide,merit,Merits,,,50,,,Merit|Excellence,\n"
        "Tide,merit,Three,,,14,3,,,\nTide,merit,Externals,Three,,3,,external,,\n"
        "Tide,excellence,Excellences,,,50,,,Excellence,\nTide,,Not both,,once,,,,,M1|M2\n"
    )
    said = {f.title: f.detail for f in place.look("award", text).examination.findings}
    assert said["Tide, merit, as it is read"] == (
        "Total: at least 60 credits. Either: (at least 10 credits) or (at least 10.5 credits). "
        "Merits: at least 50 credits with Merit or Excellence. Three: in 3 subjects at least 14 "
        "credits each, of them at least 3 credits assessed external. Of M1 and M2 one counts."
    )
    assert (
        "Excellences: at least 50 credits with Excellence."
        in (said["Tide, excellence, as it is read"])
    )
    assert "Merits" not in said["Tide, excellence, as it is read"]


def test_one_value_may_go_onto_two_scales_and_one_start_to_two_years(place: Place) -> None:
    assert found(place, "conversion", "Test,Value,Onto,Becomes\nS,1,Band,A\nS,1,Age,B\n") == {}
    text = "Test,Year level,Start,Expected\nS,7,10,12\nS,8,10,13\n"
    assert found(place, "expectation", text) == {}


def test_rows_about_what_their_test_has_not_are_told_and_kept(place: Place) -> None:
    place.bring("roster", "Number,School,Year\n1,Ash,7\n2,Ash,7\n", academic_year="2025-26")
    place.bring("results", "Number,Subject,Grade\n1,Art,A\n2,Art,B\n", "mock.csv", test="Mock",
                sitting="May", date="2026-05-02")  # fmt: skip
    place.bring("names", "What,Name,Means\nsubject,Fine art,Art\n", "names.csv")
    table = ("Test,Subject,Sitting,Value,Standard,Credits\nMock,Fine Art,,A,P1,4\n"
             "mock,Fine art,may,B,P1,3\nMock,Painting,May,A,P2,4\nMock,Art,June,A,P3,4\n"
             "Another,Anything,,A,P4,4\n")  # fmt: skip
    looked = place.look("practice", table).examination
    told = {f.key: (f.kind, f.rows, f.detail) for f in looked.findings}
    assert looked.rows_kept == 5
    assert told["no_such_subject"][:2] == ("ask", [2, 4])
    assert "Mock has no subject “Painting”" in told["no_such_subject"][2]
    assert told["no_such_sitting"][:2] == ("ask", [5])


def test_a_missing_column_is_named(place: Place) -> None:
    with pytest.raises(UnreadableFile, match="a column with the expected value") as refused:
        place.look("expectation", "Test,Start\nS,10\n")
    assert refused.value.details["missing_role"] == "expected_value"


def test_the_test_may_be_said_for_the_whole_table(place: Place) -> None:
    place.bring("movement", "Before,After,Credit\nA,B,1\n", test="Survey")
    assert cells(place, "movement")[0]["test"] == "Survey"


def test_undoing_one_says_that_nothing_rests_on_it(place: Place) -> None:
    place.bring("award", (EXAMPLES / "award.csv").read_bytes())
    assert consequences(place.engine, 1) == []
