"""A small calibration with fixed seeds: districts in which nothing differs are left in peace."""

from __future__ import annotations

from bench.calibration.asked import QUESTIONS
from bench.calibration.main import Found, districts
from bench.calibration.scored import is_null
from bench.calibration.truth import Truth

DISTRICTS = 10


def claimed(found: Found) -> dict[str, int]:
    return {name: cell.claimed for name, cell in found.items()}


def test_where_nothing_differs_little_is_claimed() -> None:
    """Nominal is one in twenty; docs/calibration.md has the rates of hundreds of districts."""
    truth = Truth("nothing differs")
    found, _ = districts(truth, DISTRICTS, seed=7)
    assert all(found[name].asked == DISTRICTS for name in QUESTIONS), "some question was refused"
    nulls = {n: c for n, c in claimed(found).items() if is_null(truth, QUESTIONS[n])}
    assert len(nulls) >= 40
    assert sum(nulls.values()) <= 0.08 * DISTRICTS * len(nulls)
    assert max(nulls.values()) <= 4, nulls  # more than four of ten comes once in 15,000 at 5%


def test_where_only_classes_differ_no_school_is_said_to() -> None:
    truth = Truth("classes differ", class_sd=0.2)
    found, _ = districts(truth, DISTRICTS, only="school", seed=8)
    nulls = {n: c for n, c in claimed(found).items() if is_null(truth, QUESTIONS[n])}
    assert len(nulls) >= 15
    assert sum(nulls.values()) <= 0.1 * DISTRICTS * len(nulls)


def test_what_is_there_is_found() -> None:
    """The count would see a claim: where schools differ by half an sd, it does."""
    truth = Truth("schools differ", effects=(0.5, -0.5, 0.5, -0.5))
    found, powers = districts(truth, 3, only="school", seed=7)
    for name in ("schools against start", "schools, pooled",
                 "three subjects × school against start"):  # fmt: skip
        assert found[name].claimed == 3, name
    marks = list(found["schools against start"].scores)
    assert sum(one.right for one in marks) >= 10
    assert sum(one.wrong for one in marks) == 0
    assert powers[0.5][0] >= 10
    inside = [(one.covered, one.rows) for one in marks]
    assert sum(a for a, _ in inside) >= 0.8 * sum(b for _, b in inside)
