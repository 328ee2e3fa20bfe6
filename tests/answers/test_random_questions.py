"""Any question at all: answered, or refused in words; asked again, it is the same question."""

from __future__ import annotations

import json
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.answers.test_marks import marks_in
from tests.effort import LONG, examples
from tests.support import Place

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.asking.answer import lines_of
from bridge_chart.answers.asking.bind import bind
from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.cli.answer_text import to_text
from bridge_chart.output.csv import to_csv
from bridge_chart.terms import question as q
from bridge_chart.terms.errors import BridgeError

SURVEY = st.fixed_dictionaries(
    {
        "assessment": st.just("Spring survey"),
        "subject": st.sampled_from(["Mathematics", "Reading", "Writing", "each"]),
    },
    optional={
        "sitting": st.sampled_from(["spring 2026", "spring 2025", "latest", "each", {"back": 1}]),
        "score": st.sampled_from(["auto", "scaled", "level"]),
        "grain": st.sampled_from(["half", "whole"]),
    },
)
CHECK = st.fixed_dictionaries(
    {"assessment": st.just("Harbour check"), "sitting": st.just("winter 2026")},
    optional={
        "score": st.sampled_from(["raw", "percent", "scaled"]),
        "form": st.sampled_from(["A", "B", "C"]),
        "part": st.sampled_from(["Number", {"kind": "strand"}, {"kind": "type", "is": "choice"}]),
    },
)
GRADES = st.fixed_dictionaries(
    {
        "assessment": st.just("Harbour certificate"),
        "subject": st.sampled_from(["Geography", "English"]),
    },
    optional={
        "role": st.sampled_from(["result", "predicted", "target"]),
        "kind": st.sampled_from(["floor", "personal"]),
    },
)
PLAIN = st.one_of(SURVEY, CHECK, GRADES)
SAME = {"assessment": "same", "subject": "same", "sitting": {"back": 1}}
AGAINST = st.one_of(
    st.none(),
    st.builds(lambda e, m: {"prior": {"expect": e, "model": m}},
              st.sampled_from(["linear", "spline", "equal_scores"]),
              st.sampled_from(["simple", "multilevel"])),
    st.sampled_from([{"nation": {}}, {"earlier": {"measure": SAME}}, {"predicted": {}},
                     {"target": {"kind": "floor"}}, {"group": {"who": {}}}]),
)  # fmt: skip
FIELDS = st.sampled_from([
    {"field": "school", "in": ["Netherby", "Brackwater"]}, {"field": "school", "in": [None]},
    {"field": "year_level", "from": 5, "to": 8}, {"field": "class", "in": [None]},
    {"characteristic": "Sex", "in": ["F"]}, {"characteristic": "Home language", "in": [None]},
    {"field": "school", "in": ["Netherby"], "as_of": "today"},
])  # fmt: skip
SCORES = st.builds(
    lambda m, low, high: {"measure": m, "from": low, "below": high},
    SURVEY.filter(lambda m: m["subject"] != "each" and m.get("sitting") != "each"),
    st.integers(200, 330), st.integers(300, 420),
)  # fmt: skip
CONDITION = st.recursive(
    st.one_of(FIELDS, SCORES),
    lambda inner: st.one_of(
        st.builds(lambda c: {"not": c}, inner),
        st.builds(lambda c: {"any": c}, st.lists(inner, min_size=1, max_size=2)),
        st.builds(lambda c: {"all": c}, st.lists(inner, min_size=1, max_size=2)),
        st.builds(lambda c: {"known": [c]}, inner),
    ),
    max_leaves=3,
)
SPLIT = st.sampled_from([
    {"field": "school"}, {"field": "class"}, {"field": "year_level"}, {"characteristic": "Sex"},
    {"characteristic": "Meal support", "as_of": "today"}, {"band": "prior"}, "measure", "subject",
    {"populations": [{"label": "a", "who": {}}, {"label": "b", "who": {
        "all": [{"characteristic": "Sex", "in": ["F"]}]}}]},
])  # fmt: skip
WHAT = st.one_of(
    PLAIN,
    st.builds(lambda m, a: {"derive": "span", "of": m, "against": a}, PLAIN, AGAINST),
    st.builds(lambda m: {"derive": "percentile", "of": m}, SURVEY),
    st.builds(lambda m, c: {"measure": m, "statistic": "share", "cut": c}, PLAIN,
              st.sampled_from([None, "Secure", "C", 300.5])),
    st.builds(lambda m, c: {"measure": m, "statistic": "share", "meets": [c]}, SURVEY, CONDITION),
)  # fmt: skip
QUESTION = st.fixed_dictionaries(
    {"what": st.lists(WHAT, min_size=1, max_size=2), "show": st.sampled_from(list(SHOWS))},
    optional={
        "who": st.fixed_dictionaries({"all": st.lists(CONDITION, max_size=2)}, optional={
            "as_of": st.sampled_from(["sitting", "today", {"year": "2024-25"}])}),
        "split": st.lists(SPLIT, max_size=2),
        "against": AGAINST,
        "cohort": st.sampled_from(["present", "matched"]),
        "focus": st.lists(CONDITION, min_size=1, max_size=2),
        "reference": st.lists(st.sampled_from(["district", "school", "nation"]), max_size=2),
    },
)  # fmt: skip


@pytest.mark.parametrize("login", [None, "rowan"], ids=["district", "school"])
def test_any_question_is_answered_or_refused_in_words(demo: Place, login: str | None) -> None:
    who = actor_named(demo.engine, login) if login else OPERATOR
    told = {"answered": 0, "refused": 0}

    @settings(max_examples=examples(60), derandomize=not LONG)
    @given(QUESTION)
    def asked(question: dict[str, Any]) -> None:
        try:
            answer = demo.ask(question, who)
        except BridgeError:  # any other error fails the test
            told["refused"] += 1
            return
        told["answered"] += 1
        for covered in answer.coverage:
            assert covered.population == covered.counted + sum(m.n for m in covered.missing)
        heads, lines = lines_of(answer)
        assert all(len(line) == len(heads) for line in lines)
        assert to_csv(heads, lines).count("\r\n") >= len(lines) + 1
        assert answer.sentence in to_text(answer)
        for mark in marks_in(answer.body):
            assert mark.n >= 0
            assert mark.missing >= 0

    asked()
    assert min(told.values()) > 0


def test_a_bound_question_means_itself(demo: Place) -> None:
    """What is kept of a question, bound again, is the same question: with ids, in one form."""
    snapshot = demo.snapshot
    bound_once = []

    @settings(max_examples=examples(60), derandomize=not LONG)
    @given(QUESTION)
    def asked(given_question: dict[str, Any]) -> None:
        question = q.Question.model_validate(given_question)
        try:
            once = bind(question, snapshot)
        except BridgeError:
            return
        bound_once.append(once)
        text = once.question.model_dump_json(by_alias=True)
        again = bind(q.Question.model_validate_json(text), snapshot)
        assert again.question == once.question
        if question.show != "over_time":
            assert [v.quantity.id for v in again.views] == [v.quantity.id for v in once.views]
        assert json.loads(text)["who"]["as_of"] is not None

    asked()
    assert len(bound_once) > 12
