"""Hidden names: stand-ins that are steady within a session and say nothing."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from tests.support import PASSWORD, Place, roster, serving

from bridge_chart.access.accounts import actor_named
from bridge_chart.access.scoped import seen_by

LIST = {"what": [{"assessment": "Quiz"}], "show": "students", "page": {"size": 100}}


@pytest.fixture
def tarn(place: Place) -> Place:
    people = [(f"{n:03d}", "Tarn" if n < 9 else "Orme", 7) for n in range(1, 17)]
    place.bring("roster", roster(people), academic_year="2025-26")
    marks = "Number,Test,Score\n" + "".join(f"{n:03d},Quiz,{n}\n" for n in range(1, 17))
    place.bring("results", marks, date="2026-05-01")
    place.account("ailsa", "data_lead")
    place.account("rowan", "school_lead", "Tarn")
    return place


def stand_ins(place: Place, login: str, session: str, version: int | None = None) -> dict[int, str]:
    who = replace(actor_named(place.engine, login), names_hidden=True, stand_ins=session)
    snapshot = seen_by(place.engine, place.settings.snapshots, who, version)
    return dict(zip(snapshot.student_ids.tolist(), snapshot.given_names.tolist(), strict=True))


def test_a_stand_in_is_steady_in_a_session_and_another_in_the_next(tarn: Place) -> None:
    first = stand_ins(tarn, "ailsa", "one")
    assert len(set(first.values())) == 16
    assert stand_ins(tarn, "ailsa", "one", version=1) == first
    newcomers = [(f"{n:03d}", "Orme", 7) for n in range(1, 41)]
    tarn.bring("roster", roster(newcomers), "later.csv", academic_year="2025-26",
               as_of="2026-01-10")  # fmt: skip
    later = stand_ins(tarn, "ailsa", "one")
    assert len(later) == 40
    assert {student: later[student] for student in first} == first
    other = stand_ins(tarn, "ailsa", "two")
    assert sum(other[student] == first[student] for student in first) < 3
    # Nor does a number say how somebody stands in the record.
    ranks = sorted(first, key=lambda student: int(first[student].split()[1]))
    assert ranks != sorted(first)


def test_one_switch_hides_names_in_answers_files_and_finds(tarn: Place) -> None:
    with serving(tarn) as app:
        client = app.test_client()
        client.post("/api/session", json={"login": "ailsa", "password": PASSWORD})
        client.put("/api/session/names", json={"hidden": True})

        def listed() -> dict[str, Any]:
            body = client.post("/api/answers", json=LIST).get_json()["body"]
            return {column["key"]: column["values"] for column in body["columns"]}

        one, again = listed(), listed()
        assert one["name"] == again["name"]
        assert all(name.startswith("Student ") for name in one["name"])
        assert set(one["number"]) == {""}
        exported = client.post("/api/exports/csv", json=LIST).get_data(as_text=True)
        assert one["name"][0] in exported
        assert "001" not in exported
        # Another sign-in of the same person has others; the first keeps its own.
        elsewhere = app.test_client()
        elsewhere.post("/api/session", json={"login": "ailsa", "password": PASSWORD})
        elsewhere.put("/api/session/names", json={"hidden": True})
        body = elsewhere.post("/api/answers", json=LIST).get_json()["body"]
        names = next(c["values"] for c in body["columns"] if c["key"] == "name")
        assert names != one["name"]
        assert listed() == one
