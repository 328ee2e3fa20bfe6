"""The share at or above any cut, and of whom conditions hold: a figure like any other."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import polars as pl
import pytest
from statsmodels.stats.proportion import proportion_confint
from tests.answers.sources import certificate, year_8
from tests.support import Place

from bridge_chart.terms.errors import InvalidQuestion, NotFound, NotYet

MATHS: dict[str, Any] = {"assessment": "Spring survey", "subject": "Mathematics",
                         "sitting": "spring 2026"}  # fmt: skip
READING = {**MATHS, "subject": "Reading"}
EIGHTH: dict[str, Any] = {"all": [{"field": "year_level", "in": [8]}]}
LEVELS = ["Emerging", "Building", "Secure", "Strong", "Exceptional"]
GRADES = ["U", "E", "D", "C", "B", "A", "A*"]
ABOVE = {"Secure": LEVELS[2:], "Strong": LEVELS[3:]}


def share(measure: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"measure": measure, "statistic": "share", **more}


@pytest.fixture(scope="module")
def students(demo: Place) -> pl.DataFrame:
    return year_8(Path(demo.settings.home) / "demo")


@pytest.mark.parametrize("cut", ["Secure", "Strong"])
def test_a_share_is_counted_from_the_files(demo: Place, students: pl.DataFrame, cut: str) -> None:
    answer = demo.ask({"who": EIGHTH, "what": [share(MATHS, cut=cut)],
                       "split": [{"field": "school"}]})  # fmt: skip
    assert answer.measures[0].unit == "%"
    for row in answer.body.rows:
        level = students.filter(pl.col("School") == row.label)["Mathematics 2026 level"]
        known = level.drop_nulls().filter(level.drop_nulls().is_in(LEVELS))
        reached = int(known.is_in(ABOVE[cut]).sum())
        assert (row.n, row.n + row.missing) == (known.len(), level.len())
        assert row.value == pytest.approx(100 * reached / known.len())
        low, high = proportion_confint(reached, known.len(), method="wilson")
        # No narrower than students alone make it; t for z, and what classes add.
        assert 0 <= row.low <= 100 * low + 1e-9
        assert 100 * high - 1e-9 <= row.high <= 100
        assert row.high - row.low < 1.6 * 100 * (high - low)


def test_without_a_cut_it_is_the_pass_line_and_levels_draw_it_anywhere(demo: Place) -> None:
    asked = {"who": EIGHTH, "split": [{"characteristic": "Sex"}]}
    plain = demo.ask({**asked, "what": [MATHS], "show": "levels"}).body
    shares = demo.ask({**asked, "what": [share(MATHS)]}).body.rows
    assert {r.label: r.value for r in shares} == pytest.approx(
        {r.label: 100 * r.pass_share for r in plain.rows}
    )
    moved = demo.ask({**asked, "what": [share(MATHS, cut="strong")], "show": "levels"})
    assert moved.body.pass_at == 3
    assert [row.pass_count for row in moved.body.rows] == [
        sum(row.counts[3:]) for row in moved.body.rows
    ]
    assert [r.counts for r in moved.body.rows] == [
        next(p.counts for p in plain.rows if p.key == r.key) for r in moved.body.rows
    ]
    assert "not where the scale draws it" in " ".join(moved.method.says)


def test_a_score_is_a_cut_too_and_intervals_stay_within_nought_and_hundred(
    demo: Place, students: pl.DataFrame
) -> None:
    (row,) = demo.ask({"who": EIGHTH, "what": [share(MATHS, cut=320.5)]}).body.rows
    scores = students["Mathematics 2026"].drop_nulls()
    assert row.value == pytest.approx(100 * (scores >= 320.5).sum() / scores.len())
    for cut, end in ((1.0, 100.0), (9999.0, 0.0)):
        (row,) = demo.ask({"who": EIGHTH, "what": [share(MATHS, cut=cut)]}).body.rows
        assert row.value == end
        assert 0 <= row.low <= row.high <= 100
        assert row.high - row.low > 0.2


def test_any_condition_can_be_the_outcome(demo: Place) -> None:
    """Grade C or better in both English and Mathematics, of those who have both grades."""
    grades = {"assessment": "Harbour certificate", "sitting": "June 2025"}
    better = GRADES[3:]
    both = [{"measure": {**grades, "subject": s, "score": "grade"}, "level": better}
            for s in ("English", "Mathematics")]  # fmt: skip
    what = share({**grades, "subject": "English", "score": "points"}, meets=both)
    rows = certificate(Path(demo.settings.home) / "demo")
    wide = {
        s: rows.filter((pl.col("Subject") == s) & pl.col("Grade").is_in(GRADES)).select(
            "number", "Grade"
        )
        for s in ("English", "Mathematics")
    }
    joined = wide["English"].join(wide["Mathematics"], on="number", suffix=" M")
    hits = joined.filter(pl.col("Grade").is_in(better) & pl.col("Grade M").is_in(better))
    answer = demo.ask({"what": [what]})
    (row,) = answer.body.rows
    assert row.n == joined.height
    assert row.value == pytest.approx(100 * hits.height / joined.height)
    lacking = {m.label: m.n for m in answer.coverage[0].missing}
    only = wide["English"].height - joined.height
    assert lacking.get("not known whether it holds", 0) == only
    listed = demo.opened({"what": [what]}, row.opens, page={"size": 9999})
    met = next(c.values for c in listed.body.columns if c.key == "met")
    assert met.count("yes") == hits.height
    assert met.count("yes") + met.count("no") == row.n


def test_the_share_that_met_a_target(demo: Place) -> None:
    geography = {"assessment": "Harbour certificate", "subject": "Geography"}
    met = {"measure": {"derive": "span", "of": geography,
                       "against": {"target": {"kind": "floor"}}}, "from": 0}  # fmt: skip
    (row,) = demo.ask({"what": [share(geography, meets=[met])]}).body.rows
    rows = certificate(Path(demo.settings.home) / "demo").filter(pl.col("Subject") == "Geography")
    held = rows.filter(pl.col("Grade").is_in(GRADES) & pl.col("Floor target").is_in(GRADES))
    place = {name: n for n, name in enumerate(GRADES)}
    hits = held.filter(
        pl.col("Grade").replace_strict(place) >= pl.col("Floor target").replace_strict(place)
    )
    assert row.n == held.height
    assert row.value == pytest.approx(100 * hits.height / held.height)


@pytest.mark.parametrize(
    ("question", "error", "says"),
    [
        ({"what": [share(MATHS, cut="Sublime")]}, NotFound, "no level"),
        ({"what": [share(MATHS, cut="Secure", meets=[{"measure": MATHS, "from": 1}])]},
         InvalidQuestion, "not both"),
        ({"what": [share(MATHS, meets=[{"field": "school", "in": ["Netherby"]}])]},
         InvalidQuestion, "not on|places"),
        ({"what": [share(MATHS)], "show": "spread"}, InvalidQuestion, "a share is one of a group"),
        ({"what": [share(MATHS, cut=300.5)], "show": "levels"}, InvalidQuestion, "at a step"),
        ({"what": [share(MATHS)], "against": {"prior": {}}}, NotYet, "a share against"),
        ({"what": [share(MATHS)], "against": {"nation": {}}}, NotYet, "a share against"),
        ({"what": [{"measure": MATHS, "statistic": "mean", "cut": "Secure"}]}, InvalidQuestion,
         "“cut”"),
        ({"what": [share({"assessment": "Harbour check", "sitting": "winter 2026"})]}, NotFound,
         "no levels"),
    ],
)  # fmt: skip
def test_a_share_that_cannot_be_says_why(
    demo: Place, question: dict[str, Any], error: type[Exception], says: str
) -> None:
    with pytest.raises(error, match=says):
        demo.ask(question)
