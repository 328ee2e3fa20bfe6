"""The worked questions of docs/question.md: all valid, answered or refused as it says there."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from tests.support import Place

from bridge_chart.answers.asking.ask import read_question
from bridge_chart.terms.errors import Ambiguous, InvalidQuestion, NotFound, NotYet
from bridge_chart.terms.question import Question

PAGE = (Path(__file__).resolve().parents[2] / "docs" / "question.md").read_text(encoding="utf-8")
WORKED = re.findall(r"^(\d+)\. (.+?)\n```json\n(.+?)\n```", PAGE, re.M | re.S)


def test_there_are_all_worked_questions() -> None:
    assert [int(number) for number, _, _ in WORKED] == list(range(1, 28))


@pytest.mark.parametrize(("number", "says", "text"), WORKED, ids=[w[0] for w in WORKED])
def test_worked_question(demo: Place, number: str, says: str, text: str) -> None:
    question = json.loads(text)
    read = read_question(question)
    again = Question.model_validate_json(read.model_dump_json(by_alias=True))
    assert again == read
    if "*Not yet.*" in says:
        with pytest.raises(NotYet):
            demo.ask(question)
    else:
        answer = demo.ask(question)
        assert answer.coverage[0].counted > 0 or number == "21"
        assert answer.coverage[0].population > 0


@pytest.mark.parametrize(
    ("change", "where"),
    [
        ({"colour": "red"}, "colour"),
        ({"show": "pie"}, "show"),
        ({"what": []}, "what"),
        ({"question": 2}, "question"),
        ({"who": {"all": [{"field": "shoe_size", "in": [8]}]}}, "who.all.0"),
        ({"who": {"all": [{"feild": "school", "in": [8]}]}}, "who.all.0"),
        ({"against": {"moon": {}}}, "against"),
        ({"split": [{"field": "school"}] * 3}, "split"),
    ],
)
def test_what_is_unknown_is_invalid_and_says_where(change: dict[str, object], where: str) -> None:
    with pytest.raises(InvalidQuestion) as caught:
        read_question({"what": [{"assessment": "Spring survey"}], **change})
    assert caught.value.code == "invalid"
    assert caught.value.details["problems"][0]["at"].startswith(where)


def test_names_are_found_or_refused(demo: Place) -> None:
    what = [{"assessment": "spring SURVEY", "subject": "mathematics"}]
    assert demo.ask({"what": what}).slots.what == "Mathematics, spring 2026"
    with pytest.raises(Ambiguous) as caught:
        demo.ask({"what": [{"assessment": "Spring survey"}]})
    assert [c["name"] for c in caught.value.details["candidates"]] == [
        "Mathematics",
        "Reading",
        "Writing",
    ]
    with pytest.raises(Ambiguous):
        demo.ask({"what": what, "who": {"all": [{"field": "class", "in": ["8A"]}]}})
    for wrong in (
        {"what": [{"assessment": "Autumn survey"}]},
        {"what": what, "who": {"all": [{"field": "school", "in": ["Nowhere"]}]}},
        {"what": what, "who": {"all": [{"characteristic": "Sex", "in": ["Q"]}]}},
        {"what": what, "split": [{"characteristic": "Shoe size"}]},
        {"what": [{**what[0], "sitting": {"back": 9}}]},
        {"what": [{**what[0], "sitting": "spring 2024"}], "against": {"prior": {}}},
        {"what": what, "who": {"as_of": {"date": "2019-01-01"}}},
    ):
        with pytest.raises(NotFound):
            demo.ask(wrong)


def test_equal_questions_normalise_equally(demo: Place) -> None:
    one = {
        "what": [{"assessment": "Spring survey", "subject": "Reading", "sitting": "latest"}],
        "who": {"all": [{"field": "school", "in": ["Netherby", "Brackwater", "Netherby"]}]},
    }
    other = {
        "what": [{"assessment": "Spring survey", "subject": "Reading", "sitting": "spring 2026"}],
        "who": {"all": [{"field": "school", "in": ["Brackwater", "Netherby"]}]},
    }
    assert demo.ask(one).question == demo.ask(other).question
