"""Every yardstick against the demo's files read another way."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
import polars as pl
import pytest
from scipy import stats
from tests.answers.sources import certificate, check, expected_by_line, year_8
from tests.support import Place

from bridge_chart.access.accounts import actor_named
from bridge_chart.terms.errors import Ambiguous, InvalidQuestion, NotFound

MATHS: dict[str, Any] = {"assessment": "Spring survey", "subject": "Mathematics",
                         "sitting": "spring 2026"}  # fmt: skip
YEAR_8: dict[str, Any] = {"all": [{"field": "year_level", "in": [8]}]}
SCHOOL = [{"field": "school"}]
EARLIER = {"earlier": {"measure": {"assessment": "same", "subject": "same",
                                   "sitting": {"back": 1}}}}  # fmt: skip


@pytest.fixture(scope="module")
def folder(demo: Place) -> Path:
    return demo.settings.home / "demo"


def rows(demo: Place, **question: Any) -> dict[str, Any]:
    return {row.label: row for row in demo.ask(question).body.rows}


def test_an_earlier_sitting_is_the_gain_of_those_with_both(demo: Place, folder: Path) -> None:
    found = rows(demo, who=YEAR_8, what=[MATHS], split=SCHOOL, against=EARLIER)
    students = year_8(folder).drop_nulls(["Mathematics 2026", "Mathematics 2025"])
    for school, row in found.items():
        own = students.filter(pl.col("School") == school)
        gain = (own["Mathematics 2026"] - own["Mathematics 2025"]).to_numpy()
        assert row.n == len(gain)
        assert row.span == pytest.approx(gain.mean())
        bounds = stats.ttest_1samp(gain, 0).confidence_interval(0.95)
        if row.low is not None:
            assert 0.75 < (row.high - row.low) / (bounds.high - bounds.low) < 1.4


def test_a_group_is_the_rest_of_it(demo: Place, folder: Path) -> None:
    found = rows(demo, who=YEAR_8, what=[MATHS], split=SCHOOL, against={"group": {"who": YEAR_8}})
    students = year_8(folder).drop_nulls("Mathematics 2026")
    for school, row in found.items():
        own = students.filter(pl.col("School") == school)["Mathematics 2026"].to_numpy()
        rest = students.filter(pl.col("School") != school)["Mathematics 2026"].to_numpy()
        test = stats.ttest_ind(own, rest, equal_var=False)
        assert row.span == pytest.approx(own.mean() - rest.mean())
        bounds = test.confidence_interval(0.95)
        if row.low is not None:
            assert 0.75 < (row.high - row.low) / (bounds.high - bounds.low) < 1.6
        assert row.yardstick == pytest.approx(rest.mean())
    whole = demo.ask({"who": YEAR_8, "what": [MATHS], "against": {"group": {"who": YEAR_8}}})
    assert whole.body.rows[0].span is None


def test_the_nation_is_looked_up_by_form_and_year_level(demo: Place, folder: Path) -> None:
    measure = {"assessment": "Harbour check", "sitting": "autumn 2025", "score": "raw"}
    pupils = {"all": [{"field": "school", "in": ["Netherby"]}]}
    (row,) = rows(demo, who=pupils, what=[measure], against={"nation": {}}).values()
    table = pl.read_csv(folder / "check-national.csv", infer_schema=False).filter(
        (pl.col("Sitting") == "autumn 2025") & (pl.col("Score") == "raw")
        & (pl.col("Part").fill_null("") == "")
        & (pl.col("Statistic") == "mean")
    )  # fmt: skip
    means = {(r["Form"], r["Year level"]): float(r["Value"]) for r in table.iter_rows(named=True)}
    roster = pl.read_csv(folder / "roster-2025-26.csv", infer_schema=False)
    schools = dict(zip(roster["Student number"], roster["School"], strict=True))
    spans = []
    for student in check(folder, "autumn").iter_rows(named=True):
        if schools.get(student["number"]) != "Netherby":
            continue
        marks = [student[f"Q{n}"] for n in range(1, 31)]
        if any(mark is not None for mark in marks):
            total = sum(mark or 0 for mark in marks)
            spans.append(total - means[student["Form"], student["Year"]])
    assert row.n == len(spans)
    assert row.span == pytest.approx(np.mean(spans))


def test_a_strand_of_the_nation_is_that_of_its_questions(demo: Place, folder: Path) -> None:
    part = {"kind": "strand", "is": "Fractions"}
    measure = {"assessment": "Harbour check", "sitting": "winter 2026", "form": "A", "part": part}
    (row,) = rows(demo, who=YEAR_8, what=[measure], against={"nation": {}}).values()
    table = pl.read_csv(folder / "check-national.csv", infer_schema=False).filter(
        (pl.col("Sitting") == "winter 2026") & (pl.col("Form") == "A")
        & (pl.col("Year level") == "8") & (pl.col("Statistic") == "facility")
        & pl.col("Of").is_in([f"Q{n}" for n in range(7, 13)])
    )  # fmt: skip
    worth = np.array([1, 1, 2, 1, 1, 2])
    nation = 100 * (worth @ table["Value"].cast(pl.Float64).to_numpy()) / worth.sum()
    assert row.yardstick == pytest.approx(nation)


def test_a_target_and_a_prediction_in_points(demo: Place, folder: Path) -> None:
    grades = ["U", "E", "D", "C", "B", "A", "A*"]
    subject = {"assessment": "Harbour certificate", "subject": "Geography"}
    rows_ = certificate(folder).filter(
        (pl.col("Subject") == "Geography") & pl.col("Grade").is_in(grades)
    )
    points = {name: n for n, name in enumerate(grades)}
    for against, column in (
        ({"target": {"kind": "floor"}}, "Floor target"),
        ({"target": {"kind": "personal"}}, "Personal target"),
        ({"predicted": {}}, "Predicted grade"),
    ):
        (row,) = rows(demo, what=[subject], against=against).values()
        gaps = [points[a] - points[b] for a, b in zip(rows_["Grade"], rows_[column], strict=True)]
        assert row.span == pytest.approx(np.mean(gaps))
        assert row.n == len(gaps)
    (row,) = rows(demo, what=[subject], against={"predicted": {}}).values()
    assert row.verdict == "behind"  # the planted optimism
    with pytest.raises((Ambiguous, NotFound)):
        demo.ask({"what": [subject], "against": {"target": {"kind": "dream"}}})


def test_several_starts_hold_whoever_has_one_of_them(demo: Place, folder: Path) -> None:
    before = {**MATHS, "sitting": "spring 2025"}
    reading = {**before, "subject": "Reading"}
    asked = {"who": YEAR_8, "what": [MATHS], "against": {"prior": {"priors": [before, reading]}}}
    answer = demo.ask(asked)
    students = year_8(folder).drop_nulls("Mathematics 2026")
    one = students["Mathematics 2025"].is_not_null()
    other = students["Reading 2025"].is_not_null()
    assert answer.coverage[0].counted == int((one | other).sum())
    patterns = {tuple(r["priors"]) for r in answer.coverage[0].routes}
    assert len(patterns) == 3
    # Those with both, against a plane fitted on everyone with both, by least squares.
    listed = demo.ask({**asked, "show": "students", "page": {"size": 1000}}).body
    columns = {c.key: c.values for c in listed.columns}
    expected = dict(zip(columns["number"], columns["expected"], strict=True))
    both = students.filter(one & other)
    design = np.column_stack([np.ones(both.height), both["Mathematics 2025"], both["Reading 2025"]])
    fit = np.linalg.lstsq(design, both["Mathematics 2026"].to_numpy(), rcond=None)[0]
    told = [expected[number] for number in both["number"]]
    assert np.nanmax(np.abs(np.array(told) - design @ fit)) < 1.5  # a few joined since the fit
    spec = {"priors": [before, reading], "expect": "equal_scores"}
    with pytest.raises(InvalidQuestion, match="one prior"):
        demo.ask({**asked, "against": {"prior": spec}})


def test_a_derived_span_is_the_students_own(demo: Place, folder: Path) -> None:
    span = {"derive": "span", "of": MATHS, "against": {"prior": {}}}
    listed = demo.ask({"who": YEAR_8, "what": [span], "show": "students",
                       "page": {"size": 1000}}).body  # fmt: skip
    columns = {c.key: c.values for c in listed.columns}
    students = year_8(folder)
    start = students["Mathematics 2025"].to_numpy().astype(float)
    outcome = students["Mathematics 2026"].to_numpy().astype(float)
    own = outcome - expected_by_line(start, outcome)
    mine = dict(zip(students["number"], own.tolist(), strict=True))
    told = dict(zip(columns["number"], columns["score"], strict=True))
    both = [n for n in mine if told.get(n) is not None and np.isfinite(mine[n])]
    assert len(both) > 500
    assert np.max(np.abs([told[n] - mine[n] for n in both])) < 0.75
    below = demo.ask({"who": {"all": [*YEAR_8["all"], {"measure": span, "below": 0}]},
                      "what": [MATHS]})  # fmt: skip
    negative = sum(1 for v in columns["score"] if v is not None and v < 0)
    assert below.coverage[0].counted == negative
    assert below.chips[1].text.endswith("span: below 0 scaled-score points")
    well = demo.ask({"who": {"all": [*YEAR_8["all"], {"measure": span, "status": ["below"]}]},
                     "what": [MATHS]})  # fmt: skip
    assert well.chips[1].text == "below expectation in Mathematics, spring 2026"
    left = np.array([v for v in own.tolist() if np.isfinite(v)])
    error = np.sqrt(np.sum(left**2) / (len(left) - 2))
    assert well.coverage[0].counted == pytest.approx(np.sum(left < -error), abs=4)
    assert well.coverage[0].counted < negative / 2


def test_steps_made_since_the_last_sitting(demo: Place, folder: Path) -> None:
    steps = {"derive": "steps", "of": {**MATHS, "score": "level"}, "against": EARLIER}
    (row,) = rows(demo, who=YEAR_8, what=[steps]).values()
    names = ["Emerging", "Building", "Secure", "Strong", "Exceptional"]
    students = year_8(folder)
    made = [
        names.index(a) - names.index(b)
        for a, b in zip(
            students["Mathematics 2026 level"], students["Mathematics 2025 level"], strict=True
        )
        if a in names and b in names
    ]
    assert row.n == len(made)
    assert row.mean == pytest.approx(np.mean(made))


def test_pooled_rows_are_drawn_in_and_ranked(demo: Place) -> None:
    asked = {"who": YEAR_8, "what": [MATHS], "split": [{"field": "class"}]}
    simple = rows(demo, **asked, against={"prior": {}})
    pooled = rows(demo, **asked, against={"prior": {"model": "multilevel"}})
    for label, row in pooled.items():
        assert row.se_kind == "comparative"
        assert row.n == simple[label].n
        assert row.mean == pytest.approx(simple[label].mean)
        assert 0 < row.reliability < 1
        cut = (row.reliability >= 0.5) + (row.reliability >= 0.7)
        assert row.firmness == ("few", "indicative", "firm")[cut]
        place, low, high = row.rank
        assert 1 <= low <= place <= high <= len(pooled)
    spread = {k: np.std([r.span for r in v.values()]) for k, v in
              (("simple", simple), ("pooled", pooled))}  # fmt: skip
    assert spread["pooled"] < spread["simple"]
    worst = max(pooled.values(), key=lambda r: r.rank[0])
    assert "Fernhollow" in worst.label
    # Not a level of the model: said, and not shrunken.
    answer = demo.ask({**asked, "split": [{"characteristic": "Sex"}],
                       "against": {"prior": {"model": "multilevel"}}})  # fmt: skip
    assert answer.method.facts["not_shrunken"] == "the split is no level of the model"
    assert all(row.rank is None for row in answer.body.rows)


def test_fewer_than_ten_groups_are_estimated_and_not_judged(place: Place) -> None:
    """A model of eight schools says where they lie, and judges none of them."""
    rng = np.random.default_rng(3)
    students = [(f"{n:04d}", f"School {n % 8}") for n in range(640)]
    place.bring(
        "roster",
        "number,school,year\n" + "".join(f"{number},{school},8\n" for number, school in students),
        academic_year="2025-26",
    )
    for name, date, lift in (("before", "2025-10-01", 0.0), ("after", "2026-04-01", 9.0)):
        start = rng.normal(50, 10, 640)
        lines = "".join(
            f"{number},{start[n] + (lift if n % 8 == 3 else 0):.1f}\n"
            for n, (number, _) in enumerate(students)
        )
        place.bring(
            "results",
            "id,score\n" + lines,
            name=f"{name}.csv",
            test="Quiz",
            sitting=name,
            date=date,
        )
    asked = {
        "what": [{"assessment": "Quiz", "sitting": "after"}],
        "split": [{"field": "school"}],
        "against": {"prior": {"model": "multilevel"}},
    }
    answer = place.ask(asked)
    assert {row.verdict for row in answer.body.rows} == {"none"}
    assert all(row.span is not None for row in answer.body.rows)
    assert "judges none" in " ".join(answer.method.says)
    assert not any(r.kind in ("ahead", "behind") for r in answer.readings)


def test_a_school_lead_gets_the_districts_fit_for_own_classes(demo: Place) -> None:
    rowan = actor_named(demo.engine, "rowan")
    asked = {"who": YEAR_8, "what": [MATHS], "split": [{"field": "school"}],
             "against": {"prior": {"model": "multilevel"}}}  # fmt: skip
    district = rows(demo, **asked)["Fernhollow"]
    own = {r.label: r for r in demo.ask(asked, rowan).body.rows}
    assert own["Fernhollow"].span == pytest.approx(district.span)
    assert set(own) == {"Fernhollow"}


def test_another_schools_mean_is_no_yardstick_for_a_school_lead(demo: Place) -> None:
    rowan = actor_named(demo.engine, "rowan")
    other = {"group": {"who": {"all": [{"field": "school", "in": ["Netherby"]}]}}}
    asked = {"who": YEAR_8, "what": [MATHS], "against": other}
    with pytest.raises(NotFound, match="no school “Netherby”"):
        demo.ask(asked, rowan)
    against = {"against": {"group": {"who": YEAR_8}}}
    everyone = demo.ask({**asked, **against}, rowan).body.rows[0]
    theirs = {"who": {"all": [*YEAR_8["all"], {"field": "school", "in": ["Fernhollow"]}]}}
    district = demo.ask({**asked, **against, **theirs}).body.rows[0]
    assert everyone.span == pytest.approx(district.span)
    assert everyone.yardstick == pytest.approx(district.yardstick)


def test_a_prior_must_come_before(demo: Place) -> None:
    later = {**MATHS, "sitting": "spring 2024"}
    with pytest.raises(InvalidQuestion, match="must be earlier"):
        demo.ask({"what": [later], "against": {"prior": {"priors": [MATHS]}}})
    with pytest.raises(InvalidQuestion, match="not earlier"):
        demo.ask({"what": [later], "against": {"earlier": {"measure": MATHS}}})
    with pytest.raises(NotFound, match="no national figures"):
        demo.ask({"what": [{"assessment": "Harbour certificate", "subject": "Art"}],
                  "against": {"nation": {}}})  # fmt: skip
