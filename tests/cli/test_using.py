"""Groups, saved questions, notes, tables and every lens from the command line, as over HTTP."""

from __future__ import annotations

import json
from typing import Any

import pytest
from tests.cli.test_command_line import Run, write
from tests.cli.warm import command
from tests.support import Place, roster, serving

from bridge_chart.answers.shows.listed import SHOWS
from bridge_chart.cli.demo import PASSWORD

MATHS = {"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}
LEVEL_2 = {"derive": "award", "of": {"assessment": "Credits"}, "rule": "Harbour award level 2"}
FORM_A = {"assessment": "Harbour check", "sitting": "winter 2026", "form": "A"}
YEAR_8 = {"all": [{"field": "year_level", "in": [8]}]}


@pytest.fixture
def run(place: Place) -> Run:
    return lambda *arguments, **more: command(place.settings.home, *arguments, **more)


def test_a_group_is_saved_listed_used_and_retired(place: Place, run: Run) -> None:
    place.bring("roster", roster([(f"{n:03d}", "Tarn", 7 + n % 2) for n in range(60)]),
                academic_year="2025-26")  # fmt: skip
    place.bring("results", "id,score\n" + "".join(f"{n:03d},{n}\n" for n in range(60)),
                name="Quiz.csv")  # fmt: skip
    asked = write(place, "q.json", json.dumps({"who": YEAR_8, "what": [{"assessment": "Quiz"}]}))
    assert run("group", "save", "Eighth", asked, "--kind", "list").stdout == "saved as group 1\n"
    assert run("group", "list").stdout == "1  Eighth  (list, 30 students)\n"
    using = {"who": {"all": [{"set": "Eighth"}]}, "what": [{"assessment": "Quiz"}]}
    answer = run("ask", write(place, "g.json", json.dumps(using)))
    assert "30 of 30 counted" in answer.stdout
    assert "tarn" in run("find", "tarn").stdout.lower()
    assert run("find", "nobody at all").stdout == "Nothing is called so.\n"
    assert run("group", "retire", "1").stdout == "retired\n"
    assert run("group", "list").stdout == ""
    assert run("group", "retire", "99").returncode == 66
    assert run("question", "save", "My quiz", asked).stdout == "saved as question 1\n"
    assert "My quiz" in run("question", "list").stdout
    kept = json.loads(run("question", "list", "--json").stdout)
    assert kept["question"]["what"][0]["assessment"] == "Quiz"
    note = run("question", "notes", asked, "--add", "Look again in June").stdout
    assert "Look again in June" in note
    assert run("question", "notes", asked).stdout == note
    assert run("question", "save", "x", "-", text="not json").returncode == 65


def test_a_table_of_reference_comes_in_and_is_explained(place: Place, run: Run) -> None:
    scale = write(
        place, "scale.csv", "Test,Score,Step,Pass\nQuiz,level,low,no\nQuiz,level,high,yes\n"
    )
    done = run("import", "table", "scale", scale)
    assert done.returncode == 0, done.stderr
    assert "Scale of Quiz: 2 of 2 rows kept" in done.stdout
    wrong = run("import", "table", "national", scale)
    assert wrong.returncode == 65
    assert "must have a column with the statistic" in wrong.stderr


@pytest.mark.parametrize("show", list(SHOWS))
def test_every_show_is_the_same_on_the_command_line_and_over_http(demo: Place, show: str) -> None:
    question: dict[str, Any] = {
        "who": YEAR_8, "what": [MATHS], "against": {"prior": {}}, "show": show,
    }  # fmt: skip
    if show in ("movement", "growth", "pace"):
        question["against"] = {"earlier": {"measure": {**MATHS, "sitting": "spring 2025"}}}
    if show == "awards":
        question |= {"what": [LEVEL_2], "who": {}, "against": None}
    if show == "trial":
        question["against"] = None
    if show == "chances":
        question["what"] = [{**MATHS, "score": "level"}]
    if show in ("items", "bias"):
        question |= {"what": [FORM_A], "against": {"group": {"who": {}}}}
    if "split" in SHOWS[show].takes:
        question["split"] = [{"characteristic": "Sex"}]
    if "focus" in SHOWS[show].takes:
        question["focus"] = [{"characteristic": "Meal support", "in": ["yes"]}]
    text = json.dumps(question)
    printed = command(demo.settings.home, "ask", "-", "--as", "ailsa", "--format", "json",
                      text=text)  # fmt: skip
    assert printed.returncode == 0, printed.stderr
    with serving(demo) as app:
        client = app.test_client()
        client.post("/api/session", json={"login": "ailsa", "password": PASSWORD})
        assert client.post("/api/answers", json=question).get_data() == printed.stdout.strip(
        ).encode()  # fmt: skip
        exported = client.post("/api/exports/csv", json=question)
    assert exported.status_code == 200
    lines = exported.get_data(as_text=True).splitlines()
    assert len(lines) > 1
    table = command(demo.settings.home, "ask", "-", text=text)
    assert "How this is worked out" in table.stdout


def test_two_classes_are_paired_listed_and_ended(place: Place, run: Run) -> None:
    people = "".join(f"{n},Tarn,8,8{'AB'[n % 2]},T. {'AB'[n % 2]}\n" for n in range(24))
    place.bring("roster", f"Number,School,Year level,Class,Teacher\n{people}",
                academic_year="2025-26")  # fmt: skip
    marks = "".join(f"{n},{n % 2},1\n" for n in range(24))
    place.bring("results", f"Number,Q1,Q2\n{marks}", test="Quiz", sitting="May",
                date="2026-05-04")  # fmt: skip
    classes = [f"Tarn: 8{letter}, 2025-26" for letter in "AB"]
    done = run("pairing", "add", *classes, "--test", "Quiz")
    assert done.stdout == "1: 8A, Tarn and 8B, Tarn, Quiz, May\n", done.stderr
    assert run("pairing", "list").stdout.startswith("1: 8A, Tarn and 8B, Tarn, Quiz, May, by ")
    assert run("pairing", "add", classes[0], classes[0], "--test", "Quiz").returncode == 65
    added = run("account", "add", "t", "--name", "T", "--role", "teacher", "--teacher", "Tarn",
                "T. A", "--password", "a lantern over the weir")  # fmt: skip
    assert "t can sign in" in added.stderr
    asked = {"show": "items", "what": [{"assessment": "Quiz"}], "split": [{"field": "class"}]}
    told = json.loads(run("ask", write(place, "i.json", json.dumps(asked)), "--as", "t", "--format",
                          "json").stdout)  # fmt: skip
    assert [one["label"] for one in told["body"]["paired"]] == ["8B, Tarn"]
    assert run("pairing", "end", "1").returncode == 0
    assert run("pairing", "list").stdout == ""
    assert run("pairing", "end", "1").returncode == 66
