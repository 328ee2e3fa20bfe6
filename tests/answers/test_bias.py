"""Fairness: what was planted is found, nothing else is, and too few are not judged."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from scipy import stats
from tests.support import Place

from bridge_chart.answers.asking.answer import Answer, cells_of, lines_of
from bridge_chart.answers.shows.bias.body import BiasBody
from bridge_chart.terms.errors import InvalidQuestion

CHECK = {"assessment": "Harbour check", "sitting": "winter 2026", "form": "A"}
PAPER = {"show": "bias", "what": [{"assessment": "Paper"}], "split": [{"characteristic": "Sex"}]}


def ask(place: Place, characteristic: str, **more: Any) -> Answer:
    split = [{"characteristic": characteristic}]
    return place.ask({"show": "bias", "what": [CHECK], "split": split, **more})


def body(answer: Answer) -> BiasBody:
    assert isinstance(answer.body, BiasBody)
    return answer.body


def marked(answer: Answer, verdict: str) -> set[str]:
    return {row.label for row in body(answer).rows if any(o.verdict == verdict for o in row.of)}


def test_words_are_found_to_be_easier_for_first_speakers(demo: Place) -> None:
    """Planted: learners of the language lose in “Problems in words”, questions 25 to 30."""
    answer = ask(demo, "English fluency")
    first = next(n for n, g in enumerate(body(answer).groups) if g.label.endswith("first language"))
    easier = {row.label for row in body(answer).rows if row.of[first].verdict == "ahead"}
    planted = {f"Q{n}" for n in range(25, 31)}
    assert len(easier & planted) >= 5
    assert easier <= planted
    told = [row.of[first] for row in body(answer).rows]
    for one in told:
        assert one.verdict == "unclear" or (one.low or 0) * (one.high or 0) > 0
    assert all((o.low or 0) < (o.difference or 0) < (o.high or 0) for o in told)
    few = [group for group in body(answer).groups if group.why]
    assert {group.reached < 100 for group in few} == {True}
    assert "no proof of bias" in answer.readings[-2].text
    assert answer.readings[-1].text.startswith("Not judged, for that takes 100 students")
    assert {one.verdict for row in body(answer).rows for n, one in enumerate(row.of) if n != first
            } == {"few"}  # fmt: skip


@pytest.mark.parametrize("characteristic", ["Sex", "Meal support"])
def test_where_nothing_was_planted_nothing_is_said(demo: Place, characteristic: str) -> None:
    answer = ask(demo, characteristic)
    assert marked(answer, "behind") | marked(answer, "ahead") == set()
    assert answer.readings[-1].text.startswith("None of 30 questions works differently")


def test_one_of_a_strangers_questions(place: Place) -> None:
    """Six hundred students equally able; girls lose question 7 by two on the scale of log-odds. The
    odds ratio by a logistic regression on the other questions agrees."""
    rng = np.random.default_rng(8)
    able, girl = rng.normal(size=600), np.arange(600) % 2 == 0
    easy = rng.normal(0, 0.7, 20)
    logit = 1.2 * able[:, None] + easy
    logit[girl, 6] -= 2.0
    won = (rng.random((600, 20)) < 1 / (1 + np.exp(-logit))).astype(int)
    rows = [f"{n:03d},Ash,8,{'F' if girl[n] else 'M'}" for n in range(600)]
    place.bring("roster", "\n".join(["Number,School,Year,Sex", *rows]) + "\n",
                academic_year="2025-26")  # fmt: skip
    head = "Number," + ",".join(f"Q{n + 1}" for n in range(20))
    marks = [f"{n:03d}," + ",".join(map(str, one)) for n, one in enumerate(won.tolist())]
    place.bring("results", "\n".join([head, *marks]) + "\n", test="Paper", sitting="winter",
                date="2026-02-01")  # fmt: skip
    found = body(place.ask(PAPER))
    (group,) = found.groups
    harder = "behind" if group.label.endswith("F") else "ahead"
    assert [row.label for row in found.rows if row.of[0].verdict == harder] == ["Q7"]
    (seven,) = [row.of[0] for row in found.rows if row.label == "Q7"]
    assert seven.size == "large"
    others = np.delete(won, 6, axis=1).sum(axis=1)
    x = np.column_stack([np.ones(600), others, girl])
    beta = np.zeros(3)
    for _ in range(30):  # Newton's steps of the logistic regression
        fitted = 1 / (1 + np.exp(-x @ beta))
        step = np.linalg.solve((x.T * (fitted * (1 - fitted))) @ x, x.T @ (won[:, 6] - fitted))
        beta += step
    side = 1 if group.label.endswith("F") else -1
    assert seven.delta == pytest.approx(2.35 * beta[2] * side, abs=0.6)
    assert seven.delta_low is not None
    assert seven.delta_high is not None
    assert seven.delta_low < 2.35 * beta[2] * side < seven.delta_high
    assert stats.norm.sf(abs(seven.delta or 0)) < 0.001


def test_what_it_cannot_do_is_said(demo: Place) -> None:
    with pytest.raises(InvalidQuestion, match="held against others"):
        ask(demo, "Sex", against={"nation": {}})
    # Against everybody else each is judged, and the one is the other turned round.
    both = body(ask(demo, "Sex", against={"group": {"who": {}}}))
    assert len(both.groups) == 2
    for row in both.rows:
        one, other = (of.delta for of in row.of)
        assert one is None or one == pytest.approx(-(other or 0), abs=0.2)
    with pytest.raises(InvalidQuestion, match="2 to 6 groups"):
        demo.ask({"show": "bias", "what": [CHECK], "split": [{"field": "class"}]})
    few = ask(demo, "Sex", who={"all": [{"field": "school", "in": ["Netherby"]}]})
    assert [one.text.split(":")[0] for one in few.readings] == [
        "Not judged, for that takes 100 students on either side"
    ]


def test_it_goes_out_as_lines_and_fits_a_terminal(demo: Place) -> None:
    answer = ask(demo, "Sex")
    heads, lines = lines_of(answer)
    assert heads[:4] == ["question", "place", "marks", "Sex"]
    assert len(lines) == 30
    assert [line[heads.index("difference")] for line in lines] == [
        row.of[0].difference for row in body(answer).rows
    ]
    cells = cells_of(answer)
    assert cells is not None
    assert len(cells) == 31
