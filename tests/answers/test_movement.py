"""Movement between levels: counted by hand, by several rules, beside similar starters, error alone;
who sees a part of the district has the same figures for the same rows."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np
import pytest
from tests.support import Place

from bridge_chart.access.accounts import actor_named
from bridge_chart.answers.asking.answer import Answer
from bridge_chart.answers.shows.movement.body import MovementBody, MovementRow
from bridge_chart.core.growth.movement import movement_by_error_alone
from bridge_chart.terms.errors import InvalidQuestion, NotFound, NotPublished

LEVELS = ("Low", "Mid", "High")
BEFORE = {"earlier": {"measure": {"assessment": "same", "subject": "same", "sitting": {"back": 1}}}}
ASKED: dict[str, Any] = {"show": "movement", "what": [{"assessment": "Test"}],
                         "split": [{"field": "school"}], "against": BEFORE}  # fmt: skip
# School A: who was where then and is now; B: everybody holds; C has no earlier result.
A = [("Low", "Low"), ("Low", "Mid"), ("Mid", "High"), ("High", "High"), ("High", "Mid"),
     ("Mid", "Mid")] * 2  # fmt: skip
HOLD = "Rule,Test,Before,After,Credit\n" + "".join(
    f"To hold,Test,{b},{a},{1 if LEVELS.index(a) >= LEVELS.index(b) else 0.25}\n"
    for b in LEVELS for a in LEVELS
)  # fmt: skip


@pytest.fixture
def isles(place: Place) -> Place:
    moves = {"A": A, "B": [(level, level) for level in LEVELS for _ in range(4)],
             "C": [(None, "Mid")] * 3}  # fmt: skip
    rows = [(f"{school}{n}", school, *move) for school, of in moves.items()
            for n, move in enumerate(of)]  # fmt: skip
    people = "".join(f"{number},{school},8\n" for number, school, _, _ in rows)
    for year in ("2024-25", "2025-26"):
        place.bring("roster", f"Number,School,Year level\n{people}", f"{year}.csv",
                    academic_year=year, as_of=f"{year[:4]}-09-01")  # fmt: skip
    place.bring("scale", "Test,Score,Step,Pass\n" + "".join(
        f"Test,level,{name},{'no' if name == 'Low' else 'yes'}\n" for name in LEVELS))  # fmt: skip
    for sitting, date, at in (("May 25", "2025-05-05", 2), ("May 26", "2026-05-05", 3)):
        lines = "".join(f"{row[0]},Test,{row[at]}\n" for row in rows if row[at])
        place.bring("results", f"Number,Test,Level\n{lines}", f"{sitting}.csv",
                    sitting=sitting, date=date)  # fmt: skip
    return place


def body(answer: Answer) -> MovementBody:
    assert isinstance(answer.body, MovementBody)
    return answer.body


def row(place: Place, label: str, **more: Any) -> MovementRow:
    return next(r for r in body(place.ask({**ASKED, **more})).rows if r.label == label)


def test_moves_and_credit_counted_by_hand(isles: Place) -> None:
    found = body(isles.ask(ASKED))
    names = [level.name for level in found.now_in]
    held = {(names[f.before], names[f.now]): f.n for f in found.flows}
    assert names == list(LEVELS)
    assert held == {("Low", "Low"): 6, ("Low", "Mid"): 2, ("Mid", "High"): 2, ("High", "High"): 6,
                    ("High", "Mid"): 2, ("Mid", "Mid"): 6}  # fmt: skip
    assert (found.up.n, found.same.n, found.down.n) == (4, 18, 2)
    assert found.rule == "a rise, or the top held"
    # Four rose and two held the top: 6 of 12. Where all hold, the four at the top earn it.
    a, b = row(isles, "A"), row(isles, "B")
    assert (a.n, a.full.n, a.part.n, a.none.n, a.credit) == (12, 6, 0, 6, 0.5)
    assert (b.n, b.full.n, b.credit) == (12, 4, pytest.approx(1 / 3))
    c = row(isles, "C")
    assert (c.n, c.missing, c.credit) == (0, 3, None)


def test_similar_starters_are_those_of_the_same_level(isles: Place) -> None:
    """Fewer than thirty in a level stand together with the next: here all 24 are one cell, whose
    mean is 10 of 24; A is 0.5 − 10/24 above it."""
    a = row(isles, "A")
    assert a.similar == pytest.approx(10 / 24)
    assert a.span == pytest.approx(0.5 - 10 / 24)


def test_a_rule_of_ones_own_and_several_side_by_side(isles: Place) -> None:
    isles.bring("movement", HOLD, "rule.csv")
    found = body(isles.ask(ASKED))
    assert [rule.name for rule in found.rules] == ["To hold", "a rise, or the top held"]
    assert found.rule == "To hold"
    assert [rule.credit for rule in found.rules] == [pytest.approx(22.5 / 24),
                                                     pytest.approx(10 / 24)]  # fmt: skip
    a = row(isles, "A")
    assert (a.full.n, a.part.n, a.none.n) == (10, 2, 0)
    assert a.credit == pytest.approx(10.5 / 12)
    other = row(isles, "A", options={"rule": "A rise, or the top held"})
    assert other.credit == 0.5
    with pytest.raises(NotFound, match="rule for movement"):
        isles.ask({**ASKED, "options": {"rule": "luck"}})


def test_a_rule_that_leaves_a_move_out_is_not_used(isles: Place) -> None:
    isles.bring("movement", HOLD.rsplit("\n", 2)[0] + "\n", "rule.csv")
    assert [rule.name for rule in body(isles.ask(ASKED)).rules] == ["a rise, or the top held"]


def test_credit_is_a_figure_like_any_other(isles: Place) -> None:
    credit = {"derive": "credit", "of": {"assessment": "Test", "score": "level"},
              "against": BEFORE}  # fmt: skip
    rows = isles.ask({"what": [credit], "split": [{"field": "school"}]}).body.rows
    assert {r.label: r.value for r in rows}["A"] == 50
    who = {"all": [{"measure": credit, "from": 100}, {"field": "school", "in": ["A"]}]}
    levels = {"assessment": "Test", "score": "level"}
    listed = isles.ask({"what": [levels], "show": "students", "who": who}).body
    assert len(listed.student) == 6


def test_movement_needs_an_earlier_sitting_in_the_same_levels(isles: Place) -> None:
    with pytest.raises(InvalidQuestion, match="earlier sitting") as caught:
        isles.ask({**ASKED, "against": None})
    assert isles.ask({**ASKED, **caught.value.details["instead"]}).body.show == "movement"


def test_a_start_of_ones_own_choice_is_not_published(demo: Place) -> None:
    """By any other measure's levels there would be a second set of equal starters; the two could be
    taken from each other."""
    maths = {"assessment": "Spring survey", "subject": "Mathematics", "score": "level"}
    credit = {"derive": "credit", "of": maths, "against": BEFORE}
    other = {**maths, "subject": "Reading", "sitting": "spring 2025"}
    asked = {"what": [credit], "split": [{"field": "school"}], "against": {"prior": {
        "priors": [other], "expect": "equal_scores"}}}  # fmt: skip
    with pytest.raises(NotPublished):
        demo.ask(asked, actor_named(demo.engine, "rowan"))


def test_half_levels_are_not_held_against_whole_ones(demo: Place) -> None:
    maths = {"assessment": "Spring survey", "subject": "Mathematics", "score": "level"}
    whole = {"earlier": {"measure": {**maths, "sitting": "spring 2025"}}}
    halves = {**maths, "grain": "half"}
    for question in (
        {"what": [{"derive": "credit", "of": halves, "against": whole}]},
        {"what": [halves], "show": "movement", "against": whole},
    ):
        with pytest.raises(InvalidQuestion, match="other levels"):
            demo.ask(question)


class TestInTheDemo:
    """Merrow Sound: planted schools, error alone, own rows of a school lead."""

    MATHS: ClassVar[dict[str, Any]] = {
        "assessment": "Spring survey",
        "subject": "Mathematics",
        "sitting": "spring 2026",
    }
    EIGHTH: ClassVar[dict[str, Any]] = {"all": [{"field": "year_level", "in": [8]}]}

    def asked(self, **more: Any) -> dict[str, Any]:
        return {**ASKED, "what": [self.MATHS], "who": self.EIGHTH, **more}

    def test_the_planted_schools_are_found_and_no_other(self, demo: Place) -> None:
        verdicts = {r.label: r.verdict for r in body(demo.ask(self.asked(who={}))).rows}
        assert verdicts["Fernhollow"] == "behind"
        assert {label for label, v in verdicts.items() if v == "ahead"} <= {
            "Brackwater", "Wick & Orme"}  # fmt: skip
        assert {label for label, v in verdicts.items() if v == "behind"} == {"Fernhollow"}

    def test_error_alone_is_what_the_matrix_of_error_earns(self, demo: Place) -> None:
        """Worked out again from the scores, the cuts and the declared reliability."""
        answer = demo.ask(self.asked(split=[]))
        snapshot = demo.snapshot
        key = next(
            m
            for m in snapshot.measures
            if m.sitting.name == "spring 2025"
            and m.subject
            and m.subject.name == "Mathematics"
            and m.score == "scaled"
        )
        scores = np.asarray(snapshot.values(key))
        level = np.asarray(snapshot.roll_at(key.date).year_level)  # type: ignore[union-attr]
        seventh = scores[(level == 7) & ~np.isnan(scores)]
        cuts = [
            c.lowest
            for c in snapshot.tables.scale("Spring survey", "Mathematics", "level").cuts
            if c.year_level == 7
        ]  # type: ignore[union-attr]
        sd = float(seventh.std())
        told = answer.method.facts["credit"]
        names = [one.name for one in body(answer).now_in]
        rule = np.array([[told[f"{b} → {n}"] for n in names] for b in names])
        expected = movement_by_error_alone(
            seventh, np.array(cuts), float(seventh.mean()), sd, sd * np.sqrt(0.08)
        )
        by_hand = float((expected * rule).sum() / expected.sum())
        (whole,) = body(answer).rows
        assert whole.alone == pytest.approx(by_hand, abs=0.01)  # of those with both results

    def test_a_school_lead_has_the_data_leads_figures(self, demo: Place) -> None:
        rowan = actor_named(demo.engine, "rowan")
        mine = body(demo.ask(self.asked(), rowan)).rows[0]
        same = next(r for r in body(demo.ask(self.asked())).rows if r.label == "Fernhollow")
        for name in ("n", "credit", "low", "high", "similar", "span", "span_low", "span_high",
                     "verdict", "alone"):  # fmt: skip
            assert getattr(mine, name) == getattr(same, name), name

    def test_half_levels(self, demo: Place) -> None:
        found = body(demo.ask(self.asked(what=[{**self.MATHS, "grain": "half"}])))
        assert len(found.now_in) == 10
        assert found.rule == "a rise, or the top held"
        assert "whole levels" in found.alone_because
