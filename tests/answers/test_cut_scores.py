"""Cut scores by year level, form and school year; halves where the scale names them."""

from __future__ import annotations

import numpy as np
import pytest
from tests.support import Place, roster

from bridge_chart.answers.what.cut_scores import cut_sets, cuts_by_year_level
from bridge_chart.terms.errors import NotFound
from bridge_chart.terms.finding import Finding

YEAR = {"academic_year": "2025-26"}
HEAD = "Test,Score,Step,Points,Year level,Form,School year,From,Upper half from,Expected\n"
SCALE = (
    HEAD
    + """Survey,level,Low,1,,,,0,,
Survey,level,At,2,,,,100,,
Survey,level,High,3,,,,140,,
Survey,level,Low,1,8,,,0,,
Survey,level,At,2,8,,,110,115,yes
Survey,level,High,3,8,,,150,,
Survey,level,At,2,8,B,,105,,
Survey,level,High,3,8,B,,145,,
Survey,level,At,2,8,,2024-25,90,,
"""
)
# number, year level, form, scaled score, level, half as the scale makes it
PEOPLE = [
    ("01", 7, "A", 99, "Low", "Low, upper"), ("02", 7, "A", 100, "At", "At, lower"),
    ("03", 7, "A", 119, "At", "At, lower"), ("04", 7, "A", 120, "At", "At, upper"),
    ("05", 8, "A", 109, "Low", "Low, upper"), ("06", 8, "A", 114, "At", "At, lower"),
    ("07", 8, "A", 115, "At", "At, upper"), ("08", 8, "A", 150, "High", "High, lower"),
    ("09", 8, "B", 106, "At", "At, lower"), ("10", 8, "B", 130, "At", "At, upper"),
    ("11", 8, "B", 145, "High", "High, lower"), ("12", 8, "A", 20, "Low", "Low, lower"),
]  # fmt: skip


@pytest.fixture
def survey(place: Place) -> Place:
    place.bring("roster", roster([(p[0], "Tarn", p[1]) for p in PEOPLE]), **YEAR)
    place.bring("scale", SCALE)
    rows = "".join(f"{n},Survey,May,{f},{s},{lv}\n" for n, _, f, s, lv, _ in PEOPLE)
    place.bring("results", "Number,Test,Sitting,Form,Scaled score,Level\n" + rows, **YEAR)
    return place


def numbers(place: Place, **condition: object) -> list[str]:
    question = {"what": [{"assessment": "Survey", "score": "scaled"}], "show": "students",
                "who": {"all": [condition]}}  # fmt: skip
    columns = {c.key: c.values for c in place.ask(question).body.columns}
    return sorted(columns["number"])


def test_halves_begin_where_the_scale_says_else_in_the_middle(survey: Place) -> None:
    asked = {"what": [{"assessment": "Survey", "score": "level", "grain": "half"}],
             "show": "levels"}  # fmt: skip
    body = survey.ask(asked).body
    counted = dict(zip([s.name for s in body.steps], body.rows[0].counts, strict=True))
    halves = [half for *_, half in PEOPLE]
    assert counted == {name: halves.count(name) for name in counted}
    assert sum(counted.values()) == len(PEOPLE)


def test_the_sets_that_hold_for_a_sitting(survey: Place) -> None:
    snapshot = survey.snapshot
    key = next(m for m in snapshot.measures if m.score == "scaled")
    found = {(s.year_level, s.form and key.forms[1].name): [c.lowest for c in s.cuts]
             for s in cut_sets(snapshot, key)}  # fmt: skip
    assert found == {(-1, None): [0, 100, 140], (8, None): [0, 110, 150], (8, "B"): [105, 145]}
    shown = cuts_by_year_level(snapshot, key)
    assert [c.expected for c in shown[8]] == [False, True, False]
    assert [c.lowest for c in cuts_by_year_level(snapshot, key, key.forms[1].id)[8]] == [105, 145]


def test_a_year_of_its_own_goes_before_the_others(survey: Place) -> None:
    rows = "".join(f"{n},Survey,Before,2025-05-06,{s}\n" for n, _, _, s, _, _ in PEOPLE)
    survey.bring("roster", roster([(p[0], "Tarn", p[1]) for p in PEOPLE]), academic_year="2024-25")
    survey.bring("results", "Number,Test,Sitting,Date,Scaled score\n" + rows)
    snapshot = survey.snapshot
    key = next(m for m in snapshot.measures if m.sitting.name == "Before")
    found = {(s.year_level, s.form): [c.lowest for c in s.cuts] for s in cut_sets(snapshot, key)}
    assert found == {(-1, None): [0, 100, 140], (8, None): [90]}


def test_just_below_a_boundary_is_by_year_level_and_form(survey: Place) -> None:
    near = numbers(survey, measure={"assessment": "Survey", "score": "scaled"}, boundary="At",
                   within=2, side="below")  # fmt: skip
    assert near == ["01", "05"]
    near = numbers(survey, measure={"assessment": "Survey", "score": "scaled"}, boundary="At",
                   within=4, side="above")  # fmt: skip
    assert near == ["02", "06", "09"]
    with pytest.raises(NotFound, match="no boundary “Middle”"):
        numbers(survey, measure={"assessment": "Survey"}, boundary="Middle", within=2)


def test_what_is_expected_at_an_age_is_marked(survey: Place) -> None:
    year_8 = {"all": [{"field": "year_level", "in": [8]}]}
    asked = {"what": [{"assessment": "Survey", "score": "scaled"}], "who": year_8}
    lines = survey.ask({**asked, "show": "spread"}).body.cuts
    assert "At, expected" in [line.label for line in lines]
    told = survey.ask(asked).measures[0].cuts
    assert [c.step for c in told if c.expected] == ["At"]


def found_in(place: Place, text: str) -> dict[str, Finding]:
    return {f.key: f for f in place.look("scale", text).examination.findings}


@pytest.mark.parametrize(
    ("rows", "key", "lines"),
    [
        ("S,level,A,1,,,,10,,\nS,level,B,2,,,,10,,\n", "cuts_fall", [3]),
        ("S,level,A,1,,,,10,20,\nS,level,B,2,,,,15,,\n", "upper_outside", [2]),
        ("S,level,A,1,,,,10,10,\nS,level,B,2,,,,15,,\n", "upper_outside", [2]),
        ("S,level,A,1,8,,,10,,y\nS,level,B,2,8,,,15,,y\n", "expected_twice", [2, 3]),
        ("S,level,A,1,8,,,,,y\nS,level,B,2,8,,,15,,\n", "no_cut", [2]),
        ("S,level,A,1,8,,2025,10,,\nS,level,B,2,8,,,15,,\n", "bad_school_year", [2]),
    ],
)
def test_cut_scores_that_cannot_be_are_stopped(
    place: Place, rows: str, key: str, lines: list[int]
) -> None:
    found = found_in(place, HEAD + rows)
    assert (found[key].kind, found[key].rows) == ("stop", lines)


def test_sets_are_checked_each_for_itself(place: Place) -> None:
    assert found_in(place, SCALE) == {}


def test_halves_against_a_plain_reckoning(place: Place) -> None:
    """Every score of a range, against the rule written out for a single student."""
    people = [(f"{n:03d}", n) for n in range(1, 200)]
    place.bring("roster", roster([(n, "Tarn", 8) for n, _ in people]), **YEAR)
    place.bring("scale", HEAD + "T,level,L,1,,,,,,\nT,level,M,2,,,,60,75,\nT,level,H,3,,,,100,,\n")
    rows = "".join(f"{n},T,{s},{'L' if s < 60 else 'M' if s < 100 else 'H'}\n" for n, s in people)
    place.bring("results", "Number,Test,Scaled score,Level\n" + rows, **YEAR)
    asked = {"what": [{"assessment": "T", "score": "level", "grain": "half"}], "show": "levels"}
    counts = place.ask(asked).body.rows[0].counts
    low, high = 1, 199

    def half(score: int) -> int:
        if score < 60:
            return int(score >= (low + 60) / 2)
        if score < 100:
            return 2 + int(score >= 75)
        return 4 + int(score >= (100 + high) / 2)

    assert counts == np.bincount([half(s) for _, s in people], minlength=6).tolist()
