"""Files of one archive: parts of one test where they share no students."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from typing import Any

import pytest
from flask.testing import FlaskClient
from tests.cli.warm import command
from tests.support import Place, roster, signed_in

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.intake.drafts.drafts import new_drafts
from bridge_chart.intake.said.settings import IntakeSettings

A = "Number,Mark\n01,5\n02,6\n"
B = "Number,Mark\n03,7\n04,8\n"


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", roster([(f"{n:02d}", "Tarn", 8) for n in range(1, 7)]),
                academic_year="2025-26")  # fmt: skip
    place.account("ailsa", "data_lead")
    return place


@pytest.fixture
def client(tarn: Place) -> Iterator[FlaskClient]:
    with signed_in(tarn) as client:
        yield client


def packed(**files: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, text in files.items():
            archive.writestr(f"{name}.csv", text)
    return out.getvalue()


def together(place: Place, said: IntakeSettings | None = None, **files: str) -> list[str]:
    data = packed(**files)
    made = new_drafts(place.engine, OPERATOR, "results", "Summer.zip", data,
                      said or IntakeSettings())  # fmt: skip
    return [draft.settings.together for draft in made]


def test_files_of_other_students_are_parts_of_one_test(tarn: Place) -> None:
    assert together(tarn, a8=A, b8=B) == ["Summer", "Summer"]


@pytest.mark.parametrize(
    "other",
    ["Number,Mark\n01,7\n02,8\n", "Number,Score\n03,7\n04,8\n", "Name,Mark\nOrla,7\nZeno,8\n"],
    ids=["the same students", "other columns", "no numbers"],
)
def test_other_files_of_an_archive_stay_tests_of_their_own(tarn: Place, other: str) -> None:
    assert together(tarn, reading=A, maths=other) == ["", ""]


def test_an_archive_comes_in_as_one_sitting_on_the_command_line(
    tarn: Place,
) -> None:
    path = tarn.settings.home / "Summer.zip"
    path.write_bytes(packed(a8=A, b8=B))
    done = command(tarn.settings.home, "import", "results", str(path))
    assert "test = Summer (the archive's name" in done.stdout
    assert tarn.ask({"what": [{"assessment": "Summer"}]}).coverage[0].counted == 4
    assert tarn.scalar("SELECT count(*) FROM assessment") == 1
    command(
        tarn.settings.home,
        "import",
        "results",
        str(path),
        "--test",
        "Final",
        "--date",
        "2026-06-02",
    )
    assert tarn.ask({"what": [{"assessment": "Final"}]}).coverage[0].counted == 4


def test_what_is_said_of_one_is_said_of_all_with_the_same_columns(client: FlaskClient) -> None:
    def draft(identity: str) -> dict[str, Any]:
        return dict(client.get(f"/api/drafts/{identity}").get_json())

    form = {"kind": "results", "file": (io.BytesIO(packed(a8=A, b8=B)), "Summer.zip")}
    first = client.post("/api/drafts", data=form).get_json()
    other = {"kind": "results", "file": (io.BytesIO(b"No,Mark\n05,3\n"), "other.csv")}
    client.post("/api/drafts", data=other)
    assert {"key": "test", "value": "Summer",
            "why": "the archive's name; its files share no students"} in first["examination"][
        "defaults"
    ]  # fmt: skip
    client.put(f"/api/drafts/{first['id']}/settings",
               json=first["settings"] | {"subject": "Reading", "score": "percent"})  # fmt: skip
    told = client.post(f"/api/drafts/{first['id']}/same").get_json()
    assert told == {"said": ["b8.csv"], "refused": []}
    waiting = {item["name"]: item["id"] for item in client.get("/api/drafts").get_json()["drafts"]}
    said = draft(waiting["b8.csv"])["settings"]
    assert (said["subject"], said["score"], said["together"]) == ("Reading", "percent", "Summer")
    assert draft(waiting["other.csv"])["settings"]["subject"] == ""
