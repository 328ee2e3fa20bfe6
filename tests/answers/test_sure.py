"""How sure: every figure is that of the question which it stands for."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import numpy as np
import polars as pl
import pytest
from tests.answers.sources import check, year_8
from tests.intake.test_keeping import undo
from tests.support import Place, copy_of, forget_place

from bridge_chart.access.accounts import actor_named
from bridge_chart.core.value_added.corrected import corrected_effects
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import InvalidQuestion, NotFound

MATHS: dict[str, Any] = {
    "assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"
}  # fmt: skip
EIGHTH = {"all": [{"field": "year_level", "in": [8]}]}
SURE: dict[str, Any] = {
    "what": [MATHS], "who": EIGHTH, "split": [{"field": "school"}], "against": {"prior": {}},
    "show": "sure",
}  # fmt: skip
EXACT = "Test,Subject,Score,Year level,Reliability,Error of measurement\n"


def asked(place: Place, prior: dict[str, Any], **more: Any) -> dict[str, Any]:
    rows = place.ask({**SURE, "show": "table", "against": {"prior": prior}, **more}).body.rows
    return {row.key: row for row in rows}


def test_each_model_is_what_it_would_be_if_it_were_asked_for(demo: Place) -> None:
    body = demo.ask(SURE).body
    names = [model.key for model in body.models]
    assert names[:4] == ["asked", "spline", "corrected", "multilevel"]
    marked = [row for row in asked(demo, {}).values() if row.verdict in ("ahead", "behind")]
    marked.sort(key=lambda row: -abs(row.effect))
    assert len(marked) == 3
    assert names[4:] == [row.key.replace("school", "without") for row in marked]
    for key, prior in (("asked", {}), ("spline", {"expect": "spline"}),
                       ("corrected", {"model": "corrected"}),
                       ("multilevel", {"model": "multilevel"})):  # fmt: skip
        there = asked(demo, prior)
        for row in body.rows:
            figure, single = row.figures[names.index(key)], there[row.key]
            assert (figure.span, figure.verdict) == (pytest.approx(single.span), single.verdict)
            assert figure.low == pytest.approx(single.low)


def test_the_years_before_are_the_answers_of_then(demo: Place) -> None:
    body = demo.ask(SURE).body
    assert body.years == ["spring 2025", "spring 2026"]
    before = asked(demo, {}, what=[{**MATHS, "sitting": "spring 2025"}])
    for row in body.rows:
        assert row.years[0].span == pytest.approx(before[row.key].span)
        assert row.years[1].span == row.figures[0].span
    fern = next(row for row in body.rows if row.label == "Fernhollow")
    assert fern.mean == pytest.approx(
        np.average([y.span for y in fern.years], weights=[y.n for y in fern.years])
    )


def test_the_line_without_a_school_hangs_on_it_no_more(demo: Place) -> None:
    body = demo.ask(SURE).body
    at = next(n for n, m in enumerate(body.models) if m.label == "line without Fernhollow")
    fern = next(row for row in body.rows if row.label == "Fernhollow")
    assert fern.figures[at].span < fern.figures[0].span
    read = year_8_of(demo)
    others = read["school"] != "Fernhollow"
    slope, start = np.polyfit(read["before"][others], read["maths"][others], 1)
    own = read["maths"][~others] - slope * read["before"][~others] - start
    assert fern.figures[at].span == pytest.approx(own.mean(), abs=0.1)


def year_8_of(place: Place) -> dict[str, np.ndarray]:
    frame = year_8(place.settings.home / "demo")
    frame = frame.drop_nulls(["Mathematics 2026", "Mathematics 2025"])
    return {
        "school": frame["School"].to_numpy(),
        "maths": frame["Mathematics 2026"].to_numpy().astype(float),
        "before": frame["Mathematics 2025"].to_numpy().astype(float),
    }


def test_a_line_without_one_school_is_not_told_to_another(demo: Place) -> None:
    head = actor_named(demo.engine, "rowan")
    body = demo.ask(SURE, head).body
    assert not [m for m in body.models if m.key.startswith("without")]
    assert any("other schools" in why for why in body.not_tried)


@pytest.mark.parametrize("against", [None, {"nation": {}}, {"group": {"who": {}}}])
def test_it_is_asked_of_a_start_only(demo: Place, against: Any) -> None:
    with pytest.raises(InvalidQuestion, match="where they started"):
        demo.ask({**SURE, "against": against})


@pytest.fixture(scope="module")
def exact(cluster: Settings, demo: Place) -> Iterator[Place]:
    """The demo with a declared error of measurement of 9 points."""
    place = copy_of(cluster, demo)
    place.bring("reliability", f"{EXACT}Spring survey,,scaled,,,9\n")
    yield place
    forget_place(place)


@pytest.fixture(scope="module")
def undeclared(cluster: Settings, demo: Place) -> Iterator[Place]:
    """The demo without the declaration of its survey's reliability."""
    place = copy_of(cluster, demo)
    batch = place.scalar("SELECT max(id) FROM batch WHERE kind = 'reliability'")
    undo(place, int(str(batch)))
    yield place
    forget_place(place)


def test_without_a_declaration_nothing_is_corrected(undeclared: Place) -> None:
    with pytest.raises(NotFound, match="has not been declared"):
        asked(undeclared, {"model": "corrected"})
    body = undeclared.ask(SURE).body
    assert "corrected" not in [model.key for model in body.models]
    assert any("declared" in why for why in body.not_tried)


def test_corrected_is_the_cores_correction_on_the_files(exact: Place) -> None:
    found = asked(exact, {"model": "corrected"})
    read = year_8_of(exact)
    schools = sorted(set(read["school"].tolist()))
    place = np.array([schools.index(name) for name in read["school"]])
    ours = corrected_effects(
        read["maths"], read["before"][:, None], np.array([9.0]), place, len(schools)
    )
    for row in found.values():
        if row.span is not None:
            # The declared error is held against all who have a start, not those with both only.
            assert row.span == pytest.approx(ours.mean[schools.index(row.label)], abs=0.15)
            assert row.because is None
    labels = [model.label for model in exact.ask(SURE).body.models]
    assert "corrected for error in the start" in labels


def test_a_mark_holds_at_the_reliability_that_is_declared(
    undeclared: Place, exact: Place, cluster: Settings
) -> None:
    """Brackwater started high: of an exact start its mark stands, of an unknown one it does not."""
    unknown = next(r for r in asked(undeclared, {}).values() if r.label == "Brackwater")
    assert (unknown.verdict, unknown.because) == ("unclear", "start")
    known = next(r for r in asked(exact, {}).values() if r.label == "Brackwater")
    assert (known.verdict, known.because) == ("ahead", None)
    poor = copy_of(cluster, undeclared)
    poor.bring("reliability", f"{EXACT}Spring survey,Mathematics,scaled,7,0.7,\n")
    told = next(r for r in asked(poor, {}).values() if r.label == "Brackwater")
    assert (told.verdict, told.because) == ("unclear", "start")
    forget_place(poor)


@pytest.mark.parametrize(
    ("text", "key"),
    [
        ("Test,Score,Reliability\nS,scaled,1.2\n", "reliability_outside"),
        ("Test,Score,SEM\nS,scaled,-3\n", "reliability_outside"),
        ("Test,Score,Reliability\nS,scaled,\n", "no_reliability"),
        ("Test,Score,Reliability\nS,sclaed,0.9\n", "unknown_score"),
        ("Test,Score,Reliability\nS,scaled,0.9\nS,scaled,0.8\n", "doubled"),
    ],
)
def test_what_cannot_be_stops(place: Place, text: str, key: str) -> None:
    found = {
        f.key for f in place.look("reliability", text).examination.findings if f.kind == "stop"
    }
    assert key in found


def test_no_start_is_more_reliable_than_its_questions_say(demo: Place) -> None:
    winter = {"assessment": "Harbour check", "sitting": "winter 2026", "score": "raw"}
    answer = demo.ask({"what": [winter], "split": [{"field": "school"}], "against": {"prior": {}}})
    marks = check(demo.settings.home / "demo", "autumn")
    found = []
    for form in ("A", "B"):
        own = marks.filter(pl.col("Form") == form).select([f"Q{n}" for n in range(1, 31)])
        table = own.fill_null(0).to_numpy().astype(float)[own.to_numpy().astype(float).max(1) >= 0]
        parts = table.var(axis=0, ddof=1).sum() / table.sum(axis=1).var(ddof=1)
        found.append(30 / 29 * (1 - parts))
    assert answer.method.facts["start_reliable_at_most"] == pytest.approx(sorted(found), abs=0.02)
    maths = demo.ask({**SURE, "show": "spans"})
    assert "start_reliable_at_most" not in maths.method.facts
