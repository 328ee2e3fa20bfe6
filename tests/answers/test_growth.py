"""Growth, standing, pace and chances: worked out again from the files, and the planted cases."""

from __future__ import annotations

from typing import Any

import numpy as np
import polars as pl
import pytest
from statsmodels.stats.proportion import proportion_confint
from tests.answers.sources import year_8
from tests.support import Place, planted

from bridge_chart.access.accounts import actor_named
from bridge_chart.core.growth.percentiles import growth_percentiles
from bridge_chart.terms.errors import InvalidQuestion, NotFound

MATHS: dict[str, Any] = {
    "assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"
}  # fmt: skip
READING = {**MATHS, "subject": "Reading"}
MOCK = {"assessment": "Harbour mock", "subject": "Mathematics"}
CERTIFICATE = {"assessment": "Harbour certificate", "subject": "Mathematics"}
BACK = {"assessment": "same", "subject": "same", "sitting": {"back": 1}}
EARLIER = {"earlier": {"measure": BACK}}
EIGHTH = {"all": [{"field": "year_level", "in": [8]}]}
SCHOOL = [{"field": "school"}]


def both(demo: Place) -> dict[str, np.ndarray]:
    frame = year_8(demo.settings.home / "demo").drop_nulls(["Mathematics 2026", "Mathematics 2025"])
    return {
        "school": frame["School"].to_numpy(),
        "now": frame["Mathematics 2026"].to_numpy().astype(float),
        "before": frame["Mathematics 2025"].to_numpy().astype(float),
    }


def test_growth_is_worked_out_again_from_the_files(demo: Place) -> None:
    asked = {"show": "growth", "what": [MATHS], "who": EIGHTH, "split": SCHOOL, "against": EARLIER}
    body = demo.ask(asked).body
    read = both(demo)
    rank = growth_percentiles(read["now"], read["before"][:, None]).percentile
    table = pl.read_csv(demo.settings.home / "demo" / "survey-growth.csv").filter(
        (pl.col("Subject") == "Mathematics") & (pl.col("Year level") == 8)
    )
    expected = np.interp(read["before"], table["Start"], table["Expected"])
    for row in body.rows:
        mine = read["school"] == row.label
        assert row.n == mine.sum()
        assert row.change == pytest.approx((read["now"] - read["before"])[mine].mean())
        met = next(one for one in row.met if one.goal == "expected")
        assert met.n == (read["now"] >= expected)[mine].sum()
        if row.median is not None:
            # A few who were in the year level and nowhere on roll are in the fit too.
            assert row.median == pytest.approx(np.median(rank[mine]), abs=3)
            assert row.median_low < row.median < row.median_high
        else:
            assert row.n < 30
    assert {r.label for r in body.rows if r.verdict == "behind"} == {"Fernhollow"}
    spans = demo.ask({**asked, "show": "spans", "against": {"prior": {}}}).body.rows
    told = {row.label: (row.span, row.verdict) for row in spans}
    assert all(told[r.label] == (pytest.approx(r.span), r.verdict) for r in body.rows)


def test_who_falls_behind_though_gaining_is_found(demo: Place) -> None:
    """Planted: a student whose score rises a little in two years in which others rise far more."""
    number = planted(demo)["truth"]["rank_falls_though_score_rises"]
    asked = {"show": "growth", "what": [READING], "split": [{"field": "year_level"}],
             "who": {"all": [{"field": "year_level", "in": [10]}]},
             "against": {"earlier": {"measure": {
                 **READING, "sitting": "spring 2024"}}}}  # fmt: skip
    answer = demo.ask(asked)
    fell = answer.body.rows[0].fell
    listed = demo.opened(asked, fell.beyond.opens).body
    numbers = next(c for c in listed.columns if c.key == "number").values
    assert number in numbers
    assert fell.beyond.n == len(numbers)
    # As many as error alone would put there are not news: the answer says how many that is.
    assert 2 < fell.beyond_alone < fell.beyond.n
    assert any("error alone would put about" in reading.text for reading in answer.readings)


def test_growth_is_the_same_for_a_lead_of_a_school(demo: Place) -> None:
    asked = {"show": "growth", "what": [MATHS], "who": EIGHTH, "split": SCHOOL, "against": EARLIER}
    whole = next(r for r in demo.ask(asked).body.rows if r.label == "Fernhollow")
    own = demo.ask(asked, actor_named(demo.engine, "rowan")).body
    assert [row.label for row in own.rows] == ["Fernhollow"]
    mine = own.rows[0]
    assert (mine.median, mine.median_low, mine.span) == (
        whole.median, pytest.approx(whole.median_low), pytest.approx(whole.span),
    )  # fmt: skip
    assert [one.n for one in mine.met] == [one.n for one in whole.met]


def test_two_starts_are_two_starts(demo: Place) -> None:
    asked = {"show": "growth", "what": [MATHS], "who": EIGHTH, "split": [], "against": EARLIER,
             "options": {"priors": 2}}  # fmt: skip
    body = demo.ask(asked).body
    assert body.priors == ["Mathematics, spring 2025", "Mathematics, spring 2024"]
    three = demo.ask({**asked, "options": {"priors": 3}}).body
    assert "growth stands on 2 of the 3 starts asked for" in three.lacks


def test_standing_to_two_targets_counted_from_the_file(demo: Place) -> None:
    frame = pl.read_csv(demo.settings.home / "demo" / "certificate-2025.csv", infer_schema=False)
    mine = frame.filter((pl.col("Subject") == "Mathematics") & (pl.col("Grade") != "X"))
    place = {name: n for n, name in enumerate(("U", "E", "D", "C", "B", "A", "A*"))}
    grade, floor, personal = (
        np.array([place[x] for x in mine[c]]) for c in ("Grade", "Floor target", "Personal target")
    )
    asked = {"show": "standing", "what": [{**CERTIFICATE, "sitting": "June 2025"}],
             "against": {"target": {"kind": "floor"}},
             "options": {"also": ["personal"]}}  # fmt: skip
    answer = demo.ask(asked)
    body = answer.body
    assert [step.name for step in body.steps] == [
        "two or more below", "one below", "on target", "above"
    ]  # fmt: skip
    assert body.pass_at == 2
    for row, target in zip(body.rows, (floor, personal), strict=True):
        away = grade - target
        counts = [(away <= -2).sum(), (away == -1).sum(), (away == 0).sum(), (away > 0).sum()]
        assert row.counts == counts
    [differ] = body.differ
    assert differ.differ == pytest.approx((floor != personal).sum(), abs=7)  # exempt ones have both
    assert differ.mean == pytest.approx((personal - floor).mean(), abs=0.02)
    with pytest.raises(InvalidQuestion, match="what it is measured against"):
        demo.ask({**asked, "against": None, "options": {}})


def test_halves_of_a_level_that_is_on_target(place: Place) -> None:
    """Level 2 from 20 on, its middle at 25: 21 and 29 are on target, in its lower and upper
    half."""
    place.bring("roster", "Number,School,Year level\n" + "".join(
        f"{n},Isle,8\n" for n in range(1, 5)),
        academic_year="2025-26", as_of="2025-09-01")  # fmt: skip
    place.bring("scale", "Test,Score,Step,Pass,From\nT,level,1,no,10\nT,level,2,yes,20\n"
                         "T,level,3,yes,30\n")  # fmt: skip
    place.bring("results", "Number,Test,Scaled score,Level,Target level\n1,T,12,1,2\n2,T,21,2,2\n"
                           "3,T,29,2,2\n4,T,34,3,2\n",
                sitting="May", date="2026-05-05")  # fmt: skip
    kind = next(m.kind for m in place.snapshot.measures if m.role == "target")
    asked = {"show": "students", "what": [{"assessment": "T"}], "columns": [{"measure": {
        "derive": "status", "of": {"assessment": "T", "score": "level"},
        "against": {"target": {"kind": kind}}}}]}  # fmt: skip
    listed = place.ask(asked).body
    told = dict(zip(
        next(c for c in listed.columns if c.key == "number").values,
        listed.columns[-1].values, strict=True,
    ))  # fmt: skip
    assert told == {"1": "one below", "2": "on target, lower", "3": "on target, upper",
                    "4": "above"}  # fmt: skip


def test_steps_made_and_pace_from_the_files(demo: Place) -> None:
    frame = year_8(demo.settings.home / "demo")
    order = {name: n for n, name in enumerate(planted(demo)["levels"])}
    told = frame.drop_nulls(["Mathematics 2026", "Mathematics 2025"])
    body = demo.ask({"show": "pace", "what": [MATHS], "who": EIGHTH, "split": SCHOOL,
                     "against": EARLIER}).body  # fmt: skip
    assert body.wanted == 2
    for row in body.rows:
        mine = told.filter(pl.col("School") == row.label)
        assert row.n == mine.height
        assert sum(one.n for one in row.made) == row.stepped == row.n
        if row.enough is not None:
            low, high = proportion_confint(row.enough.n, row.stepped, method="wilson")
            assert row.low <= low + 1e-9
            assert row.high >= high - 1e-9
    assert len(order) == 5
    # A pace is the slope of a line through a student's own springs, a year.
    one = demo.ask({"show": "students", "what": [MATHS], "who": EIGHTH, "page": {"size": 600},
                    "columns": [{"measure": {"derive": "pace", "of": MATHS}},
                                *({"measure": {**MATHS, "sitting": f"spring {y}"}}
                                  for y in (2024, 2025, 2026))]}).body  # fmt: skip
    pace, *scores = [c.values for c in one.columns if c.key not in ("name", "number")]
    days = np.array([0, 364, 728]) / 365.25
    checked = 0
    for slope, *three in zip(pace, *scores, strict=True):
        if slope is not None and None not in three:
            assert slope == pytest.approx(np.polyfit(days, three, 1)[0])
            checked += 1
    assert checked > 300


def test_chances_from_the_files(demo: Place) -> None:
    home = demo.settings.home / "demo"
    march = pl.read_csv(home / "mock-earlier.csv", infer_schema=False)
    june = pl.concat([
        pl.read_csv(home / "certificates-earlier.csv", infer_schema=False),
        pl.read_csv(home / "certificate-2025.csv", infer_schema=False).select(
            "Student No", "Subject", pl.lit("June 2025").alias("Sitting"),
            pl.lit("2025-06-20").alias("Test date"), "Grade"),
    ]).filter(pl.col("Grade") != "X")  # fmt: skip
    pairs = march.filter(pl.col("Subject") == "Mathematics").join(
        june.filter(pl.col("Subject") == "Mathematics"), on="Student No", suffix=" June"
    )
    body = demo.ask({"show": "chances", "what": [MOCK]}).body
    assert body.later == "Harbour certificate, Mathematics"
    assert len(body.cohorts) == 5
    steps = [one.name for one in body.outcomes]
    for row in body.rows:
        mine = pairs.filter(pl.col("Grade") == row.label)["Grade June"]
        assert row.past == mine.len()
        assert row.share == pytest.approx([(mine == grade).mean() for grade in steps])
    c = next(row for row in body.rows if row.label == "C")
    # Planted: June is on average .45 of a grade above March, with a spread of .75.
    assert c.at_or_above[steps.index("C")] == pytest.approx(0.92, abs=0.03)


def test_chances_are_rounded_for_a_lead_and_refused_where_one_cohort_tells(demo: Place) -> None:
    rowan = actor_named(demo.engine, "rowan")
    body = demo.ask({"show": "chances", "what": [MOCK]}, rowan).body
    whole = {r.label: r for r in demo.ask({"show": "chances", "what": [MOCK]}).body.rows}
    assert all(cohort.n is None for cohort in body.cohorts)
    for row in body.rows:
        assert row.coarse is not None
        assert row.past is not None
        assert row.past % 10 == 0
        for share, exact in zip(row.share, whole[row.label].share, strict=True):
            assert share == pytest.approx(exact, abs=row.coarse / 2 + 1e-9)
            assert round(share / row.coarse, 6) == round(share / row.coarse)
        # Whoever knows own students cannot count the others to within five.
        assert row.coarse * whole[row.label].past * 0.9 >= 8
    with pytest.raises(NotFound, match="one alone"):
        demo.ask({"show": "chances", "what": [MATHS], "who": {"all": [
            {"field": "year_level", "in": [3]}]}, "options": {"later": {
                "assessment": "Harbour certificate"}}})  # fmt: skip


def test_much_movement_that_error_explains_and_some_that_it_does_not(demo: Place) -> None:
    """Planted: in Writing nobody of one school changes and all stand where two levels meet; in
    Mathematics Brackwater's students really move."""
    near, subject = planted(demo)["truth"]["moves_by_error_alone"]
    writing = demo.ask({"show": "movement", "what": [{**MATHS, "subject": subject}],
                        "split": SCHOOL, "against": EARLIER}).body  # fmt: skip
    moved = demo.ask({
        "show": "movement", "what": [{**MATHS, "subject": subject}],
        "who": {"all": [{"field": "school", "in": [near]}]}, "against": EARLIER,
    }).body  # fmt: skip
    assert (moved.up.n + moved.down.n) / moved.rows[0].n > 0.4
    row = next(r for r in writing.rows if r.label == near)
    assert row.verdict not in ("ahead", "behind")
    assert row.low <= row.alone <= row.high
    maths = demo.ask(
        {"show": "movement", "what": [MATHS], "split": SCHOOL, "against": EARLIER}
    ).body
    real = next(r for r in maths.rows if r.label == "Brackwater")
    assert real.verdict == "ahead"
    assert real.alone is not None
    assert real.low > real.alone


def test_a_book_band_in_every_list_and_out_of_range_said(demo: Place) -> None:
    asked = {"show": "students", "what": [READING], "who": EIGHTH, "page": {"size": 600},
             "columns": [
        {"measure": {"derive": "convert", "of": READING, "table": "Book band"}},
        {"measure": READING}]}  # fmt: skip
    columns = [c for c in demo.ask(asked).body.columns if c.key not in ("name", "number")]
    bands = ("Amber", "Coral", "Heather", "Indigo", "Jade", "Pearl", "Slate", "Umber")
    seen = set()
    for band, score, why in zip(columns[0].values, columns[1].values, columns[0].why, strict=True):
        if score is None:
            continue
        if score < 200:
            assert why == "below 200, where the table starts"
            continue
        assert band == bands[min(int((score - 200) // 30), 7)]
        seen.add(band)
    assert len(seen) >= 6


def test_the_students_page_has_the_band_and_the_pace(demo: Place) -> None:
    from bridge_chart.access.accounts import OPERATOR
    from bridge_chart.answers.person.student import student_page

    listed = demo.ask({"show": "students", "what": [READING], "who": EIGHTH, "page": {"size": 40},
                       "columns": [{"measure": {**READING, "sitting": f"spring {y}"}}
                                   for y in (2024, 2025, 2026)]}).body  # fmt: skip
    scores = [c.values for c in listed.columns if c.key not in ("name", "number")]
    at = next(n for n, three in enumerate(zip(*scores, strict=True)) if None not in three)
    page = student_page(demo.engine, demo.settings, OPERATOR, listed.student[at])
    newest = next(one for one in page.results if one.label == "Reading, spring 2026")
    # Papers that others sat before this student was on any roll are none of theirs.
    assert {one.assessment for one in page.results} <= {"Spring survey", "Harbour check"}
    told = {one.label: one.value for one in newest.also}
    bands = ("Amber", "Coral", "Heather", "Indigo", "Jade", "Pearl", "Slate", "Umber")
    three = [column[at] for column in scores]
    assert told["Book band"] == bands[min(int((three[2] - 200) // 30), 7)]
    slope = np.polyfit(np.array([0, 364, 728]) / 365.25, three, 1)[0]
    assert told["pace"].startswith(f"{abs(slope):.1f}" if slope >= 0 else "−")
    assert " to " in told["a year on at this pace"]


def test_starting_bands_with_cuts_of_ones_own(demo: Place) -> None:
    before = {**MATHS, "sitting": "spring 2025"}
    scheme = {"cuts": [300, 340], "names": ["catching up", "on the way", "there"]}
    body = demo.ask({"show": "table", "what": [MATHS], "who": EIGHTH,
                     "split": [{"band": before, "scheme": scheme}]}).body  # fmt: skip
    read = both(demo)["before"]
    told = {row.label: row.n for row in body.rows}
    assert (told["catching up"], told["on the way"], told["there"]) == (
        (read < 300).sum(), ((read >= 300) & (read < 340)).sum(), (read >= 340).sum(),
    )  # fmt: skip
    with pytest.raises(InvalidQuestion, match="must rise"):
        demo.ask({"what": [MATHS], "split": [{"band": "prior", "scheme": {"cuts": [5, 5]}}]})
