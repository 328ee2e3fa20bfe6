"""Tables of others, read by saying their columns: one per statistic, scale, subject, standing."""

from __future__ import annotations

import pytest
from tests.support import Place

from bridge_chart.terms.errors import UnreadableFile


def cells(place: Place, kind: str) -> list[dict[str, object]]:
    drop = ("batch",)
    return [
        {key: value for key, value in row.items() if key not in drop}
        for row in place.snapshot.tables.rows(kind)
    ]


def test_national_figures_with_a_column_each(place: Place) -> None:
    text = (
        "National results,,,,,,,\n"
        "Subject,Year,Candidates,Mean score,St. dev,P10,Median,% Level 4+\n"
        "Reading,8,51234,101.2,14.8,81,101,62%\nMaths,8,51100,99.8,15.1,79,100,\n"
    )
    plan = place.bring("national", text, test="Survey", score="scaled")
    assert plan.examination.rows_kept == 11
    told = {f.key: f.detail for f in plan.examination.findings}
    assert told["in_percent"] == "% Level 4+"
    (reading,) = place.snapshot.tables.national("Survey", "Reading", "spring", "scaled")
    assert (reading.n, reading.mean, reading.sd) == (51234, 101.2, 14.8)
    assert reading.percentiles == ((10.0, 81), (50.0, 101))
    assert reading.shares == {"Level 4+": 0.62}
    (maths,) = place.snapshot.tables.national("Survey", "Maths", "spring", "scaled")
    assert (maths.mean, maths.shares) == (99.8, {})


def test_a_cell_that_is_no_figure_is_set_aside_with_its_own_line(place: Place) -> None:
    text = "Subject,Mean,SD\nReading,101,x\nMaths,99,15\n"
    plan = place.bring("national", text, test="Survey", score="scaled")
    assert plan.examination.rows_kept == 3
    assert place.scalar("SELECT string_agg(row || ' ' || reason, ', ') FROM set_aside") == (
        "2 row without a value"
    )


def test_long_figures_stay_as_they_are(place: Place) -> None:
    text = "Test,Score,Statistic,Of,Value,N\nSurvey,scaled,mean,,100,9\n"
    plan = place.bring("national", text)
    assert plan.examination.rows_kept == 1
    (n,) = [c for c in plan.examination.columns if c.header == "N"]
    assert (n.role, n.why) == ("ignore", "the column of the statistic says it")


def test_a_conversion_with_a_column_for_each_scale(place: Place) -> None:
    text = "Raw,Scaled score,Percentile rank,Level\n0,70,1,Low\n1,74,3,Low\n2,80,,High\n"
    plan = place.bring(
        "conversion", text, test="Survey", score="raw",
        columns={"Raw": "value", "Scaled score": "becomes", "Percentile rank": "becomes",
                 "Level": "becomes"},
    )  # fmt: skip
    assert plan.examination.rows_kept == 8
    kept = cells(place, "conversion")
    assert {row["onto"] for row in kept} == {"Scaled score", "Percentile rank", "Level"}
    assert [(row["value"], row["becomes"]) for row in kept if row["onto"] == "Level"] == [
        ("0", "Low"), ("1", "Low"), ("2", "High"),
    ]  # fmt: skip


def test_expectations_with_a_column_for_each_subject(place: Place) -> None:
    text = "Start,Maths expected grade,English expected grade\nLow,4,5\nHigh,7,6\n"
    said = {"Maths expected grade": "expected_value", "English expected grade": "expected_value"}
    place.bring("expectation", text, test="Finals", columns=said)
    told = {(r["subject"], r["start"]): r["expected_value"] for r in cells(place, "expectation")}
    assert told == {
        ("Maths", "Low"): "4", ("Maths", "High"): "7",
        ("English", "Low"): "5", ("English", "High"): "6",
    }  # fmt: skip


def test_credits_with_a_column_for_each_standing(place: Place) -> None:
    place.bring("roster", "Number,School,Year\n1,Ash,12\n2,Ash,12\n", academic_year="2025-26")
    text = "Number,Standard,Banked credits,Estimated credits\n1,AS1,4,\n1,AS2,,3\n2,AS1,x,\n"
    plan = place.bring("credits", text, date="2026-03-01")
    assert plan.examination.rows_kept == 2
    assert place.scalar(
        "SELECT string_agg(standard || credits || estimated, ' ' ORDER BY standard) FROM credit"
    ) == "AS14false AS23true"  # fmt: skip
    assert place.scalar("SELECT row FROM set_aside") == 4


def test_what_a_wide_table_lacks_is_said_by_the_files_own_names(place: Place) -> None:
    with pytest.raises(UnreadableFile, match="Its columns are Subject, Foo instead"):
        place.look("national", "Subject,Foo\nReading,1\n", test="Survey", score="scaled")
