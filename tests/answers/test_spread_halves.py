"""Half-steps in Spread: where the upper half of a level begins, as every other lens halves it."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from tests.support import Place

SPRING = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
EIGHTH = {"all": [{"field": "year_level", "in": [8]}]}


def lines(place: Place, halves: bool, what: dict[str, Any] = SPRING) -> dict[str, float]:
    question = {"show": "spread", "what": [what], "who": EIGHTH, "options": {"halves": halves}}
    return {cut.label: cut.at for cut in place.ask(question).body.cuts}


def test_the_lines_are_where_the_halves_of_levels_part(demo: Place) -> None:
    plain, halved = lines(demo, False), lines(demo, True)
    assert not any(label.startswith("upper half") for label in plain)
    assert {k: v for k, v in halved.items() if not k.startswith("upper half")} == plain
    # Levels counts the same halves: whoever is at or above the line is in the upper one.
    asked = {"show": "students", "what": [SPRING], "who": EIGHTH, "page": {"size": 1000},
             "columns": [{"measure": {**SPRING, "score": "scaled"}},
                         {"measure": {**SPRING, "score": "level", "grain": "half"}}]}  # fmt: skip
    score, half = (np.array(c.values) for c in demo.ask(asked).body.columns[-2:])
    for level in ("Building", "Secure", "Strong"):
        mine = np.array([str(one).startswith(level) for one in half])
        upper = np.array([v is not None and v >= halved[f"upper half of {level}"] for v in score])
        names = {str(one) for one in half[mine & upper]}
        assert mine.sum() > 20
        assert len(names) == 1
        assert names.isdisjoint({str(one) for one in half[mine & ~upper]})


def test_boundaries_in_marks_of_a_form_are_halved_too(demo: Place) -> None:
    form = {"assessment": "Harbour check", "sitting": "winter 2026", "form": "A", "score": "raw"}
    assert lines(demo, True, form)["upper half of Expected"] == pytest.approx(25.5)
