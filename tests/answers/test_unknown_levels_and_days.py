"""Rosters without year levels, and sittings that are kept as of the same day."""

from __future__ import annotations

import numpy as np
import pytest
from tests.support import Place

from bridge_chart.terms.errors import InvalidQuestion

SCHOOLS, EACH = 9, 40


@pytest.fixture
def nine(place: Place) -> Place:
    """Nine schools whose roster says no year level; both sittings on one day."""
    rng = np.random.default_rng(1)
    rows = [f"{s}{n:03d},S{s},{s}{'AB'[n % 2]}" for s in range(SCHOOLS) for n in range(EACH)]
    text = "\n".join(["Number,School,Class", *rows]) + "\n"
    place.bring("roster", text, academic_year="2025-26")
    for sitting in ("one", "two"):
        marks = [
            f"{s}{n:03d},{50 + n + rng.normal(0, 5) + 3 * s:.0f}"
            for s in range(SCHOOLS) for n in range(EACH)
        ]  # fmt: skip
        place.bring("results", "\n".join(["Number,Score", *marks]) + "\n", test="Quiz",
                    sitting=sitting, date="2025-10-01")  # fmt: skip
    return place


def against(model: str, sitting: str = "one") -> dict[str, object]:
    start = {"assessment": "Quiz", "sitting": sitting}
    return {
        "what": [{"assessment": "Quiz", "sitting": "two"}], "split": [{"field": "school"}],
        "against": {"prior": {"model": model, "priors": [start]}},
    }  # fmt: skip


def test_year_levels_that_no_roster_says_do_not_switch_shrinking_off(nine: Place) -> None:
    answer = nine.ask(against("multilevel"))
    assert answer.method.name.endswith("multilevel model")
    assert all(row.reliability is not None for row in answer.body.rows)


def test_a_start_of_the_same_day_is_answered_with_a_warning(nine: Place) -> None:
    answer = nine.ask(against("simple"))
    assert [row.n for row in answer.body.rows] == [EACH] * SCHOOLS
    told = {w.code: w.text for w in answer.warnings}
    assert "kept as of the same day" in told["on_one_day"]


def test_a_sitting_is_no_start_of_itself(nine: Place) -> None:
    with pytest.raises(InvalidQuestion, match="not earlier"):
        nine.ask(against("simple", "two"))
