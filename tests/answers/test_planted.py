"""The planted facts, recovered through the whole way: file, intake, record, snapshot, answer."""

from __future__ import annotations

import csv
from typing import Any

import pytest
from tests.support import Place, planted

from bridge_chart.answers.asking.answer import Answer

MATHS = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
READING = {**MATHS, "subject": "Reading"}
YEAR_8 = {"all": [{"field": "year_level", "in": [8]}]}


def told(answer: Answer, verdict: str) -> list[str]:
    return sorted(row.label for row in answer.body.rows if row.verdict == verdict)


@pytest.mark.parametrize("who", [{}, YEAR_8], ids=["all", "year 8"])
@pytest.mark.parametrize("measure", [MATHS, READING], ids=["mathematics", "reading"])
def test_the_schools_verdicts_are_those_planted(
    demo: Place, measure: dict[str, Any], who: dict[str, Any]
) -> None:
    key = f"{measure['subject'].lower()}_2026_by_school"
    expected: Any = planted(demo)["expected"]
    answer = demo.ask(
        {"what": [measure], "who": who, "split": [{"field": "school"}], "against": {"prior": {}}}
    )
    assert told(answer, "behind") == sorted(expected[key]["behind"])
    shaken = sorted(row.label for row in answer.body.rows if row.because == "start")
    assert sorted([*told(answer, "ahead"), *shaken]) == sorted(expected[key]["ahead"])
    # The survey is declared to be reliable, so that no mark of it hangs on error in the start.
    assert shaken == []
    assert len(answer.body.rows) == 11
    said = " ".join(reading.text for reading in answer.readings)
    for name in expected[key]["behind"]:
        assert f"{name} is " in said
        assert "behind similar starters" in said
    assert ("don't rank them" in said) == (len(told(answer, "unclear")) > 1)


def test_the_true_effects_lie_inside_the_intervals(demo: Place) -> None:
    """Effects are planted on top of a common line, so they show relative to their mean."""
    truth: Any = planted(demo)["truth"]
    answer = demo.ask({"what": [MATHS], "split": [{"field": "school"}], "against": {"prior": {}}})
    effects = truth["school_effects_mathematics_2026"]
    total = sum(row.n for row in answer.body.rows)
    centre = sum(effects.get(row.label, 0.0) * row.n for row in answer.body.rows) / total
    inside = [
        row.low <= effects.get(row.label, 0.0) - centre <= row.high for row in answer.body.rows
    ]
    assert sum(inside) >= 10  # eleven intervals of 95%


def gap(demo: Place, characteristic: str, measure: dict[str, Any], against: Any) -> Any:
    answer = demo.ask({"show": "strip", "what": [measure], "against": against})
    return next(e for e in answer.body.entries if e.label == characteristic)


@pytest.mark.parametrize("measure", [MATHS, READING], ids=["mathematics", "reading"])
def test_one_raw_gap_is_explained_by_where_they_started_and_one_is_not(
    demo: Place, measure: dict[str, Any]
) -> None:
    expected: Any = planted(demo)["expected"]
    explained, not_explained = expected["explained_by_prior"], expected["not_explained_by_prior"]
    raw, left = gap(demo, explained, measure, None), gap(demo, explained, measure, {"prior": {}})
    assert raw.high < -8
    assert abs(left.size) < 0.15 * abs(raw.size)
    assert left.beyond_chance is False
    stays = gap(demo, not_explained, measure, {"prior": {}})
    assert stays.high < -4
    assert stays.beyond_chance is True
    assert stays.low < planted(demo)["truth"]["learning_plan_points_a_year"] < stays.high  # type: ignore[index]
    assert gap(demo, "Sex", measure, {"prior": {}}).beyond_chance is False


def test_the_files_faults_are_counted_as_planted(demo: Place) -> None:
    files: Any = planted(demo)["files"]
    facts = files["spring-2026.csv"]
    plan = demo.look("results", (demo.settings.home / "demo" / "spring-2026.csv").read_bytes())
    found = {f.key: f.n for f in plan.examination.findings}
    assert plan.examination.rows_in_file == facts["rows"]
    assert found["zeros"] == facts["lost_zeros"]
    assert found["copies"] == facts["copies"]
    assert found["two_scores"] == facts["conflicts"]
    assert found["no_student"] == facts["unmatched"]
    assert found["codes"] == facts["codes"]
    # What is kept already is read as unchanged, to the last row.
    counts = {c.key: c.n for c in plan.examination.counts}
    assert (counts["new"], counts["changed"]) == (0, 0)


def test_the_april_roster_says_who_left_and_moved(demo: Place) -> None:
    facts: Any = planted(demo)["files"]
    april = facts["roster-2025-26-april.csv"]
    counts = demo.scalar("SELECT counts->'shown' FROM batch WHERE id = 4")
    shown = {item["key"]: item["n"] for item in counts}  # type: ignore[union-attr]
    assert (shown["gone"], shown["moved"]) == (april["gone"], april["moved"])


def test_a_mean_by_school_is_the_mean_of_the_files_cells(demo: Place) -> None:
    """The whole way against a plain reading of the two files."""
    folder = demo.settings.home / "demo"
    with (folder / "roster-2025-26-april.csv").open(encoding="utf-8") as handle:
        school = {row["Student number"]: row["School"] for row in csv.DictReader(handle)}
    scores: dict[str, set[float]] = {}
    with (folder / "spring-2026.csv").open(encoding="utf-8") as handle:
        for row in csv.DictReader(handle):
            number = row["Student No"].zfill(6)
            if row["Subject"] == "Reading" and row["Scaled score"].isdigit() and number in school:
                scores.setdefault(number, set()).add(float(row["Scaled score"]))
    plain: dict[str, list[float]] = {}
    for number, held in scores.items():
        if len(held) == 1:
            plain.setdefault(school[number], []).append(held.pop())
    answer = demo.ask({"what": [READING], "split": [{"field": "school"}]})
    for row in answer.body.rows:
        assert row.n == len(plain[row.label])
        assert row.mean == pytest.approx(sum(plain[row.label]) / row.n, abs=1e-9)
