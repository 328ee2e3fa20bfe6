"""What every answer promises: adding up, one figure in every lens, the fit apart from the view."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from tests.docs.demo import year_8
from tests.support import Place, roster

from bridge_chart.access.accounts import actor_named
from bridge_chart.answers.asking.answer import lines_of
from bridge_chart.cli.answer_text import to_text
from bridge_chart.core.expected.regression import expected_outcome
from bridge_chart.core.value_added.simple import simple_effects
from bridge_chart.output.csv import to_csv
from bridge_chart.terms.errors import InvalidQuestion, NotFound
from bridge_chart.terms.wording import MINUS

MATHS = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
BY_SCHOOL: dict[str, Any] = {
    "what": [MATHS], "split": [{"field": "school"}], "against": {"prior": {}},
    "who": {"all": [{"field": "year_level", "in": [8]}]},
}  # fmt: skip
SPLITS = [
    {"field": "school"}, {"field": "class"}, {"field": "teacher"}, {"field": "year_level"},
    {"characteristic": "Sex"}, {"characteristic": "Home language"},
]  # fmt: skip


@pytest.mark.parametrize("split", SPLITS, ids=str)
@pytest.mark.parametrize("against", [None, {"prior": {}}], ids=["nothing", "prior"])
def test_counts_add_up(demo: Place, split: dict[str, Any], against: Any) -> None:
    answer = demo.ask({"what": [MATHS], "split": [split], "against": against})
    covered = answer.coverage[0]
    assert covered.population == covered.counted + sum(m.n for m in covered.missing)
    if not answer.body.rows[0].overlap:
        assert sum(row.n for row in answer.body.rows) == covered.counted
        assert sum(row.missing for row in answer.body.rows) == covered.population - covered.counted


def test_each_missing_reason_opens_its_students(demo: Place) -> None:
    answer = demo.ask(BY_SCHOOL)
    assert {m.reason for m in answer.coverage[0].missing} >= {"absent", "no_prior", "no_row"}
    for missing in answer.coverage[0].missing:
        opened = demo.opened(BY_SCHOOL, missing.opens)
        assert len(opened.body.student) == missing.n
        assert opened.body.counted == 0
        reasons = next(c.values for c in opened.body.columns if c.key == "reason")
        assert set(reasons) == {missing.label}


def test_a_figure_in_two_lenses_is_identical(demo: Place) -> None:
    spans, table = demo.ask(BY_SCHOOL), demo.ask({**BY_SCHOOL, "show": "table"})
    assert spans.body.rows == table.body.rows
    assert spans.body.reference == table.body.reference
    assert spans.readings == table.readings


def test_rows_of_an_answer_are_the_drawers_students(demo: Place) -> None:
    """A row's mean span is the mean of the spans that its drawer lists."""
    row = demo.ask(BY_SCHOOL).body.rows[0]
    who = {"all": [*BY_SCHOOL["who"]["all"], {"field": "school", "in": [row.label]}]}
    opened = demo.ask({**BY_SCHOOL, "show": "students", "split": [], "who": who})
    spans = next(c.values for c in opened.body.columns if c.key == "span")
    assert np.mean([s for s in spans if s is not None]) == pytest.approx(row.span, abs=1e-9)


def test_filtering_changes_no_students_expectation(demo: Place) -> None:
    def expected(who: dict[str, Any]) -> dict[int, float]:
        answer = demo.ask({**BY_SCHOOL, "show": "students", "split": [], "who": who,
                           "page": {"size": 5000}})  # fmt: skip
        values = next(c.values for c in answer.body.columns if c.key == "expected")
        return {s: v for s, v in zip(answer.body.student, values, strict=True) if v is not None}

    everyone = expected({})
    few = expected({"all": [{"field": "school", "in": ["Isle of Merrow"]},
                            {"characteristic": "Sex", "in": ["F"]}]})  # fmt: skip
    assert 20 < len(few) < len(everyone)
    assert all(everyone[student] == value for student, value in few.items())


@pytest.mark.parametrize("split", SPLITS, ids=str)
def test_the_fit_is_not_the_view(demo: Place, split: dict[str, Any]) -> None:
    """A school lead sees own rows against the district's fit: the very figures that the data
    lead sees for that school. Were it refitted, the mean span would be zero."""
    lead = actor_named(demo.engine, "rowan")
    question = {**BY_SCHOOL, "split": [split]}
    own = demo.ask(question, lead)
    who = {"all": [*BY_SCHOOL["who"]["all"], {"field": "school", "in": ["Fernhollow"]}]}
    district = demo.ask({**question, "who": who})
    own_rows, theirs = (
        [r.model_copy(update={"key": "", "path": []}) for r in answer.body.rows]
        for answer in (own, district)
    )  # a teacher's key is a place in the list of the teachers that one sees
    assert own_rows == theirs
    assert own.resolved.basis_n == district.resolved.basis_n > 3000
    assert own.method.facts["year_levels"] == district.method.facts["year_levels"]
    (published,), (whole,) = own.body.reference, demo.ask(question).body.reference
    same = ("n", "missing", "mean", "sd", "span", "low", "high", "yardstick")
    assert [getattr(published, k) for k in same] == [getattr(whole, k) for k in same]
    assert published.median is None  # a quantile is somebody's score
    assert published.as_of is not None
    assert own.slots.who == "Year 8 in Fernhollow"
    if split == {"field": "school"}:
        assert [row.label for row in own.body.rows] == ["Fernhollow"]
        assert own.body.rows[0].span is not None
        assert own.body.rows[0].span < -3


@pytest.mark.parametrize("expect", ["cubic", "spline", "equal_scores"])
def test_other_curves_are_the_cores_and_hang_on_no_filter(demo: Place, expect: str) -> None:
    against = {"prior": {"expect": expect}}
    question = {**BY_SCHOOL, "against": against}
    answer = demo.ask(question)
    straight = demo.ask(BY_SCHOOL)
    verdicts = {row.label: row.verdict for row in answer.body.rows}
    assert verdicts["Fernhollow"] == "behind"
    # Its mark would not hold with a start much less reliable than is declared; by equal scores
    # not even with one that is as reliable.
    held = ("unclear", "start") if expect == "equal_scores" else ("ahead", None)
    brackwater = next(row for row in answer.body.rows if row.label == "Brackwater")
    assert (brackwater.verdict, brackwater.because) == held
    spans = [(a.span, b.span) for a, b in zip(answer.body.rows, straight.body.rows, strict=True)]
    assert any(a != b for a, b in spans)
    year_8 = next(y for y in answer.method.facts["year_levels"] if y["year_level"] == 8)
    line = next(y for y in straight.method.facts["year_levels"] if y["year_level"] == 8)
    assert (year_8["n"], year_8["slope"]) == (line["n"], None)
    assert year_8["residual_sd"] == pytest.approx(line["residual_sd"], rel=0.05)
    assert answer.slots.against.startswith("where they started, by ")
    assert answer.coverage[0].counted == straight.coverage[0].counted > 500
    few = {"all": [*BY_SCHOOL["who"]["all"], {"field": "school", "in": ["Netherby"]}]}
    alone = demo.ask({**question, "who": few}).body.rows[0]
    assert alone.span == next(r.span for r in answer.body.rows if r.label == "Netherby")


@pytest.mark.parametrize("form", ["linear", "spline"])
def test_spans_are_those_of_the_core_on_the_files_read_another_way(demo: Place, form: str) -> None:
    """Within a twentieth of a point: the district's fit has also those who left before April."""
    read = year_8()
    e = expected_outcome(read["maths"], read["before"], form=form)
    ours = simple_effects(e.residual, read["school"], len(read["schools"]))
    found = demo.ask({**BY_SCHOOL, "against": {"prior": {"expect": form}}}).body.rows
    for row in found:
        k = read["schools"].index(row.label)
        assert row.n == ours.n[k]
        if row.span is not None:
            assert row.span == pytest.approx(ours.mean[k], abs=0.05)
            # Its own variance is taken together with the district's, and it drew part of the line.
            wide = (row.high - row.low) / (ours.high[k] - ours.low[k])
            assert 0.75 < wide < 1.25
            assert row.high - row.span == pytest.approx(row.span - row.low)


def test_sorting_and_paging(demo: Place) -> None:
    down = demo.ask({**BY_SCHOOL, "sort": [{"by": "mean", "dir": "desc"}]}).body.rows
    assert [r.mean for r in down] == sorted([r.mean for r in down], reverse=True)
    years = demo.ask({"what": [MATHS], "split": [{"field": "year_level"}],
                      "sort": [{"by": "label"}]}).body.rows  # fmt: skip
    assert [r.label for r in years] == [f"Year {n}" for n in range(3, 12)]
    listing = {**BY_SCHOOL, "show": "students", "split": []}
    first = demo.ask({**listing, "page": {"size": 100, "after": 0}})
    second = demo.ask({**listing, "page": {"size": 100, "after": 100}})
    assert len(set(first.body.student) & set(second.body.student)) == 0
    assert first.page is not None
    assert first.page.total == first.coverage[0].population
    for question in (BY_SCHOOL, listing):
        with pytest.raises(InvalidQuestion, match="cannot be sorted by"):
            demo.ask({**question, "sort": [{"by": "shoe_size"}]})


def test_small_groups_show_no_figures(place: Place) -> None:
    rows = [(f"{n:03d}", "Big" if n < 40 else "Mid" if n < 55 else "Wee", 8) for n in range(58)]
    place.bring("roster", roster(rows), academic_year="2025-26")
    lines = [f"{n:03d},Quiz,{2025 + y}-05-01,s{y},{50 + (n * 7) % 23 + y * (n % 3)}"
             for y in (0, 1) for n in range(58)]  # fmt: skip
    place.bring("results", "Number,Test,Date,Sitting,Score\n" + "\n".join(lines) + "\n")
    answer = place.ask({"what": [{"assessment": "Quiz"}], "split": [{"field": "school"}],
                        "against": {"prior": {}}})  # fmt: skip
    by = {row.label: row for row in answer.body.rows}
    assert (by["Wee"].n, by["Wee"].mean, by["Wee"].undefined) == (3, None, "too_few")
    assert (by["Mid"].n, by["Mid"].verdict) == (15, "few")
    assert by["Mid"].span is not None
    assert by["Big"].verdict != "few"
    assert "too few" in " ".join(r.text for r in answer.readings)


def test_groups_across_few_schools_are_judged_like_any(place: Place) -> None:
    """Schools are those that they are: two of them are no reason for silence."""
    lines = [f"{n:03d},{'AB'[n % 2]}ton,8,{'xy'[n % 3 // 2]}" for n in range(120)]
    place.bring("roster", "Number,School,Year,Wing\n" + "\n".join(lines) + "\n",
                academic_year="2025-26")  # fmt: skip
    scores = [f"{n:03d},Quiz,{2025 + y}-05-01,s{y},{50 + (n * 7) % 23 + y}"
              for y in (0, 1) for n in range(120)]  # fmt: skip
    place.bring("results", "Number,Test,Date,Sitting,Score\n" + "\n".join(scores) + "\n")
    answer = place.ask({"what": [{"assessment": "Quiz"}], "split": [{"characteristic": "Wing"}],
                        "against": {"group": {"who": {}}}})  # fmt: skip
    assert {row.verdict for row in answer.body.rows} <= {"unclear", "alike"}
    assert {row.se_kind for row in answer.body.rows} == {"students"}
    assert "What classes add is not known here" in answer.method.says[1]
    same = place.ask({"what": [{"assessment": "Quiz"}], "split": [{"field": "school"}],
                      "against": {"prior": {}}})  # fmt: skip
    # Everybody rose by one: nobody is off the line, and there is nothing to tell.
    assert {row.verdict for row in same.body.rows} <= {"few", "none"}


def test_a_year_without_a_roster_is_explained(place: Place) -> None:
    place.bring("roster", roster([("1", "A", 8)]), academic_year="2025-26")
    place.bring("results", "Number,Test,Date,Score\n1,Quiz,2024-11-01,5\n")
    with pytest.raises(NotFound, match="No roster of 2024-25") as caught:
        place.ask({"what": [{"assessment": "Quiz"}]})
    assert "as of today" in caught.value.next_step
    assert place.ask({"what": [{"assessment": "Quiz"}], "who": {"as_of": "today"}}).coverage


def test_nothing_kept_is_said(place: Place) -> None:
    with pytest.raises(NotFound, match="Nothing has been kept yet"):
        place.ask({"what": [{"assessment": "Quiz"}]})


def test_csv_and_text_say_what_the_answer_says(demo: Place) -> None:
    answer = demo.ask(BY_SCHOOL)
    lines = to_csv(*lines_of(answer)).splitlines()
    assert len(lines) == 13
    assert lines[1].startswith("reference,All schools,")
    first = answer.body.rows[0]
    assert repr(first.span) in lines[2]
    text = to_text(answer)
    assert answer.sentence in text
    assert first.label in text
    assert f"{MINUS}{abs(first.span or 0):.1f}" in text
