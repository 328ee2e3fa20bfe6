"""Once a district has said its own words, nothing that is read speaks ours: in every answer and
refusal of every show, key and value."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

import pytest
from tests.answers.test_identity import fingerprints
from tests.answers.witnesses import CASES
from tests.support import Place

from bridge_chart.answers.asking.ask import forget_answers
from bridge_chart.answers.kept.kept import forget_kept
from bridge_chart.terms.errors import BridgeError
from bridge_chart.terms.words import PLAIN, DistrictWords, speak, spoken

OWN = {"Meal support": "Free lunch", "Sex": "Gender", "Home language": "Tongue"}
READ_BY_PROGRAMS = {
    "question", "narrowed", "opens", "who", "key", "date", "day", "as_of", "today", "page",
    "engine", "path", "instead", "also", "code", "field",
}  # fmt: skip
"""Keys whose values no person reads: questions, identities, dates in ISO."""


@pytest.fixture
def own(demo: Place) -> Iterator[DistrictWords]:
    called = {c.called: c.id for c in demo.snapshot.characteristics}
    words = DistrictWords(
        year_level="stage", level_before="S", level_names={5: "Fifth"},
        characteristics={called[old]: new for old, new in OWN.items()},
        numbers="1234,5", dates="02.03.2026",
    )  # fmt: skip
    speak(words)
    yield words
    speak(PLAIN)


def read(value: Any, at: str = "") -> Iterator[str]:
    """Every text of an answer that a person reads."""
    if isinstance(value, str):
        yield f"{at}: {value}"
    elif isinstance(value, dict):
        for key, one in value.items():
            if key not in READ_BY_PROGRAMS:
                yield from read(one, key)
    elif isinstance(value, list):
        for one in value:
            yield from read(one, at)


OURS = [
    re.compile(r"\byear.level", re.IGNORECASE),
    re.compile(r"\bYears? \d{1,2}\b"),
    re.compile("|".join(OWN)),
    re.compile(r"\d{4}-\d{2}-\d{2}"),
    re.compile(r"(?<![\d.])\d+\.\d+(?!\.?\d)|\d,\d{3}"),
]


def questions() -> list[dict[str, Any]]:
    return [case.question(v) for case in CASES if case.where == "demo" for v, _ in case.values]


def test_nothing_that_is_read_speaks_our_words(demo: Place, own: DistrictWords) -> None:
    every = seen = 0
    left: set[str] = set()
    for question in questions():
        try:
            texts = list(read(demo.ask(question).model_dump(mode="json", by_alias=True)))
        except BridgeError as error:
            # What was asked is repeated as it was asked; the format's keys keep their names.
            texts = [error.message] if re.search("year.level|Meal", str(question)) is None else []
        every += len(texts)
        seen += sum(
            any(word in text for word in ("stage", "Fifth", "Free lunch")) for text in texts
        )
        left |= {text for text in texts for ours in OURS if ours.search(text)}
    assert left == set()
    assert every > 10_000
    assert seen > 100


def test_the_same_answer_in_whichever_words_it_was_asked_before(
    demo: Place, own: DistrictWords
) -> None:
    asked = questions()[::9]
    speak(PLAIN)
    plain = fingerprints(demo, asked)
    speak(own)
    after = fingerprints(demo, asked)
    forget_kept()
    forget_answers()
    assert fingerprints(demo, asked) == after
    speak(PLAIN)
    assert fingerprints(demo, asked) == plain
    assert spoken() == PLAIN
