"""Files of one archive: its junk is named; all of it is kept or taken back at once."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from pathlib import Path

import pytest
from tests.support import Place, signed_in

from bridge_chart.cli.main import main

HEAD = "Number,School,Year,Class\n"
SCHOOLS = {"Ash": "1,Ash,7,7A\n2,Ash,7,7A\n", "Birch": "3,Birch,7,7A\n", "Cedar": "4,Cedar,8,8A\n"}


def archive(last: str = "") -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        for school, rows in SCHOOLS.items():
            made.writestr(f"out/{school}.csv", HEAD + rows)
        if last:
            made.writestr("out/Zed.csv", last)
        made.writestr("readme.txt.md", "How to read these")
        made.writestr("__MACOSX/out/._Ash.csv", "junk")
        made.writestr("out/.DS_Store", "junk")
    return out.getvalue()


@pytest.fixture
def packed(place: Place) -> Path:
    path = place.settings.home / "schools.zip"
    path.write_bytes(archive())
    return path


Run = Callable[..., tuple[int, str]]


@pytest.fixture
def run(place: Place, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]) -> Run:
    """The command line on the place: its exit code, and what it says."""
    monkeypatch.setenv("BRIDGE_HOME", str(place.settings.home))

    def go(*arguments: str) -> tuple[int, str]:
        with pytest.raises(SystemExit) as ended:
            main(list(arguments))
        said = capsys.readouterr()
        return int(str(ended.value.code)), said.out + said.err

    return go


def test_an_archive_is_kept_whole_named_in_the_history_and_undone_whole(
    place: Place, packed: Path, run: Run
) -> None:
    code, told = run("import", "roster", str(packed), "--year", "2025-26")
    assert code == 0, told
    assert "3 things of what came with it left behind" in told
    for junk in ("readme.txt.md", "__MACOSX/out/._Ash.csv", "out/.DS_Store"):
        assert told.count(junk) == 1
    assert run("history")[1].count("schools.zip: ") == 3
    before = place.snapshot.version
    assert "undone" in run("undo", "2", "--archive")[1]
    assert place.snapshot.version == before + 1
    assert place.snapshot.schools == []
    run("put-back", "1", "--archive")
    assert [s.name for s in place.snapshot.schools] == list(SCHOOLS)


def test_where_one_of_its_files_stops_none_is_kept(place: Place, run: Run) -> None:
    path = place.settings.home / "bad.zip"
    path.write_bytes(archive("Number,School,Year\n9,,7\n"))
    code, told = run("import", "roster", str(path), "--year", "2025-26")
    assert code == 65
    assert "Nothing was kept" in told
    assert place.snapshot.schools == []


def test_files_of_one_name_in_two_folders_are_told_apart(place: Place, run: Run) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        made.writestr("Ash/roster.csv", HEAD + SCHOOLS["Ash"])
        made.writestr("Birch/roster.csv", HEAD + SCHOOLS["Birch"])
    path = place.settings.home / "two.zip"
    path.write_bytes(out.getvalue())
    run("import", "roster", str(path), "--year", "2025-26")
    assert sorted(place.snapshot.files.values()) == ["Ash roster.csv", "Birch roster.csv"]


def test_an_archive_over_http_is_undone_in_one_version(place: Place) -> None:
    place.account("ailsa", "data_lead")
    with signed_in(place) as client:
        form = {"kind": "roster", "file": (io.BytesIO(archive()), "schools.zip")}
        made = client.post("/api/drafts", data=form).get_json()
        waiting = [one["id"] for one in client.get("/api/drafts").get_json()["drafts"]]
        assert len(waiting) == 3
        assert made["came_with"] == ["Birch.csv", "Cedar.csv"]
        for draft in waiting:
            token = client.get(f"/api/drafts/{draft}").get_json()["examination"]["token"]
            assert (
                client.post(f"/api/drafts/{draft}/keep", json={"token": token}).status_code == 200
            )
        items = client.get("/api/batches").get_json()["batches"]
        assert len({item["archive"] for item in items}) == 1
        undone = client.post("/api/batches/1/undo?archive=true").get_json()
        items = client.get("/api/batches").get_json()["batches"]
        assert {(item["event"], item["version_id"]) for item in items} == {
            ("undone", undone["version"])
        }
        assert client.post("/api/batches/1/undo?archives=true").status_code == 422
