"""Intake over HTTP alone: bring, say, look, keep, undo; what is refused changes nothing."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import pytest
from flask.testing import FlaskClient
from tests.support import PASSWORD, Place, roster, serving

ROSTER = roster([(f"{n:03d}", "Tarn", 8) for n in range(1, 21)])
RESULTS = "ID,Mark\n" + "".join(f"{n},{n % 7}\n" for n in range(1, 20)) + "888,3\n"


@pytest.fixture
def client(place: Place) -> Iterator[FlaskClient]:
    place.account("dora", "data_lead")
    place.account("other", "data_lead")
    with serving(place) as app:
        yield signed_in(app, "dora")


def signed_in(app: Any, login: str) -> FlaskClient:
    client: FlaskClient = app.test_client()
    assert (
        client.post("/api/session", json={"login": login, "password": PASSWORD}).status_code == 200
    )
    return client


def bring(client: FlaskClient, kind: str, text: str, name: str = "file.csv") -> Any:
    data = {"kind": kind, "file": (io.BytesIO(text.encode()), name)}
    return client.post("/api/drafts", data=data)


def settings(client: FlaskClient, draft: dict[str, Any], **change: Any) -> Any:
    body = {**draft["settings"], **change}
    return client.put(f"/api/drafts/{draft['id']}/settings", json=body)


def keep(client: FlaskClient, draft: dict[str, Any]) -> Any:
    token = draft["examination"]["token"]
    return client.post(f"/api/drafts/{draft['id']}/keep", json={"token": token})


def test_the_whole_way(place: Place, client: FlaskClient) -> None:
    draft = settings(client, bring(client, "roster", ROSTER).get_json(), academic_year="2025-26")
    assert draft.status_code == 200
    assert keep(client, draft.get_json()).get_json() == {"batch_id": 1, "version": 1}

    draft = bring(client, "results", RESULTS, "Quiz.csv").get_json()
    shown = draft["examination"]
    assert shown["picture"]["by_repair"] == 19
    assert shown["creates"][0] == {"kind": "tests", "names": ["Quiz"]}
    found = {f["key"]: f for f in shown["findings"]}
    assert found["no_student"]["rows"] == [21]
    path = f"/api/drafts/{draft['id']}"
    rows = client.get(f"{path}/rows?finding=no_student").get_json()
    assert rows == {"headers": ["ID", "Mark"], "rows": [{"row": 21, "cells": ["888", "3"]}]}
    assert keep(client, draft).status_code == 409  # it stops
    assert found["date"]["kind"] == "stop"
    said = {"no_student": "set_aside", "date": "summer"}
    settled = settings(client, draft, decisions=said).get_json()
    assert client.post(f"{path}/keep", json={"token": shown["token"]}).status_code == 409  # stale
    assert keep(client, settled).get_json() == {"batch_id": 2, "version": 2}
    assert keep(client, settled).status_code == 404  # once
    assert client.get("/api/drafts").get_json() == {"drafts": []}

    batches = client.get("/api/batches").get_json()["batches"]
    assert [(b["id"], b["event"], b["rows_kept"], b["rows_set_aside"]) for b in batches] == [
        (2, "kept", 19, 1), (1, "kept", 20, 0),
    ]  # fmt: skip
    assert batches[0]["by"] == "Dora"
    aside = client.get("/api/batches/2/aside").get_json()["rows"]
    assert aside == [{"row": 21, "reason": "result matches no student",
                      "cells": [["ID", "888"], ["Mark", "3"]]}]  # fmt: skip
    asked = {"what": [{"assessment": "Quiz"}]}
    assert client.post("/api/answers", json=asked).get_json()["coverage"][0]["counted"] == 19
    assert client.post("/api/batches/2/undo").status_code == 200
    assert client.post("/api/batches/2/undo").status_code == 409
    assert client.post("/api/answers", json=asked).status_code == 404
    assert client.post("/api/batches/2/put-back").status_code == 200
    assert client.post("/api/answers", json=asked).get_json()["coverage"][0]["counted"] == 19
    audit = "SELECT string_agg(action, ' ' ORDER BY id) FROM audit WHERE login = 'dora'"
    assert place.scalar(audit) == "sign_in keep keep open_aside undone kept"


def test_a_file_that_lacks_a_column_waits_and_says_what_is_missing(client: FlaskClient) -> None:
    draft = bring(client, "roster", "Kennung,Haus\n1,Tarn\n").get_json()
    assert draft["examination"] is None
    assert draft["problem"]["missing_role"] == "number"
    fixed = settings(client, draft, columns={"#1": "number", "#2": "school"}).get_json()
    assert fixed["problem"] is None
    assert fixed["examination"]["rows_kept"] == 1


@pytest.mark.parametrize(
    "change",
    [
        {"columns": {"Nowhere": "number"}},
        {"columns": {"#1": "shoe"}},
        {"decisions": {"zeros": "explode"}, "columns": {}},
        {"academic_year": "2025"},
        {"academic_year": "2025-27"},
        {"as_of": "2031-01-01", "academic_year": "2025-26"},
        {"covers": ["Nowhere"], "academic_year": "2025-26"},
        {"colour": "red"},
    ],
    ids=str,
)
def test_settings_that_make_no_sense_are_refused_and_forgotten(
    place: Place, client: FlaskClient, change: dict[str, Any]
) -> None:
    place.bring("roster", ROSTER, academic_year="2025-26")
    text = ROSTER.replace("001,", "1,") if "decisions" in change else ROSTER
    draft = bring(client, "roster", text).get_json()
    refused = settings(client, draft, **change)
    assert refused.status_code == 422, refused.get_json()
    assert refused.get_json()["error"]["message"]
    assert client.get(f"/api/drafts/{draft['id']}").get_json()["settings"] == draft["settings"]


def test_a_draft_is_its_owners(place: Place, client: FlaskClient) -> None:
    draft = bring(client, "roster", ROSTER).get_json()
    with serving(place) as app:
        stranger = signed_in(app, "other")
        assert stranger.get(f"/api/drafts/{draft['id']}").status_code == 404
        assert stranger.delete(f"/api/drafts/{draft['id']}").status_code == 404
    assert client.delete(f"/api/drafts/{draft['id']}").status_code == 200
    assert place.scalar("SELECT count(*) FROM source") == 0


@pytest.mark.parametrize(
    ("data", "status"),
    [
        ({"kind": "roster"}, 422),
        ({"kind": "poem", "file": (io.BytesIO(b"a,b\n1,2\n"), "x.csv")}, 422),
        ({"kind": "roster", "file": (io.BytesIO(b""), "x.csv")}, 422),
        ({"kind": "roster", "file": (io.BytesIO(b"PK\x03\x04zip"), "x.xlsx")}, 422),
    ],
)
def test_what_is_no_file_of_ours_is_refused(
    place: Place, client: FlaskClient, data: Any, status: int
) -> None:
    response = client.post("/api/drafts", data=data)
    assert response.status_code == status
    assert "Nothing was changed" in str(response.get_json()["error"]["kept"])
    assert place.scalar("SELECT count(*) FROM source") == 0


def test_a_file_over_the_limit_is_refused(place: Place, client: FlaskClient) -> None:
    small = Place(replace(place.settings, upload_megabytes=1), place.engine)
    with serving(small) as app:
        lead = signed_in(app, "dora")
        body = b"--x\r\n" + b"a" * 1_100_000
        response = lead.post(
            "/api/drafts", data=body, content_type="multipart/form-data; boundary=x"
        )
        assert response.status_code == 413
        assert "larger than 1 MB" in response.get_json()["error"]["message"]


def test_a_path_in_a_files_name_is_only_a_name(client: FlaskClient) -> None:
    draft = bring(client, "roster", ROSTER, "../../etc/passwd.csv").get_json()
    assert draft["name"] == "passwd.csv"
