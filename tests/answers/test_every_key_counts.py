"""Never half-answered: every key of the format changes an answer, or is refused by name."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

import pytest
from tests.answers.witness import ABSENT, SAME, Case, every_atom
from tests.answers.witnesses import (
    CASES,
    ELSEWHERE,
)
from tests.support import Place, forget_place, new_place

from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import BridgeError


@pytest.fixture(scope="module")
def courses(cluster: Settings) -> Iterator[Place]:
    """A school whose roster says which class is taught what; one student has no class in maths."""
    place = new_place(cluster)
    rows = [
        f"{n:03d},Tarn,8,{name},{subject}"
        for n in range(60)
        for name, subject in (("8A" if n % 2 else "8B", "Maths"), ("8X", "Music"))
        if n or subject == "Music"
    ]
    place.bring("roster", "\n".join(["number,school,year,class,course", *rows]) + "\n",
                academic_year="2025-26")  # fmt: skip
    place.bring("results", "id,score\n" + "".join(f"{n:03d},{n}\n" for n in range(60)),
                test="Quiz", subject="Maths", sitting="May", date="2026-05-01")  # fmt: skip
    yield place
    forget_place(place)


def outcome(place: Place, question: dict[str, Any]) -> str:
    """The whole answer but the echo of its question; or the refusal."""
    try:
        answer = place.ask(question)
    except BridgeError as error:
        return f"refused: {error.message}"
    told = answer.model_dump(mode="json", by_alias=True, exclude={"question", "narrowed"})
    return json.dumps(told, sort_keys=True, ensure_ascii=False)


@pytest.mark.parametrize("case", CASES, ids=lambda case: case.model)
def test_a_key_changes_the_answer_or_is_refused_by_name(
    demo: Place, courses: Place, case: Case
) -> None:
    place = courses if case.where == "courses" else demo
    without = outcome(place, case.question(case.without))
    for value, wanted in case.values:
        found = outcome(place, case.question(value))
        if isinstance(wanted, str):
            assert found.startswith("refused: "), f"{value} is neither refused nor a witness"
            assert wanted in found
        elif wanted is SAME:
            assert found == without
        else:
            assert not found.startswith("refused: "), found
            assert found != without, f"{value} changes nothing"


def test_every_key_and_value_of_the_format_has_a_witness() -> None:
    atoms = every_atom()
    assert len(atoms) > 250
    held = {atom for case in CASES for atom in case.atoms}
    # What is held against is a witness too: a value that another one is told apart from.
    for case in CASES:
        for one in case.without if isinstance(case.without, list) else [case.without]:
            if isinstance(one, str | int) and one is not ABSENT:
                held.add(f"{case.model}={one}")
    assert atoms - held - ELSEWHERE == set()
