"""Scales, questions and national figures, as they hold when several tables speak of them."""

from __future__ import annotations

from typing import Any

from bridge_chart.store.reference_tables import ReferenceTables, Scale, Step, tidy


def step(name: str, batch: int, **more: Any) -> dict[str, Any]:
    return {"test": "Finals", "score": "grade", "step": name, "batch": batch, **more}


def test_the_newest_scale_replaces_the_whole_older_one() -> None:
    tables = ReferenceTables({"scale": [
        step("low", 1), step("mid", 1), step("high", 1, passes=True),
        step("fail", 4), step("pass", 4, passes=True, points=1.0),
    ]})  # fmt: skip
    scale = tables.scale("finals", "Art", "grade")
    assert scale is not None
    assert [s.name for s in scale.steps] == ["fail", "pass"]
    assert [s.passes for s in scale.steps] == [False, True]
    assert tables.scale("finals", "Art", "level") is None
    assert tables.scale("Other", None, "grade") is None


def test_a_scale_of_one_subject_is_not_anothers() -> None:
    tables = ReferenceTables({"scale": [step("one", 1, subject="Art"), step("all", 1)]})
    art, music = (tables.scale("Finals", name, "grade") for name in ("Art", "Music"))
    assert art is not None
    assert music is not None
    assert [s.name for s in art.steps] == ["one", "all"]
    assert [s.name for s in music.steps] == ["all"]


def test_cuts_of_several_year_levels_make_one_scale() -> None:
    rows = [
        step(name, 1, year_level=level, **{"from": lowest})
        for level in (7, 8)
        for name, lowest in (("low", None), ("high", 300.0 + level))
    ]
    scale = ReferenceTables({"scale": rows}).scale("Finals", None, "grade")
    assert scale is not None
    assert [s.name for s in scale.steps] == ["low", "high"]
    assert [(c.step, c.year_level, c.lowest) for c in scale.cuts] == [
        ("high", 7, 307.0), ("high", 8, 308.0)
    ]  # fmt: skip


def test_steps_are_found_however_they_are_written() -> None:
    scale = Scale((Step("U"), Step("A", synonyms=("top",)), Step("A*", synonyms=("A star", "A+"))))
    found = [scale.place(cell) for cell in ("u", " a ", "TOP", "A +", "a star", "B", "")]
    assert found == [0, 1, 1, 2, 2, None, None]
    assert tidy(" A * ") == "a*"


def test_questions_gather_what_several_tables_say() -> None:
    rows = [
        {"test": "Check", "sitting": "June", "question": "Q1", "maximum": 2, "batch": 1},
        {"test": "Check", "question": "q1", "strand": "Number", "batch": 2},
        {"test": "Check", "form": "B", "question": "Q1", "strand": "Shape", "batch": 3},
        {"test": "Check", "sitting": "May", "question": "Q1", "maximum": 9, "batch": 4},
    ]
    tables = ReferenceTables({"questions": rows})
    first = tables.questions("Check", None, "June", "A")["q1"]
    assert (first.maximum, first.tags) == (2, {"strand": "Number"})
    other = tables.questions("Check", None, "June", "B")["q1"]
    assert other.tags == {"strand": "Shape"}
    assert tables.questions("Check", None, "May", None)["q1"].maximum == 9


def test_national_figures_are_apart_by_form_and_year_level_and_the_newest_hold() -> None:
    def figure(statistic: str, value: float, batch: int, **more: Any) -> dict[str, Any]:
        return {"test": "Check", "score": "raw", "statistic": statistic, "value": value,
                "batch": batch, "year_level": 8, "form": "A", **more}  # fmt: skip

    rows = [
        figure("mean", 20, 1), figure("sd", 5, 1),
        figure("mean", 21, 2), figure("percentile", 30, 2, of="90"),
        figure("percentile", 21, 2, of="50"), figure("facility", 0.4, 2, of="Q1"),
        figure("mean", 18, 2, form="B"), figure("share", 0.3, 2, score="level", of="High"),
    ]  # fmt: skip
    tables = ReferenceTables({"national": rows})
    found = {table.form: table for table in tables.national("check", None, "June", "raw")}
    assert set(found) == {"A", "B"}
    assert (found["A"].mean, found["A"].sd) == (21, None)  # the newer table has no sd
    assert found["A"].percentiles == ((50.0, 21), (90.0, 30))
    assert found["A"].facilities == {"Q1": 0.4}
    (levels,) = tables.national("check", None, "June", "level")
    assert levels.shares == {"High": 0.3}
    assert tables.national("check", None, "June", "scaled") == []
