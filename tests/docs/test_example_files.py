"""The example files of docs/files come in as their pages say."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from tests.support import Place, new_place

from bridge_chart.intake.drafts.grid import grid_of
from bridge_chart.intake.keep.keep import Plan
from bridge_chart.store.settings import Settings
from bridge_chart.terms.grid import GridSpec

FILES = Path(__file__).parents[2] / "docs" / "files"
EXAMPLES = FILES / "examples"


@pytest.fixture(scope="module")
def filled(cluster: Settings) -> Iterator[tuple[Place, dict[str, Plan]]]:
    place = new_place(cluster)
    told: dict[str, dict[str, object]] = {
        "roster": {"academic_year": "2025-26"},
        "scale": {},
        "long": {},
        "wide": {"sitting": "summer 2026"},
        "questions-by-student": {"sitting": "winter 2026"},
        "question-table": {},
        "answers": {"sitting": "spring 2026"},
        "national": {},
        "expected": {},
        "conversion": {},
        "movement": {},
        "award": {},
        "practice": {},
        "reliability": {},
        "strands": {"sitting": "summer 2026"},
        "credits": {},
        "names": {},
        "next-steps": {},
    }
    kinds = {"roster": "roster", "scale": "scale", "question-table": "questions",
             "national": "national", "expected": "expectation", "conversion": "conversion",
             "movement": "movement", "award": "award", "practice": "practice",
             "reliability": "reliability", "credits": "credits", "names": "names",
             "next-steps": "next_steps"}  # fmt: skip
    plans = {}
    for name, said in told.items():
        data = (EXAMPLES / f"{name}.csv").read_bytes()
        kind = kinds.get(name, "results")
        plans[name] = place.bring(kind, data, name=f"{name}.csv", **said)
    yield place, plans
    place.engine.dispose()


def test_each_comes_in_whole(filled: tuple[Place, dict[str, Plan]]) -> None:
    kept = {name: plan.examination.rows_kept for name, plan in filled[1].items()}
    assert kept == {
        "roster": 4, "scale": 4, "long": 5, "wide": 6, "questions-by-student": 3,
        "question-table": 4, "answers": 2, "national": 4, "expected": 3, "conversion": 4,
        "movement": 9,
        "award": 5, "practice": 5, "strands": 3, "credits": 4, "reliability": 2,
        "names": 9, "next-steps": 4,
    }  # fmt: skip
    assert all(plan.examination.rows_set_aside == 0 for plan in filled[1].values())


def test_what_the_pages_say_is_so(filled: tuple[Place, dict[str, Plan]]) -> None:
    place, plans = filled
    found = {name: {f.key: f for f in plan.examination.findings} for name, plan in plans.items()}
    assert found["roster"]["date_order"].chosen == "dmy"
    assert {c.kind for c in plans["roster"].examination.creates} >= {"characteristics", "classes"}
    assert {"titles", "two_headers", "totals", "blank_cells"} <= set(found["wide"])
    assert "grade_order" not in found["wide"]
    assert "codes" in found["long"]
    taught = {c.name: c.courses for c in place.snapshot.classes}
    assert taught["8En2"] == ("English",)
    claims = {(m.role, m.kind) for m in place.snapshot.measures if m.role != "result"}
    assert claims == {("target", "floor"), ("predicted", "")}
    strand = {"assessment": "questions-by-student", "part": {"kind": "strand", "is": "each"}}
    answer = place.ask({"what": [strand]})
    assert {row.label for row in answer.body.rows} >= {"Number", "Shape"}


def test_the_mapping_and_the_grid_are_valid(filled: tuple[Place, dict[str, Plan]]) -> None:
    place, _ = filled
    said = json.loads((EXAMPLES / "mapping.json").read_text(encoding="utf-8"))
    data = (EXAMPLES / "wide.csv").read_bytes()
    plan = place.look("results", data, name="wide.csv", **said)
    assert plan.examination.columns[2].about["subject"] == "Mathematics"
    spec = GridSpec.model_validate_json((EXAMPLES / "grid.json").read_bytes())
    assert [row.cells for row in grid_of(place.snapshot, spec).rows] == [
        ["B", ""], ["A", ""], ["", ""],
    ]  # fmt: skip


def test_every_example_has_its_page() -> None:
    pages = "".join(page.read_text(encoding="utf-8") for page in FILES.glob("*.md"))
    for example in EXAMPLES.iterdir():
        assert f"examples/{example.name}" in pages
