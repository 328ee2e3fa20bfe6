"""Several measures, two splits, highlights, pinned rows, and what the readings may claim."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import polars as pl
import pytest
from tests.answers.sources import year_8
from tests.support import Place, roster

from bridge_chart.terms.errors import InvalidQuestion, NotYet, TooWide

MATHS: dict[str, Any] = {"assessment": "Spring survey", "subject": "Mathematics",
                         "sitting": "spring 2026"}  # fmt: skip
EACH = {**MATHS, "subject": "each"}
YEAR_8: dict[str, Any] = {"all": [{"field": "year_level", "in": [8]}]}
SEX = {"characteristic": "Sex"}
MEALS = {"characteristic": "Meal support"}
PRIOR: dict[str, Any] = {"prior": {}}


@pytest.fixture(scope="module")
def students(demo: Place) -> pl.DataFrame:
    return year_8(Path(demo.settings.home) / "demo")


def test_a_row_for_every_pair_of_two_splits(demo: Place, students: pl.DataFrame) -> None:
    answer = demo.ask({"who": YEAR_8, "what": [MATHS], "split": [MEALS, SEX]})
    assert (answer.body.dimension, answer.body.within) == ("Meal support", "Sex")
    for row in answer.body.rows:
        outer, inner = (step.label for step in row.path)
        own = students.filter(
            (pl.col("Meal support") == outer.removeprefix("Meal support: "))
            & (pl.col("Sex") == inner)
        )["Mathematics 2026"].drop_nulls()
        assert row.n == own.len()
        assert row.mean == pytest.approx(own.mean())
        assert len(row.opens.add) == 2
    keys = [row.path[0].key for row in answer.body.rows]
    assert keys == sorted(keys, key=keys.index)
    assert sum(row.n for row in answer.body.rows) == answer.coverage[0].counted
    assert any("depends on the Meal support" in r.text for r in answer.readings)


def test_overlapping_memberships_meet_every_one_of_the_other_split(place: Place) -> None:
    people = "number,school,year,class,sex\n" + "".join(
        f"{n:03d},Tarn,8,{name},{'FM'[n % 2]}\n"
        for n in range(24)
        for name in ("8A", f"Set {n % 3}")
    )
    place.bring("roster", people, academic_year="2025-26")
    place.bring("results", "id,score\n" + "".join(f"{n:03d},{n}\n" for n in range(24)),
                name="Quiz.csv")  # fmt: skip
    answer = place.ask({"what": [{"assessment": "Quiz"}],
                        "split": [{"field": "class"}, {"characteristic": "sex"}]})  # fmt: skip
    found = {row.label: row.n for row in answer.body.rows}
    assert found["8A, F"] == found["8A, M"] == 12
    assert {n for label, n in found.items() if label.startswith("Set")} == {4}
    assert all(row.overlap for row in answer.body.rows)
    assert "overlap" in [w.code for w in answer.warnings]


def test_each_subject_has_its_own_yardstick_and_coverage(demo: Place) -> None:
    asked = {"who": YEAR_8, "split": [SEX], "against": PRIOR}
    together = demo.ask({**asked, "what": [EACH]})
    assert len(together.coverage) == len(together.measures) == 3
    for number, subject in enumerate(("Mathematics", "Reading", "Writing")):
        alone = demo.ask({**asked, "what": [{**MATHS, "subject": subject}]})
        for row in alone.body.rows:
            twin = next(
                r for r in together.body.rows
                if r.measure == number and r.path[0].label == row.label
            )  # fmt: skip
            assert (twin.n, twin.span, twin.low, twin.high) == (row.n, row.span, row.low, row.high)
        own = together.coverage[number], alone.coverage[0]
        counts = [(c.population, c.counted, [(m.reason, m.n) for m in c.missing]) for c in own]
        assert counts[0] == counts[1]


def test_measures_stand_inside_or_outside(demo: Place) -> None:
    inside = demo.ask({"who": YEAR_8, "what": [EACH], "split": [SEX]}).body
    assert (inside.dimension, inside.within) == ("Sex", "subject")
    assert [s.label for s in inside.rows[0].path][1] in ("Mathematics", "Reading", "Writing")
    outside = demo.ask({"who": YEAR_8, "what": [EACH], "split": ["subject", SEX]}).body
    assert (outside.dimension, outside.within) == ("subject", "Sex")
    assert [r.path[0].label for r in outside.rows] == [
        name for name in ("Mathematics", "Reading", "Writing") for _ in range(2)
    ]
    key = {(r.label, r.n, r.mean) for r in inside.rows}
    assert {(", ".join(reversed(r.label.split(", "))), r.n, r.mean) for r in outside.rows} == key


def test_a_matched_cohort_is_counted_in_every_measure(demo: Place, students: pl.DataFrame) -> None:
    answer = demo.ask({"who": YEAR_8, "what": [EACH], "cohort": "matched"})
    both = students.drop_nulls([f"{s} 2026" for s in ("Mathematics", "Reading", "Writing")])
    assert {row.n for row in answer.body.rows} == {both.height}


def test_too_much_at_once_is_refused_by_name(demo: Place) -> None:
    with pytest.raises(InvalidQuestion, match="by one thing, not by two"):
        demo.ask({"what": [EACH], "split": [SEX, MEALS]})
    with pytest.raises(InvalidQuestion, match="one measure at a time"):
        demo.ask({"what": [EACH], "show": "students"})
    with pytest.raises(NotYet, match="bridge"):
        demo.ask({"what": [MATHS], "show": "bridge"})
    with pytest.raises(InvalidQuestion, match="whole award"):
        demo.ask({"what": [{**MATHS, "score": "level"}], "show": "awards"})
    with pytest.raises(InvalidQuestion, match="not earlier"):
        demo.ask({"what": [MATHS], "against": {"growth_table": {"goal": "expected",
                                                                "from": MATHS}}})  # fmt: skip
    from bridge_chart.answers.figures import slices

    before = slices.MOST_ROWS
    slices.MOST_ROWS = 10
    try:
        with pytest.raises(TooWide, match="rows"):
            demo.ask({"who": YEAR_8, "what": [EACH], "split": [{"field": "class"}]})
    finally:
        slices.MOST_ROWS = before


def test_highlighting_changes_no_figure(demo: Place) -> None:
    asked = {"who": YEAR_8, "what": [MATHS], "split": [{"field": "school"}], "against": PRIOR}
    plain = demo.ask(asked).body.rows
    bright = demo.ask({**asked, "focus": [{"characteristic": "Sex", "in": ["F"]}]}).body.rows
    girls = demo.ask({**asked, "who": {"all": [
        *YEAR_8["all"], {"characteristic": "Sex", "in": ["F"]}]}})  # fmt: skip
    own = {row.label: row for row in girls.body.rows}
    for one, two in zip(plain, bright, strict=True):
        assert (one.label, one.n, one.span, one.low, one.verdict) == (
            two.label, two.n, two.span, two.low, two.verdict
        )  # fmt: skip
        assert two.focus_n == own[two.label].n
        assert two.focus_value == own[two.label].span


def test_the_reference_of_a_class_is_its_own_year_level(
    demo: Place, students: pl.DataFrame
) -> None:
    pupils = {"all": [{"field": "class", "in": ["Netherby: 8B, 2025-26"]}]}
    answer = demo.ask({"who": pupils, "what": [MATHS]})
    (row,) = answer.body.reference
    assert row.n == students["Mathematics 2026"].drop_nulls().len()
    assert (row.pinned, row.opens) == (True, None)
    whole = demo.ask({"who": YEAR_8, "what": [MATHS]})
    assert whole.body.reference == []  # the same students would stand there twice


def test_year_levels_that_did_not_sit_are_beside_the_population(demo: Place) -> None:
    answer = demo.ask({"what": [{"assessment": "Harbour check", "sitting": "winter 2026"}]})
    covered = answer.coverage[0]
    assert covered.population == covered.counted + sum(m.n for m in covered.missing)
    assert covered.not_entered > 2000
    assert covered.population + covered.not_entered == demo.ask(
        {"what": [{**MATHS, "sitting": "spring 2026"}], "who": {"as_of": {"date": "2026-02-10"}}}
    ).coverage[0].population  # fmt: skip


def test_a_split_decided_by_the_result_is_warned_of(demo: Place) -> None:
    level = {"level_of": MATHS}
    answer = demo.ask({"who": YEAR_8, "what": [MATHS], "split": [level], "against": PRIOR})
    warned = next(w for w in answer.warnings if w.code == "split_after")
    assert warned.instead == {"split": [{"band": "prior"}]}
    before = {"level_of": {**MATHS, "sitting": "spring 2025"}}
    calm = demo.ask({"who": YEAR_8, "what": [MATHS], "split": [before], "against": PRIOR})
    assert "split_after" not in [w.code for w in calm.warnings]
    assert [row.label for row in calm.body.rows][:5] == [
        "Emerging", "Building", "Secure", "Strong", "Exceptional"
    ]  # fmt: skip


QUESTIONS: list[dict[str, Any]] = [
    {"split": [{"field": "school"}], "against": PRIOR},
    {"split": [{"field": "class"}], "against": {"prior": {"model": "multilevel"}}},
    {"split": [{"field": "school"}], "against": {"group": {"who": YEAR_8}}},
    {"split": [{"field": "school"}], "against": {"nation": {}}},
    {"split": [MEALS, SEX], "against": PRIOR},
    {"what": [EACH], "split": [{"field": "class"}], "against": PRIOR},
    {"what": [EACH], "split": ["subject", {"band": "prior"}], "against": PRIOR},
    {"split": [{"characteristic": "Home language"}], "show": "levels"},
    {"split": [SEX], "show": "levels"},
    {"split": [MEALS], "show": "over_time"},
    {"split": [SEX], "show": "spread"},
]


@pytest.mark.parametrize("change", QUESTIONS, ids=str)
def test_readings_never_claim_what_the_interval_does_not_support(
    demo: Place, change: dict[str, Any]
) -> None:
    answer = demo.ask({"who": YEAR_8, "what": [MATHS], **change})
    assert answer.readings
    rows = {row.key: row for row in getattr(answer.body, "rows", [])}
    for said in answer.readings:
        assert "  " not in said.text
        assert "nan" not in said.text.lower()
        assert said.text[-1] in ".;"
        if said.kind in ("ahead", "behind") and answer.body.show in ("spans", "table"):
            for key in said.rows:
                assert rows[key].verdict == said.kind
                assert (rows[key].low > 0) if said.kind == "ahead" else (rows[key].high < 0)
    if answer.body.show in ("spans", "table"):
        named = {key for said in answer.readings for key in said.rows if said.kind == "behind"}
        assert named <= {row.key for row in rows.values() if row.verdict == "behind"}


def test_nobody_counted_is_said_in_every_lens(place: Place) -> None:
    place.bring("roster", roster([(f"{n:03d}", "Tarn", 8) for n in range(30)]),
                academic_year="2025-26")  # fmt: skip
    lines = [f"{n:03d},{n},{'low' if n < 15 else 'high'}" for n in range(30)]
    place.bring("results", "\n".join(["id,score,level", *lines]) + "\n", name="Quiz.csv")
    nobody = {"all": [{"measure": {"assessment": "Quiz"}, "above": 99}]}
    for show in ("spans", "table", "levels", "spread", "students", "strip"):
        answer = place.ask({"who": nobody, "what": [{"assessment": "Quiz"}], "show": show})
        assert answer.coverage[0].counted == 0
        assert answer.coverage[0].population == 0
