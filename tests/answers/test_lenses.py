"""Every lens against the demo's files read another way, and against one another."""

from __future__ import annotations

from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import polars as pl
import pytest
from tests.answers.sources import certificate, check, survey, year_8
from tests.support import Place

from bridge_chart.access.accounts import actor_named
from bridge_chart.answers.asking.answer import lines_of
from bridge_chart.terms.errors import InvalidQuestion, NotFound

MATHS: dict[str, Any] = {"assessment": "Spring survey", "subject": "Mathematics",
                         "sitting": "spring 2026"}  # fmt: skip
READING = {**MATHS, "subject": "Reading"}
YEAR_8: dict[str, Any] = {"all": [{"field": "year_level", "in": [8]}]}
SCHOOL = [{"field": "school"}]
LEVELS = ["Emerging", "Building", "Secure", "Strong", "Exceptional"]
CHECK = {"assessment": "Harbour check", "sitting": "winter 2026"}


@pytest.fixture(scope="module")
def folder(demo: Place) -> Path:
    return demo.settings.home / "demo"


def body(demo: Place, **question: Any) -> Any:
    return demo.ask(question).body


def test_levels_count_every_student_once_in_the_scales_order(demo: Place, folder: Path) -> None:
    shown = body(demo, who=YEAR_8, what=[MATHS], split=SCHOOL, show="levels")
    assert [step.name for step in shown.steps] == LEVELS
    assert [step.passes for step in shown.steps] == [False, False, True, True, True]
    students = year_8(folder)
    for row in shown.rows:
        own = students.filter(pl.col("School") == row.label)["Mathematics 2026 level"]
        counts = [int((own == name).sum()) for name in LEVELS]
        assert row.counts == counts
        assert row.n + row.missing == len(own)
        assert row.pass_count == sum(counts[2:])
        assert row.pass_share == pytest.approx(sum(counts[2:]) / sum(counts))
        assert row.at_or_above[0] == pytest.approx(1.0)
    shares = [row.pass_share for row in shown.rows]
    assert shares == sorted(shares)


def test_a_figure_seen_in_two_lenses_is_identical(demo: Place) -> None:
    question = {"who": YEAR_8, "what": [MATHS], "split": SCHOOL, "against": {"prior": {}}}
    spans, table = (body(demo, **question, show=show).rows for show in ("spans", "table"))
    assert spans == table
    levels = {r.label: r for r in body(demo, **question, show="levels").rows}
    plain = {r.label: r for r in body(demo, who=YEAR_8, what=[MATHS], split=SCHOOL).rows}
    curve = body(demo, who=YEAR_8, what=[MATHS], show="spread").curves[0]
    whole = body(demo, who=YEAR_8, what=[MATHS]).rows[0]
    assert (curve.mean, curve.sd, curve.median, curve.n) == pytest.approx(
        (whole.mean, whole.sd, whole.median, whole.n)
    )
    # Levels counts those with a starting score here, as the spans do.
    assert {k: r.n for k, r in levels.items()} == {r.label: r.n for r in spans}
    assert all(plain[k].n >= r.n for k, r in levels.items())


def test_half_levels_lie_inside_their_levels(demo: Place) -> None:
    whole = body(demo, who=YEAR_8, what=[MATHS], show="levels").rows[0]
    half = body(demo, who=YEAR_8, what=[{**MATHS, "grain": "half"}], show="levels")
    pairs = np.array(half.rows[0].counts).reshape(-1, 2).sum(axis=1)
    assert pairs.tolist() == whole.counts
    assert half.pass_at == 4
    assert half.rows[0].pass_share == pytest.approx(whole.pass_share)


def test_the_nations_levels_are_the_tables_own(demo: Place, folder: Path) -> None:
    answer = demo.ask(
        {"who": YEAR_8, "what": [MATHS], "show": "levels", "reference": ["district", "nation"]}
    )  # fmt: skip
    table = pl.read_csv(folder / "survey-national.csv", infer_schema=False).filter(
        (pl.col("Subject") == "Mathematics") & (pl.col("Sitting") == "spring 2026")
        & (pl.col("Year level") == "8") & (pl.col("Statistic") == "share")
    )  # fmt: skip
    nation = answer.body.reference[-1]
    assert nation.label == "The nation"
    assert nation.share == pytest.approx([float(v) for v in table["Value"]])
    assert nation.n == 20_000
    assert any("The nation" in r.text for r in answer.readings)


def test_counts_by_grade_with_what_was_predicted(demo: Place, folder: Path) -> None:
    geography = {"assessment": "Harbour certificate", "subject": "Geography"}
    answer = demo.ask({"show": "levels", "what": [
        geography, {**geography, "role": "predicted"},
        {**geography, "role": "target", "kind": "floor"}]})  # fmt: skip
    shown = answer.body
    rows = certificate(folder).filter(pl.col("Subject") == "Geography")
    names = [step.name for step in shown.steps]
    for row, column in zip(shown.rows, ("Grade", "Predicted grade", "Floor target"), strict=True):
        assert row.counts == [int((rows[column] == name).sum()) for name in names]
    assert [row.label for row in shown.rows] == ["Actual", "Predicted", "Floor target"]
    # The planted optimism: predictions pass more often, and the interval says so.
    said = next(r.text for r in answer.readings if r.text.startswith("Predicted passes"))
    assert "more often than actual" in said


def test_spread_is_the_share_at_or_above(demo: Place, folder: Path) -> None:
    shown = body(demo, who=YEAR_8, what=[MATHS, READING], show="spread")
    students = year_8(folder)
    for curve, subject in zip(shown.curves, ("Mathematics", "Reading"), strict=True):
        values = students[f"{subject} 2026"].drop_nulls().to_numpy()
        assert curve.label == subject
        assert curve.n == len(values)
        for at, share in zip(curve.at, curve.share, strict=True):
            assert share == pytest.approx(np.mean(values >= at))
        assert sum(curve.counts) == len(values)
    assert [line.label for line in shown.cuts] == LEVELS[1:]


def test_many_groups_have_a_box_each_and_no_curve(demo: Place, folder: Path) -> None:
    answer = demo.ask({"who": YEAR_8, "what": [MATHS], "split": SCHOOL, "show": "spread"})
    assert not answer.body.curves_drawn
    own = [curve for curve in answer.body.curves if not curve.pinned]
    students = year_8(folder).drop_nulls("Mathematics 2026")
    wanted = {
        school: np.quantile(mine["Mathematics 2026"].to_numpy(), (0.1, 0.25, 0.5, 0.75, 0.9))
        for (school,), mine in students.group_by("School")
    }
    assert len(own) == len(wanted) == 11
    for curve in own:
        box = (curve.p10, curve.q1, curve.median, curve.q3, curve.p90)
        assert box == pytest.approx(wanted[curve.label])
        assert sum(curve.counts) == curve.n
        assert curve.share == []
    assert [c.median for c in own] == sorted(c.median for c in own)
    assert answer.body.together == np.sum([c.counts for c in own], axis=0).tolist()
    both = [{"populations": [{"label": name, "who": YEAR_8} for name in ("once", "again")]}]
    doubled = body(demo, who=YEAR_8, what=[MATHS], split=both, show="spread")
    assert sum(doubled.together) == students.height  # who is in two groups is one student
    assert "don't rank" in answer.readings[0].text
    heads, lines = lines_of(answer)
    assert heads[3:6] == ["minimum", "p10", "q1"]
    assert len(lines) == len(answer.body.curves)
    few = body(demo, who=YEAR_8, what=[MATHS], split=[{"characteristic": "Sex"}], show="spread")
    assert [c.label for c in few.curves] == ["All schools", "F", "M"]


def test_start_to_now_draws_everybody_and_the_line_is_the_fits(demo: Place, folder: Path) -> None:
    question = {"who": YEAR_8, "what": [MATHS], "against": {"prior": {}}}
    shown = body(demo, **question, show="start_to_now")
    students = year_8(folder).drop_nulls(["Mathematics 2026", "Mathematics 2025"])
    assert shown.n == students.height == len(shown.dots.x)
    assert sorted(shown.dots.y) == sorted(students["Mathematics 2026"].to_list())
    assert shown.correlation == pytest.approx(
        np.corrcoef(students["Mathematics 2025"], students["Mathematics 2026"])[0, 1]
    )
    (line,) = shown.lines
    slope = (line.y[-1] - line.y[0]) / (line.x[-1] - line.x[0])
    fit = demo.ask(question).method.facts["year_levels"]
    assert slope == pytest.approx(next(y["slope"] for y in fit if y["year_level"] == 8))


def test_many_dots_become_a_density_that_counts_them_all(demo: Place) -> None:
    few = body(demo, who=YEAR_8, what=[MATHS], against={"prior": {}}, show="start_to_now")
    assert len(few.dots.x) == few.n
    dense = body(demo, what=[MATHS], against={"prior": {}}, show="start_to_now")
    assert dense.dots is None
    for grid in (dense.grid, dense.beyond):
        assert sum(map(sum, grid.counts)) == dense.n > 3000


def test_start_to_now_says_what_is_beyond_and_where_half_of_each_group_lies(demo: Place) -> None:
    shown = body(demo, who=YEAR_8, what=[MATHS], split=[{"characteristic": "Sex"}],
                 against={"prior": {}}, show="start_to_now")  # fmt: skip
    (line,) = shown.lines
    for x, y, beyond in zip(shown.dots.x, shown.dots.y, shown.dots.beyond, strict=True):
        assert beyond == pytest.approx(y - np.interp(x, line.x, line.y), abs=1e-6)
    assert [region.group for region in shown.regions] == [0, 1]
    for region in shown.regions:
        mine = np.array(shown.dots.group) == region.group
        assert region.n == mine.sum()
        inside = [
            int(48 * i + j) in set(region.cells)
            for i, j in zip(
                np.clip(np.digitize(shown.dots.x, shown.grid.x_edges) - 1, 0, 47),
                np.clip(np.digitize(shown.dots.y, shown.grid.y_edges) - 1, 0, 47),
                strict=True,
            )
        ]
        assert np.mean(np.array(inside)[mine]) == pytest.approx(0.5, abs=0.02)
    plain = body(demo, who=YEAR_8, what=[MATHS], show="start_to_now")
    assert (plain.beyond, plain.regions, plain.dots.beyond) == (None, [], [])


def test_over_time_follows_the_same_students(demo: Place, folder: Path) -> None:
    shown = body(demo, who={"as_of": "today", **YEAR_8}, what=[MATHS], show="over_time",
                 cohort="matched", over="year_level")  # fmt: skip
    (series,) = shown.series
    assert [p.label for p in series.points] == ["Year 6", "Year 7", "Year 8"]
    students = year_8(folder)
    for year in (2024,):
        first = survey(folder, year, "Mathematics").rename({"score": "first"})
        students = students.join(first, on="number", how="left")
    both = students.drop_nulls(["first", "Mathematics 2025", "Mathematics 2026"])
    assert [p.n for p in series.points] == [both.height] * 3
    change = (both["Mathematics 2026"] - both["Mathematics 2025"]).mean()
    assert series.points[-1].change == pytest.approx(change)
    present = body(demo, who={"as_of": "today", **YEAR_8}, what=[MATHS], show="over_time")
    assert present.series[0].points[-1].n > both.height
    assert present.series[0].points[-1].change == pytest.approx(
        (students["Mathematics 2026"] - students["Mathematics 2025"]).mean()
    )


def test_the_order_of_those_told_apart_says_nothing_of_others(demo: Place) -> None:
    """A data lead has the furthest from the others first, a head their own largest change."""
    asked = {"who": {"as_of": "today"}, "what": [MATHS], "split": [{"field": "class"}],
             "show": "over_time"}  # fmt: skip
    for login in ("ailsa", "rowan"):
        answer = demo.ask(asked, actor_named(demo.engine, login))
        told = sorted((one for one in answer.body.series if one.apart), key=lambda one: one.apart)
        assert [one.apart for one in told] == list(range(1, len(told) + 1))
        assert len(told) > 1, login
        for one in answer.body.series:
            marked = any(point.verdict in ("ahead", "behind") for point in one.points)
            assert marked == (one.apart is not None)
        if login == "rowan":
            far = [max(abs(p.change) for p in one.points if p.verdict in ("ahead", "behind"))
                   for one in told]  # fmt: skip
            assert far == sorted(far, reverse=True)


def test_over_time_needs_two_sittings(demo: Place) -> None:
    with pytest.raises(NotFound, match="one sitting only"):
        demo.ask({"what": [{"assessment": "Harbour certificate", "subject": "Art"}],
                  "show": "over_time"})  # fmt: skip


def test_strands_are_the_marks_of_their_questions(demo: Place, folder: Path) -> None:
    strand = {**CHECK, "form": "A", "part": {"kind": "strand", "is": "each"}}
    shown = body(demo, who=YEAR_8, what=[strand], show="table", sort=[{"by": "label"}])
    grid = check(folder, "winter").filter((pl.col("Year") == "8") & (pl.col("Form") == "A"))
    table = pl.read_csv(folder / "check-questions.csv", infer_schema=False)
    for row in shown.rows:
        asked = table.filter(pl.col("Strand") == row.label)
        worth = asked["Maximum"].cast(pl.Int64).sum()
        marks = grid.select(asked["Question"].to_list())
        some = marks.select(pl.any_horizontal(pl.all().is_not_null())).to_series()
        won = marks.fill_null(0).sum_horizontal().filter(some)
        assert row.mean == pytest.approx((100 * won / worth).mean())
        assert row.n == int(some.sum())


def test_the_weak_strands_of_the_planted_class_are_found(demo: Place) -> None:
    strand = {**CHECK, "part": {"kind": "strand", "is": "each"}}
    pupils = {"field": "class", "in": ["Netherby: 8B, 2025-26"]}
    answer = demo.ask({"who": {"all": [pupils]}, "what": [strand],
                       "against": {"group": {"who": YEAR_8}}})  # fmt: skip
    assert {row.label for row in answer.body.rows[:2]} == {"Fractions", "Shape and space"}
    assert [row.verdict for row in answer.body.rows[:2]] == ["behind", "behind"]
    learners = {"characteristic": "English fluency", "in": ["developing", "new to English"]}
    alone = body(demo, who={"all": [pupils, learners]}, what=[strand],
                 against={"group": {"who": YEAR_8}})  # fmt: skip
    assert all(row.verdict == "few" for row in alone.rows)
    every = body(demo, who={"all": [*YEAR_8["all"], learners]}, what=[strand],
                 against={"group": {"who": YEAR_8}})  # fmt: skip
    assert (every.rows[0].label, every.rows[0].verdict) == ("Problems in words", "behind")


def test_make_up_counts_the_set_and_the_rest(demo: Place, folder: Path) -> None:
    below = {"measure": MATHS, "below": 300}
    answer = demo.ask({"who": YEAR_8, "what": [MATHS], "show": "make_up", "focus": [below]})
    students = year_8(folder)
    known = students.drop_nulls("Mathematics 2026")
    inside = known.filter(pl.col("Mathematics 2026") < 300)
    shown = answer.body
    assert (shown.set_size, shown.rest_size) == (inside.height, known.height - inside.height)
    assert shown.left_out == students.height - known.height
    meals = next(e for e in shown.entries if (e.dimension, e.label) == ("Meal support", "yes"))
    assert meals.in_set == int((inside["Meal support"] == "yes").sum())
    assert meals.verdict == "more"
    assert any("Meal support: yes" in r.text for r in answer.readings)
    with pytest.raises(InvalidQuestion, match="must have a set"):
        demo.ask({"who": YEAR_8, "what": [MATHS], "show": "make_up"})


def test_scales_that_differ_share_no_axis(demo: Place) -> None:
    raw = {**CHECK, "score": "raw"}
    for show in ("spans", "spread"):
        with pytest.raises(InvalidQuestion, match="different scales"):
            demo.ask({"what": [MATHS, raw], "show": show})
    assert len(body(demo, what=[MATHS, raw], show="table").rows) == 2
    grade = {"assessment": "Harbour certificate", "subject": "Art"}
    with pytest.raises(InvalidQuestion, match="different scales"):
        demo.ask({"what": [MATHS, grade], "show": "levels"})
    with pytest.raises(NotFound, match="no levels or grades"):
        demo.ask({"what": [CHECK], "show": "levels"})


def test_levels_carry_what_the_yardstick_says_of_the_same_students(demo: Place) -> None:
    """Of a start the share that similar starters reach, with interval and verdict; of a target and
    the nation theirs. Without a yardstick nobody lacks for having no start."""
    asked = {"show": "levels", "what": [MATHS], "split": [{"field": "school"}]}
    bare = demo.ask(asked).body
    assert bare.against is None
    held = demo.ask({**asked, "against": {"prior": {}}}).body
    assert held.against == "similar starters"
    assert sum(r.n for r in held.rows) < sum(r.n for r in bare.rows)
    passed = held.pass_at
    for row in held.rows:
        told = row.by_yardstick
        assert told[0] == 1.0
        assert all(a >= b for a, b in pairwise(told))
        assert row.span == pytest.approx(100 * (row.pass_share - told[passed]), abs=0.6)
    # Everybody together reaches what everybody is expected to reach.
    n = np.array([row.n for row in held.rows])
    share, expected = (np.array(told) for told in zip(
        *((row.pass_share, row.by_yardstick[passed]) for row in held.rows), strict=True
    ))  # fmt: skip
    assert float(share @ n / n.sum()) == pytest.approx(float(expected @ n / n.sum()), abs=0.005)
    verdicts = {row.label: row.verdict for row in held.rows}
    assert verdicts["Fernhollow"] == "behind"
    assert verdicts["Brackwater"] == "ahead"
    nation = demo.ask({**asked, "against": {"nation": {}}}).body
    assert nation.against == "the nation"
    assert all(0.4 < row.by_yardstick[passed] < 0.8 for row in nation.rows)
    target = demo.ask({"show": "levels", "split": [{"field": "school"}], "what": [
        {"assessment": "Harbour mock", "subject": "Mathematics"}],
        "against": {"target": {"kind": "personal"}}}).body  # fmt: skip
    skarra = next(row for row in target.rows if row.label == "Skarra Point")
    assert skarra.by_yardstick[-1] == 1.0  # every target of the school is the top grade


def test_spread_has_the_expected_distribution_behind(demo: Place) -> None:
    asked = {"show": "spread", "what": [MATHS], "who": YEAR_8, "split": [], "reference": []}
    assert demo.ask(asked).body.curves[0].expected == []
    answer = demo.ask({**asked, "against": {"prior": {}}})
    curve = answer.body.curves[0]
    assert len(curve.expected) == len(curve.at)
    assert max(abs(a - b) for a, b in zip(curve.expected, curve.share, strict=True)) < 0.06
    assert any("similar starters would give" in text for text in answer.method.says)
