"""The command line: a fresh instance, real small files, exit codes, the very Answer of HTTP."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import click
import pytest
from tests.cli.warm import command
from tests.support import Place, roster, serving

from bridge_chart.cli.demo import PASSWORD
from bridge_chart.cli.main import COMMANDS, cli

Run = Callable[..., subprocess.CompletedProcess[str]]
QUESTION = {
    "what": [{"assessment": "Spring survey", "subject": "Mathematics"}],
    "split": [{"field": "school"}],
    "against": {"prior": {}},
}


@pytest.fixture
def run(place: Place) -> Run:
    return lambda *arguments, **more: command(place.settings.home, *arguments, **more)


def test_a_cold_start_says_the_same(place: Place, run: Run) -> None:
    """Other runs here leave out the loading of the program (tests/cli/warm.py)."""
    question = write(place, "q.json", '{"what": [{"assessment": "Quiz"}]}')
    for arguments in (["ask", question], ["ask", "-"]):
        cold = subprocess.run(
            [sys.executable, "-m", "bridge_chart.cli.main", *arguments],
            input="{", capture_output=True, text=True, timeout=120, check=False,
            env={**os.environ, "BRIDGE_HOME": str(place.settings.home)},
        )  # fmt: skip
        warm = run(*arguments, text="{")
        assert (cold.returncode, cold.stdout, cold.stderr) == (
            warm.returncode, warm.stdout, warm.stderr
        )  # fmt: skip


def write(place: Place, name: str, text: str) -> str:
    path = place.settings.home / name
    path.write_text(text, encoding="utf-8")
    return str(path)


def test_from_nothing_to_an_answer(place: Place, run: Run) -> None:
    people = write(place, "people.csv", roster([(f"{n:04d}", "Tarn", 8) for n in range(30)]))
    scores = write(
        place, "quiz.csv", "id,score\n" + "".join(f"{n:04d},{n % 9}\n" for n in range(29))
    )
    first = run("import", "roster", people, "--year", "2025-26")
    assert first.returncode == 0, first.stderr
    assert "30 of 30 rows kept" in first.stdout
    assert "assumed: as_of = 2025-08-01" in first.stdout
    second = run(
        "import", "results", scores, "--test", "Quiz", "--subject", "Maths", "--sitting", "June",
        "--date", "2026-06-02", "--score", "raw",
    )  # fmt: skip
    assert second.returncode == 0, second.stderr
    assert "kept as batch 2, version 2" in second.stdout
    question = write(place, "q.json", json.dumps({"what": [{"assessment": "Quiz"}]}))
    table = run("ask", question)
    assert "29 of 30 counted · 1 no row" in table.stdout
    answer = json.loads(run("ask", question, "--format", "json").stdout)
    assert answer["coverage"][0]["counted"] == 29
    assert run("ask", "-", text='{"what": [{"assessment": "Quiz"}]}').stdout == table.stdout
    assert run("ask", question, "--format", "csv").stdout.startswith("row,label,n,missing")
    told = "1 sitting will have no result left: Quiz, Maths, June.\n"
    assert run("undo", "2", "--explain").stdout == told
    assert run("undo", "2").stdout == f"{told}batch 2 undone, version 3\n"
    assert run("ask", question).returncode == 66
    assert run("put-back", "2").returncode == 0
    assert run("ask", question).stdout.splitlines()[:3] == table.stdout.splitlines()[:3]
    assert "undone" not in run("history").stdout


def test_what_needs_a_person_keeps_nothing_unless_it_may_be_aside(place: Place, run: Run) -> None:
    place.bring("roster", roster([("01", "Tarn", 8), ("02", "Tarn", 8)]), academic_year="2025-26")
    scores = write(place, "s.csv", "number,test,score\n01,Quiz,1\n02,Quiz,2\n02,Quiz,3\n9,Quiz,4\n")
    undated = run("import", "results", scores, "--set-aside")
    assert (undated.returncode, "When was this?" in undated.stderr) == (65, True)
    strict = run("import", "results", scores, "--date", "2026-05-01")
    assert strict.returncode == 65
    assert "Nothing was kept" in strict.stderr
    assert "“decisions”: {" in strict.stderr
    assert "; or --set-aside" in strict.stderr
    assert place.scalar("SELECT count(*) FROM batch") == 1
    loose = run("import", "results", scores, "--date", "2026-05-01", "--set-aside")
    assert loose.returncode == 0
    assert "1 of 4 rows kept, 3 set aside" in loose.stdout
    assert place.scalar("SELECT count(*) FROM set_aside") == 3


def test_dry_run_prints_the_plan_and_keeps_nothing(place: Place, run: Run) -> None:
    people = write(place, "people.csv", roster([("01", "Tarn", 8)]))
    done = run("import", "roster", people, "--year", "2025-26", "--dry-run")
    plan = json.loads(done.stdout)
    assert plan["creates"] == [{"kind": "schools", "names": ["Tarn"]}]
    assert plan["picture"]["right_total"] == 1
    assert place.scalar("SELECT count(*) FROM version") == 0


def test_a_mapping_file_fixes_columns_and_decisions(place: Place, run: Run) -> None:
    place.bring("roster", roster([("01", "Tarn", 8)]), academic_year="2025-26")
    people = write(place, "p.csv", "Kennung,Haus,Rolle\n01,Tarm,a\n02,Tarn,b\n")
    assert run("import", "roster", people, "--year", "2025-26").returncode == 65
    mapping = {
        "columns": {"Kennung": "number", "Haus": "school", "Rolle": "characteristic:Role"},
        "decisions": {"near_school:Tarm": "same"},
    }
    path = write(place, "m.json", json.dumps(mapping))
    done = run("import", "roster", people, "--year", "2025-26", "--mapping", path)
    assert done.returncode == 0, done.stderr
    assert [s.name for s in place.snapshot.schools] == ["Tarn"]
    assert [c.name for c in place.snapshot.characteristics] == ["Role"]


def test_errors_are_one_line_and_have_their_codes(place: Place, run: Run, tmp_path: Path) -> None:
    bad = write(place, "bad.json", "{")
    empty = write(place, "empty.csv", "")
    wrong = write(place, "m.json", '{"colour": 1}')
    for arguments, code, says in (
        (("ask", bad), 65, "is not valid JSON"),
        (("ask", write(place, "q.json", '{"what": [{"assessment": "Quiz"}]}')), 66, "Nothing has"),
        (("ask", write(place, "n.json", '{"what": []}')), 65, "cannot be understood"),
        (("import", "roster", empty, "--year", "2025-26"), 65, "is empty"),
        (("import", "roster", empty, "--year", "2025"), 65, "academic_year"),
        (("import", "roster", empty, "--year", "2025-26", "--mapping", wrong), 65, "colour"),
        (("import", "roster", "nowhere.csv", "--year", "2025-26"), 64, "does not exist"),
        (("frobnicate",), 64, "No such command"),
        (("undo", "9"), 66, "no batch 9"),
    ):
        done = run(*arguments)
        assert (done.returncode, says in done.stderr) == (code, True), done.stderr
        assert "Traceback" not in done.stderr
    nowhere = command(tmp_path / "none", "history")
    assert nowhere.returncode == 78
    assert "no instance" in nowhere.stderr


def test_an_instance_is_for_its_owner_only() -> None:
    home = Path(tempfile.mkdtemp(prefix="bridge-own-")) / "home"
    home.parent.chmod(0o755)
    try:
        made = command(home, "init")
        assert made.returncode == 0, made.stderr
        people = home.parent / "p.csv"
        people.write_text(roster([("1", "Tarn", 8)]), encoding="utf-8")
        assert command(home, "import", "roster", str(people), "--year", "2025-26").returncode == 0
        files = [path for path in home.rglob("*") if "cluster" not in path.parts]
        assert len(files) > 8
        assert all(path.stat().st_mode & 0o077 == 0 for path in files)
        assert home.stat().st_mode & 0o066 == 0
    finally:
        assert command(home, "stop").returncode == 0
        shutil.rmtree(home.parent)


def test_an_unknown_setting_stops_start_up(place: Place, run: Run) -> None:
    path = place.settings.home / "settings.toml"
    path.write_text(path.read_text() + 'colour = "red"\n')
    done = run("history")
    assert done.returncode == 78
    assert "unknown key “colour”" in done.stderr


@pytest.mark.parametrize("login", [None, "rowan"])
@pytest.mark.parametrize(
    ("show", "expect"),
    [("spans", "linear"), ("strip", "linear"), ("students", "linear"), ("spans", "spline"),
     ("spans", "equal_scores"), ("students", "cubic")],
)  # fmt: skip
def test_command_line_and_http_give_the_same_answer(
    demo: Place, login: str | None, show: str, expect: str
) -> None:
    question = {**QUESTION, "show": show, "against": {"prior": {"expect": expect}}}
    if show == "strip":
        del question["split"]  # every split is in it
    options = ["--as", login] if login else []
    done = command(
        demo.settings.home, "ask", "-", "--format", "json", *options, text=json.dumps(question)
    )
    with serving(demo) as app:
        client = app.test_client()
        client.post("/api/session", json={"login": login or "ailsa", "password": PASSWORD})
        response = client.post("/api/answers", json=question)
    if login == "rowan" and expect == "equal_scores":
        error = response.get_json()["error"]  # a curve at single scores tells those of others
        assert (response.status_code, done.returncode) == (403, 77)
        assert error["message"] in done.stderr
        assert json.dumps(error["details"]["instead"]) in done.stderr
        return
    assert response.status_code == 200, response.get_data(as_text=True)
    assert json.loads(done.stdout) == response.get_json()
    assert done.stdout.strip() == response.get_data(as_text=True)


def test_each_command_is_where_its_line_says() -> None:
    for name in COMMANDS:
        command_ = cli.get_command(click.Context(cli), name)
        assert command_ is not None
        assert command_.name == name
        assert (command_.help or "").split()[:1] == COMMANDS[name][1].split()[:1]
    assert cli.get_command(click.Context(cli), "nonsense") is None
