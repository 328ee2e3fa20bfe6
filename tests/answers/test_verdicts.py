"""One verdict for one row: whoever asks, and however few rows they look at."""

from __future__ import annotations

from typing import Any

import pytest
from tests.support import Place

from bridge_chart.access.accounts import actor_named

MATHS: dict[str, Any] = {
    "assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"
}  # fmt: skip
PRIOR = {"prior": {}}
SCHOOLS, CLASSES = [{"field": "school"}], [{"field": "class"}]
EIGHTH = {"field": "year_level", "in": [8]}
EARLIER = {"earlier": {"measure": {"assessment": "same", "sitting": {"back": 1}}}}
TWO = ["Fernhollow", "Brackwater"]


def rows(place: Place, **asked: Any) -> dict[str, Any]:
    answer = place.ask({"what": [MATHS], **asked})
    return {row.label.split(" · ")[0]: row for row in answer.body.rows}


def at(*schools: str) -> dict[str, Any]:
    return {"all": [{"field": "school", "in": list(schools)}]}


@pytest.mark.parametrize("against", [PRIOR, EARLIER, {"nation": {}}, {"group": {"who": {}}}],
                         ids=lambda a: next(iter(a)))  # fmt: skip
def test_a_condition_on_places_chooses_rows_and_changes_none(
    demo: Place, against: dict[str, Any]
) -> None:
    what = [MATHS] if "nation" not in against else [
        {"assessment": "Harbour check", "sitting": "winter 2026", "score": "raw"}
    ]  # fmt: skip
    every = demo.ask({"what": what, "split": SCHOOLS, "against": against}).body.rows
    for school in TWO:
        asked = {"what": what, "against": against, "who": at(school)}
        whole = next(row for row in every if row.label == school)
        (alone,) = demo.ask({**asked, "split": SCHOOLS}).body.rows
        (unsplit,) = demo.ask(asked).body.rows
        for row in (alone, unsplit):
            assert (row.verdict, row.because) == (whole.verdict, whole.because)
            assert row.span == pytest.approx(whole.span)
            assert (row.low, row.high) == pytest.approx((whole.low, whole.high))


def test_a_class_has_one_interval_and_one_verdict_however_it_is_asked_for(demo: Place) -> None:
    who = {"all": [EIGHTH]}
    every = demo.ask({"what": [MATHS], "split": CLASSES, "against": PRIOR, "who": who}).body.rows
    assert len(every) > 11
    for row in every[:6]:
        name, school = row.label.split(" · ")
        asked = {"what": [MATHS], "against": PRIOR}
        place = {"field": "class", "in": [f"{school}: {name}, 2025-26"]}
        (alone,) = demo.ask({**asked, "who": {"all": [EIGHTH, place]}}).body.rows
        for mine in (alone,):
            assert (mine.verdict, mine.low, mine.high) == (
                row.verdict, pytest.approx(row.low), pytest.approx(row.high)
            )  # fmt: skip


@pytest.mark.parametrize("show", ["spans", "levels"])
@pytest.mark.parametrize("split", [CLASSES, [{"characteristic": "Sex"}], []], ids=str)
def test_a_head_and_a_data_lead_read_one_verdict(
    demo: Place, split: list[dict[str, Any]], show: str
) -> None:
    head = actor_named(demo.engine, "rowan")
    asked = {"what": [MATHS], "split": split, "show": show,
             "against": PRIOR if show == "spans" else None}  # fmt: skip
    own = demo.ask(asked, head).body.rows
    theirs = demo.ask({**asked, "who": at("Fernhollow")}).body.rows
    assert [row.verdict for row in own] == [row.verdict for row in theirs]
    assert {row.verdict for row in own} - {"few"}
    if show == "levels":
        # What the others reached is theirs: a head is told the verdict, not their share.
        assert all(row.others is None for row in own)
        assert any(row.others is not None for row in theirs)


def test_what_a_line_was_drawn_through_is_not_off_it(demo: Place) -> None:
    """A year level, and everybody, are where they are expected by construction."""
    years = rows(demo, split=[{"field": "year_level"}], against=PRIOR)
    for row in years.values():
        if row.undefined:
            continue
        assert (row.verdict, row.because) == ("none", "by_construction")
        assert row.span == pytest.approx(0, abs=0.2)  # the line has some who have left since
        assert (row.low, row.high) == (None, None)
    answer = demo.ask({"what": [MATHS], "against": PRIOR})
    assert answer.body.rows[0].because == "by_construction"
    assert "by construction" in " ".join(r.text for r in answer.readings)
    girls = {"all": [{"characteristic": "Sex", "in": ["F"]}]}
    some = rows(demo, split=[{"field": "year_level"}], against=PRIOR, who=girls)
    assert {row.because for row in some.values() if not row.undefined} == {None}
    strip = demo.ask({"what": [MATHS], "show": "strip", "against": PRIOR}).body.entries
    assert next(e for e in strip if e.label == "Year level").beyond_chance is None


def test_who_was_chosen_by_the_result_is_not_judged_by_it(demo: Place) -> None:
    chosen = [{"measure": MATHS, "above": 340}]
    answer = demo.ask({"what": [MATHS], "split": SCHOOLS, "against": PRIOR,
                       "who": {"all": chosen}})  # fmt: skip
    assert {row.verdict for row in answer.body.rows} == {"none"}
    assert {row.because for row in answer.body.rows} == {"chosen_by_outcome"}
    assert "chosen by the result itself" in " ".join(r.text for r in answer.readings)
    levels = [{"level_of": {**MATHS, "score": "level"}}]
    found = rows(demo, split=levels, against=PRIOR)
    assert {row.because for row in found.values()} == {"chosen_by_outcome"}


def test_a_change_is_shown_against_none_and_marked_against_the_others(demo: Place) -> None:
    """All rise in a year; who is marked rose more or less than the others."""
    found = rows(demo, split=SCHOOLS, against=EARLIER)
    assert sum(row.low > 0 for row in found.values()) >= 10
    told = {name for name, row in found.items() if row.verdict in ("ahead", "behind")}
    assert {"Fernhollow", "Brackwater", "Wick & Orme"} <= told
    assert (found["Fernhollow"].verdict, found["Fernhollow"].span > 0) == ("behind", True)
    assert len(told) < len(found)
    whole = demo.ask({"what": [MATHS], "against": EARLIER}).body.rows[0]
    assert (whole.verdict, whole.because, whole.low > 0) == ("none", "whole", True)


def test_groups_chosen_by_a_score_are_warned_of_going_back_to_the_middle(demo: Place) -> None:
    bands = [{"band": "prior"}]
    answer = demo.ask({"what": [MATHS], "split": bands, "against": EARLIER})
    warned = next(w for w in answer.warnings if w.code == "regression_to_the_mean")
    assert warned.instead == {"against": {"prior": {}}}
    again = demo.ask({"what": [MATHS], "split": bands, **warned.instead})
    assert "regression_to_the_mean" not in {w.code for w in again.warnings}


def test_over_time_a_line_is_held_against_what_the_others_moved(demo: Place) -> None:
    who = {"as_of": "today", "all": [EIGHTH]}
    body = demo.ask({"what": [MATHS], "show": "over_time", "split": SCHOOLS, "who": who}).body
    last = {one.label: one.points[-1] for one in body.series}
    assert (last["Wick & Orme"].verdict, last["Wick & Orme"].moved) == ("ahead", True)
    assert last["Fernhollow"].verdict == "behind"  # though it did not fall
    assert last["Fernhollow"].change > 0
    assert {point.verdict for point in last.values()} >= {"ahead", "behind", "unclear"}


def test_the_gap_inside_schools_stands_beside_the_gap(demo: Place) -> None:
    answer = demo.ask({"what": [MATHS], "split": [{"characteristic": "Meal support"}],
                       "who": {"all": [EIGHTH]}})  # fmt: skip
    said = next(r.text for r in answer.readings if r.text.startswith("Inside schools"))
    assert "11 schools" in said
    assert "Most of the gap lies inside schools" in said
    head = actor_named(demo.engine, "rowan")
    own = demo.ask({"what": [MATHS], "split": [{"characteristic": "Meal support"}]}, head)
    assert not any(r.text.startswith("Inside schools") for r in own.readings)


def test_a_share_says_how_far_the_missing_could_move_it(demo: Place) -> None:
    share = {"measure": {**MATHS, "score": "level"}, "statistic": "share"}
    for row in demo.ask({"what": [share], "split": SCHOOLS}).body.rows:
        reached = round(row.value / 100 * row.n)
        assert row.bound_low == pytest.approx(100 * reached / (row.n + row.missing))
        assert row.bound_high == pytest.approx(
            100 * (reached + row.missing) / (row.n + row.missing)
        )


def test_those_who_stayed_all_year_stand_beside(demo: Place) -> None:
    found = rows(demo, split=SCHOOLS, against=PRIOR)
    moved = [row for row in found.values() if row.stable_n < row.n]
    assert moved
    assert all(0.9 * row.n < row.stable_n for row in found.values())
    for row in moved:
        assert row.stable_value == pytest.approx(row.span, abs=1.0)
        assert row.stable_value != row.span
