"""A try: counted by hand; every lens shows it; nothing of it is kept; only own students move."""

from __future__ import annotations

from typing import Any

import pytest
from tests.support import Place, roster

from bridge_chart.access.accounts import actor_named
from bridge_chart.answers.asking.answer import Answer
from bridge_chart.answers.shows.trial.body import TrialBody
from bridge_chart.terms.errors import InvalidQuestion, NotFound

GRADES = ("D", "C", "B", "A")
QUIZ: dict[str, Any] = {"assessment": "Quiz", "score": "grade"}
MOCK: dict[str, Any] = {"assessment": "Harbour mock", "subject": "Mathematics"}
ASKED: dict[str, Any] = {"show": "trial", "what": [QUIZ], "split": [{"field": "school"}]}
# School A: 12 students with 3 at C or better; B: 10 of 10.
A = ["D"] * 4 + ["C"] * 1 + ["D"] * 5 + ["B"] * 2
B = ["C"] * 5 + ["A"] * 5


@pytest.fixture
def isles(place: Place) -> Place:
    rows = [(f"{s}{n}", s, grade) for s, of in (("A", A), ("B", B)) for n, grade in enumerate(of)]
    place.bring("roster", roster([(number, s, 11) for number, s, _ in rows]),
                academic_year="2025-26", as_of="2025-09-01")  # fmt: skip
    place.bring("scale", "Test,Score,Step,Points,Pass\n" + "".join(
        f"Quiz,grade,{grade},{n},{'no' if grade == 'D' else 'yes'}\n"
        for n, grade in enumerate(GRADES)))  # fmt: skip
    lines = "".join(f"{number},Quiz,{grade},B\n" for number, _, grade in rows)
    place.bring("results", f"Number,Test,Grade,Floor target\n{lines}", "may.csv",
                sitting="May", date="2026-05-05")  # fmt: skip
    return place


def body(answer: Answer) -> TrialBody:
    assert isinstance(answer.body, TrialBody)
    return answer.body


def of_a(place: Place, **more: Any) -> TrialBody:
    who = {"all": [{"field": "school", "in": ["A"]}]}
    return body(place.ask({**ASKED, "who": who, **more}))


def test_what_it_takes_counted_by_hand(isles: Place) -> None:
    half = of_a(isles, options={"wanted": 0.5})
    # 3 of 12 are at C or better; half is 6; three of the nine at D gain one step.
    assert (half.now, half.needed, half.reachable, half.moved, half.with_try) == (
        0.25, 3, True, 3, 0.5,
    )  # fmt: skip
    assert half.curve[:5] == pytest.approx([3 / 12, 4 / 12, 5 / 12, 6 / 12, 7 / 12])
    assert {one.now for one in half.near if one.by} == {"D"}
    everyone = of_a(isles)
    # 13 of the 22 in both schools: 13/22 of 12 is 7.09, so 8, so five more.
    assert everyone.wanted == pytest.approx(13 / 22)
    assert everyone.needed == 5
    at_b = of_a(isles, options={"wanted": 0.5, "at": "B"})
    # Two are at B; one is a step below; half would be six.
    assert (at_b.needed, at_b.reachable, at_b.moved) == (4, False, 1)
    assert (at_b.any_students, at_b.any_steps) == (4, 1 + 2 * 3)


def test_level_with_a_target_in_steps(isles: Place) -> None:
    told = of_a(isles, against={"target": {"kind": "floor"}})
    # Everybody's target is B: nine are two below, one is one below, two are there: −19 in all.
    assert told.figure == "mean"
    assert told.now == pytest.approx(-19 / 12)
    assert (told.needed, told.reachable) == (19, False)  # one step each moves twelve at most
    assert (told.any_students, told.any_steps) == (7, 19)  # seven from D to A gain 21
    assert told.with_try == pytest.approx((-19 + 12) / 12)
    far = of_a(isles, against={"target": {"kind": "floor"}}, options={"wanted": 3.0})
    assert far.reachable is False
    assert far.any_students is None
    assert "not even with everybody at the top" in isles.ask({
        **ASKED, "who": {"all": [{"field": "school", "in": ["A"]}]},
        "against": {"target": {"kind": "floor"}}, "options": {"wanted": 3.0},
    }).readings[0].text  # fmt: skip


def test_a_step_moves_every_lens_and_nothing_is_kept(isles: Place) -> None:
    found = of_a(isles, options={"wanted": 0.5})
    plan = {"of": QUIZ, "moves": [m.model_dump() for m in found.moves]}
    levels = {"show": "levels", "what": [QUIZ], "split": [{"field": "school"}]}
    before = isles.scalar("SELECT count(*) FROM version")
    tried = isles.ask({**levels, "plan": plan})
    kept = isles.ask(levels)
    rows = {row.label: row.counts for row in tried.body.rows}
    assert rows == {"A": [6, 4, 2, 0], "B": [0, 5, 0, 5]}
    assert {r.label: r.counts for r in kept.body.rows}["A"] == [9, 1, 2, 0]
    assert tried.sentence.startswith("A try, not results: with 3 students moved")
    assert tried.warnings[0].code == "tried"
    assert isles.scalar("SELECT count(*) FROM version") == before
    # The list of a mark is of the try, too.
    bar = next(row for row in tried.body.rows if row.label == "A").bars[1]
    listed = isles.opened({**levels, "plan": plan}, bar.opens)
    assert listed.page is not None
    assert listed.page.total == 4
    assert listed.sentence.startswith("A try")


def test_single_moves_up_and_down_are_the_tries_own(isles: Place) -> None:
    near = of_a(isles, options={"wanted": 0.5}).near
    up, down = near[0].student, next(one.student for one in near if one.now == "C") if any(
        one.now == "C" for one in near) else near[1].student  # fmt: skip
    plan = {"of": QUIZ, "moves": [{"student": up, "by": 2}, {"student": down, "by": 9}]}
    told = of_a(isles, options={"wanted": 0.5}, plan=plan)
    assert told.by_hand
    assert told.now == 0.25  # the record's
    row = next(one for one in told.rows if one.label == "A")
    assert row.moved == 2
    assert {one.student: one.tried for one in told.near if one.by} == {up: "B", down: "A"}


def test_a_try_that_cannot_be_is_refused_by_name(isles: Place) -> None:
    one = of_a(isles, options={"wanted": 0.5}).moves[0].student
    with pytest.raises(InvalidQuestion, match="moves each student once"):
        of_a(isles, plan={"of": QUIZ, "moves": [{"student": one, "by": 1}] * 2})
    with pytest.raises(NotFound, match="1 of the students"):
        of_a(isles, plan={"of": QUIZ, "moves": [{"student": one + 9999, "by": 1}]})
    with pytest.raises(NotFound, match="no step “E”"):
        of_a(isles, options={"at": "E"})
    with pytest.raises(InvalidQuestion, match="between 0 and 1"):
        of_a(isles, options={"wanted": 40})
    with pytest.raises(InvalidQuestion, match="not with another group"):
        of_a(isles, against={"group": {"who": {}}})


def test_a_lead_moves_own_students_only(isles: Place) -> None:
    isles.account("anna", "school_lead", "A")
    anna = actor_named(isles.engine, "anna")
    other = next(
        m.student for m in body(isles.ask({**ASKED, "who": {"all": [
            {"field": "school", "in": ["B"]}]}, "options": {"wanted": 1.0, "at": "B"}})).moves
    )  # fmt: skip
    with pytest.raises(NotFound, match="1 of the students"):
        isles.ask({**ASKED, "plan": {"of": QUIZ, "moves": [{"student": other, "by": 1}]}}, anna)
    own = body(isles.ask({**ASKED, "options": {"wanted": 0.5}}, anna))
    assert (own.group.n, own.needed) == (12, 3)
    assert [row.label for row in own.rows] == ["A"]


def test_the_model_stays_fixed_and_the_refit_is_told(demo: Place) -> None:
    asked = {"show": "trial", "what": [MOCK], "split": [{"field": "school"}],
             "against": {"prior": {}},
             "focus": [{"field": "school", "in": ["Fernhollow"]}]}  # fmt: skip
    found = body(demo.ask(asked))
    spans = {"show": "spans", "what": [{**MOCK, "score": "grade"}], "split": [{"field": "school"}],
             "against": {"prior": {}}}  # fmt: skip
    plan = {"of": {**MOCK, "score": "grade"}, "moves": [m.model_dump() for m in found.moves]}
    now = {r.label: r for r in demo.ask(spans).body.rows}
    then = {r.label: r for r in demo.ask({**spans, "plan": plan}).body.rows}
    # Grades have points one apart, so spans in points are those in steps.
    assert found.now == pytest.approx(now["Fernhollow"].span)
    assert found.with_try == pytest.approx(then["Fernhollow"].span)
    assert found.with_try - found.now == pytest.approx(found.moved / now["Fernhollow"].n)
    others = [label for label in now if label != "Fernhollow" and now[label].span is not None]
    assert all(then[x].span == pytest.approx(now[x].span) for x in others)
    assert found.refit is not None
    assert 0 < found.with_try - found.refit < 0.1
    tried = {row.label: row for row in found.rows}
    assert tried["Fernhollow"].tried == pytest.approx(then["Fernhollow"].span)
    assert tried["Fernhollow"].low == pytest.approx(then["Fernhollow"].low)
    assert tried["Fernhollow"].verdict == then["Fernhollow"].verdict


def test_groups_finish_where_the_planted_chances_say(demo: Place) -> None:
    found = body(demo.ask({"show": "trial", "what": [MOCK], "split": [{"field": "school"}],
                           "who": {"all": [{"field": "school", "in": ["Netherby"]}]}}))  # fmt: skip
    assert found.before is not None
    # June is on average half a grade above March, so more reach C then than now.
    assert found.before.low < found.before.mean < found.before.high
    assert found.now is not None
    assert found.before.mean > found.now
    assert found.before.cohorts == 5
    chances = demo.ask({"show": "chances", "what": [MOCK]}).body
    by_level = {row.label: row for row in chances.rows}
    d = next(one for one in found.near if one.now == "D")
    steps = [one.name for one in chances.outcomes]
    assert d.chance == pytest.approx(by_level["D"].at_or_above[steps.index("C")])


def test_a_target_too_high_to_reach_is_told_so(demo: Place) -> None:
    asked = {"show": "trial", "what": [MOCK], "split": [{"field": "school"}],
             "who": {"all": [{"field": "school", "in": ["Skarra Point"]}]},
             "against": {"target": {"kind": "personal"}}}  # fmt: skip
    answer = demo.ask(asked)
    assert body(answer).reachable is False
    assert "Not reachable with one step each" in answer.readings[0].text
    assert any("more than has happened" in reading.text for reading in answer.readings)


def test_what_then_happened_is_held_against_the_plan(demo: Place) -> None:
    march = {**MOCK, "sitting": "March 2025", "score": "grade"}
    found = body(demo.ask({"show": "trial", "what": [march], "split": [{"field": "school"}],
                           "who": {"all": [{"field": "school", "in": ["Netherby"]}]},
                           "options": {"wanted": 0.9}}))  # fmt: skip
    told = found.happened
    assert told is not None
    assert told.later == "Mathematics, June 2025"
    assert told.have == found.moved
    listed = demo.ask({
        "show": "students", "what": [march], "columns": [{"measure": {
            "assessment": "Harbour certificate", "subject": "Mathematics", "sitting": "June 2025",
            "score": "grade"}}],
        "who": {"all": [{"field": "student", "in": [m.student for m in found.moves]}]},
    }).body  # fmt: skip
    june = next(c for c in listed.columns if c.key not in ("name", "number")).values
    assert sum(grade in ("C", "B", "A", "A*") for grade in june) == told.reached
