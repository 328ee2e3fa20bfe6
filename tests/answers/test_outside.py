"""Numbers that leave the house: small ones hidden, none to be worked out, nothing that leads on."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

import numpy as np
import pytest
from tests.support import Place, signed_in

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.answers.asking.ask import lines_for_outside, read_question
from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.answers.shows.outside import HIDDEN
from bridge_chart.cli.demo import PASSWORD
from bridge_chart.core.hiding.lattice import lattice_of
from bridge_chart.core.hiding.suppress import OutOfTime, suppress
from bridge_chart.terms.errors import InvalidQuestion, NotAllowed
from bridge_chart.terms.people import Actor

MATHS = {"assessment": "Spring survey", "subject": "Mathematics"}
EIGHTH = {"all": [{"field": "year_level", "in": [8]}]}
BY_LANGUAGE = {"what": [MATHS], "who": EIGHTH, "split": [{"characteristic": "Home language"}]}


def outside(place: Place, question: dict[str, Any]) -> list[dict[str, Any]]:
    heads, lines = lines_for_outside(
        place.engine, place.settings, OPERATOR, read_question(question)
    )
    return [dict(zip(heads, line, strict=True)) for line in lines]


def test_small_rows_are_hidden_and_one_more_with_them(demo: Place) -> None:
    whole = {r.label: r for r in demo.ask(BY_LANGUAGE).body.rows}
    told = {
        line["label"]: line for line in outside(demo, BY_LANGUAGE) if line["row"] != "reference"
    }
    assert set(told) == set(whole)
    hidden = {label for label, line in told.items() if line["n"] == HIDDEN}
    small = {label for label, row in whole.items() if row.n < 10}
    assert small <= hidden
    assert len(hidden) != 1  # one alone is what the others leave of the whole
    for label, line in told.items():
        if label in hidden:
            assert {line[key] for key in ("mean", "span", "low", "high", "verdict")} == {None}
        else:
            assert line["n"] == whole[label].n
            assert line["mean"] == pytest.approx(whole[label].mean, abs=0.05)


def test_the_order_tells_nothing(demo: Place) -> None:
    labels = [line["label"] for line in outside(demo, {**BY_LANGUAGE, "split": [
        {"field": "school"}]}) if line["row"] != "reference"]  # fmt: skip
    assert labels == sorted(labels, key=str.casefold)


def test_levels_hide_their_small_counts(demo: Place) -> None:
    question = {"what": [MATHS], "who": EIGHTH, "split": [{"characteristic": "Meal support"}],
                "show": "levels"}  # fmt: skip
    whole = {row.label: row for row in demo.ask(question).body.rows}
    lines = outside(demo, question)
    steps = [step.name for step in demo.ask(question).body.steps]
    assert [line["label"] for line in lines] == sorted(whole)
    hidden_in = {step: [line[step] for line in lines].count(HIDDEN) for step in steps}
    assert any(hidden_in.values())
    assert 1 not in hidden_in.values()  # in a column either none, or two and more
    for line in lines:
        told = [line[step] for step in steps if line[step] != HIDDEN]
        assert all(count >= 10 for count in told)
        assert told == [c for c, s in zip(whole[line["label"]].counts, steps, strict=True)
                        if line[s] != HIDDEN]  # fmt: skip


@pytest.mark.parametrize("show", sorted(set(SHOWS) - {"spans", "table", "levels"}))
def test_lists_curves_and_dots_stay_inside(demo: Place, show: str) -> None:
    with pytest.raises(InvalidQuestion, match="Only the numbers of groups"):
        outside(demo, {"what": [MATHS], "show": show})


def test_a_list_of_a_mark_stays_inside(demo: Place) -> None:
    with pytest.raises(InvalidQuestion, match="Only the numbers of groups"):
        outside(demo, {"what": [MATHS], "open": {}})


def test_rows_that_share_students_are_refused(place: Place) -> None:
    lines = "".join(f"{n},T,8,{c},{c}\n" for n in range(30) for c in ("x", "y"))
    place.bring("roster", f"Number,School,Year level,Class,Teacher\n{lines}",
                academic_year="2025-26")  # fmt: skip
    scores = "".join(f"{n},Quiz,{n}\n" for n in range(30))
    place.bring("results", f"Number,Test,Score\n{scores}")
    asked = {"what": [{"assessment": "Quiz"}], "split": [{"field": "teacher"}]}
    with pytest.raises(InvalidQuestion, match="several of these rows"):
        outside(place, asked)
    few = {"what": [{"assessment": "Quiz"}], "who": {"all": [
        {"measure": {"assessment": "Quiz"}, "below": 4}]}}  # fmt: skip
    assert [line["n"] for line in outside(place, few)] == [HIDDEN]


def test_what_is_not_solved_in_time_does_not_go_out() -> None:
    made = lattice_of([np.repeat([0, 1, 2], [22, 14, 4])], [3], np.zeros(40, bool), [])
    with pytest.raises(OutOfTime):
        suppress(made, hits=False, seconds=0.0)


def test_by_http_as_by_the_function(demo: Place) -> None:
    with signed_in(demo, password=PASSWORD) as client:
        noted = "SELECT max(id) FROM audit WHERE detail->>'outside' = 'true' AND login = 'ailsa'"
        before = demo.scalar(noted)
        given = client.post("/api/exports/csv?outside=true", json=BY_LANGUAGE)
        assert given.status_code == 200
        read = list(csv.DictReader(io.StringIO(given.get_data().decode("utf-8-sig"))))
        told = outside(demo, BY_LANGUAGE)
        assert [(r["label"], r["n"]) for r in read] == [(t["label"], str(t["n"])) for t in told]
        refused = client.post("/api/exports/csv?outside=true", json={**BY_LANGUAGE,
                              "show": "spread"})  # fmt: skip
        assert refused.status_code == 422
        assert json.loads(refused.data)["error"]["details"]["instead"] == {"show": "spans"}
    assert before is None
    assert demo.scalar(noted) is not None
    with pytest.raises(NotAllowed):
        lines_for_outside(demo.engine, demo.settings, Actor(9, "x", "X", "guest"),
                          read_question(BY_LANGUAGE))  # fmt: skip
