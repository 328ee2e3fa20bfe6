"""What can be done with a kept file from the command line: the same as on screen and over HTTP."""

from __future__ import annotations

import io
import json
import zipfile

import pytest
from tests.cli.test_command_line import Run, write
from tests.cli.warm import command
from tests.support import Place, roster

MARKS = "No,Mark\n001,5\n002,six\nX1,7\n"


@pytest.fixture
def run(place: Place) -> Run:
    place.bring("roster", roster([(f"{n:03d}", "Tarn", 8) for n in range(1, 6)]),
                academic_year="2025-26")  # fmt: skip
    return lambda *arguments, **more: command(place.settings.home, *arguments, **more)


def test_a_mapping_runs_unattended_and_settling_finishes_it(place: Place, run: Run) -> None:
    mapping = write(place, "map.json", json.dumps({"decisions": {"is:X1": "003"}}))
    done = run(
        "import",
        "results",
        write(place, "Quiz.csv", MARKS),
        "--mapping",
        mapping,
        "--date",
        "2026-05-01",
        "--set-aside",
    )
    assert done.returncode == 0, done.stderr
    assert "2 of 3 rows kept, 1 set aside" in done.stdout
    assert run("aside", "2").stdout == "line 3  score is no figure  No: 002; Mark: six\n"
    assert run("lines", "2", "3", "4").stdout.splitlines()[1] == "line 4  No: X1; Mark: 7"
    assert json.loads(run("mapping", "2").stdout)["decisions"] == {"is:X1": "003"}
    assert run("remembered").stdout == "    1  “X1” is 003  (Quiz.csv)\n"
    said = write(place, "settle.json", json.dumps({"decisions": {"unknown_code_raw": "absent"}}))
    settled = run("settle", "2", "--mapping", said)
    assert settled.returncode == 0, settled.stderr
    assert "1 of 1 rows kept" in settled.stdout
    assert run("aside", "2").stdout == ""
    assert place.scalar("SELECT count(*) FROM draft") == 0
    assert run("settle", "2").returncode == 66
    assert run("forget", "1").returncode == 0
    assert run("forget", "1").returncode == 66


def test_a_grid_and_a_bundle_go_out(place: Place, run: Run) -> None:
    spec = {"columns": [{"test": "Quiz", "sitting": "May", "role": "raw"}]}
    out = place.settings.home / "grid.xlsx"
    done = run("grid", write(place, "spec.json", json.dumps(spec)), str(out))
    assert done.stdout == "All students: 5 students, 1 columns\n"
    back = run("import", "results", str(out), "--dry-run")
    assert json.loads(back.stdout)["rows_in_file"] == 0, back.stderr
    assert run("grid", write(place, "bad.json", "{}"), str(out)).returncode == 65
    bundle = place.settings.home / "out.zip"
    assert "users.csv: 5" in run("bundle", str(bundle)).stdout
    assert "enrollments.csv" in zipfile.ZipFile(io.BytesIO(bundle.read_bytes())).namelist()
