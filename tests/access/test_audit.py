"""The audit: every line has words, says which students, and is found again."""

from __future__ import annotations

import ast
import csv
import datetime as dt
import io
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import sqlalchemy as sa
from tests.support import Place, roster, signed_in

import bridge_chart
from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.audit import ACTIONS, AuditAsked, audit_page, audit_rows, note
from bridge_chart.terms.errors import InvalidQuestion, NotAllowed, NotFound

STUDENTS = {"show": "students", "what": [{"assessment": "Quiz"}]}


@pytest.fixture
def tarn(place: Place) -> Place:
    people = [(f"{n:03d}", "Tarn" if n < 4 else "Orme", 7) for n in range(1, 7)]
    place.bring("roster", roster(people), academic_year="2025-26")
    marks = "Number,Score\n" + "".join(f"{n:03d},{n}\n" for n in range(1, 7))
    place.bring("results", marks, test="Quiz", date="2026-05-01")
    place.account("ailsa", "data_lead")
    place.account("rowan", "school_lead", "Tarn")
    return place


def noted_in_code() -> Iterator[tuple[str, str]]:
    """Every action that a call notes by name, and where."""
    for path in Path(bridge_chart.__file__).parent.rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            match node:
                case ast.Call(
                    func=ast.Name(id="note" | "noted"), args=[_, _, ast.Constant(value=action), *_]
                ):
                    yield str(action), path.name


def test_every_action_that_is_noted_has_words_and_every_word_is_used() -> None:
    used = {action for action, _ in noted_in_code()}
    assert len(used) > 25
    assert used <= set(ACTIONS)
    # These come by a variable, or from the store, which knows no actors.
    assert set(ACTIONS) - used == {"kept", "undone", "close_account", "open_account",
                                   "mend_snapshot"}  # fmt: skip


def test_an_action_without_words_is_a_bug(tarn: Place) -> None:
    with pytest.raises(AssertionError):
        note(tarn.engine, OPERATOR, "something_new", {})


def test_a_list_says_which_students_were_looked_at_kept_or_not(tarn: Place) -> None:
    rowan = actor_named(tarn.engine, "rowan")
    for _ in range(2):  # the second is answered from what is kept
        tarn.ask(STUDENTS, rowan)
    tarn.ask({**STUDENTS, "page": {"size": 2}}, rowan)
    lines = audit_page(tarn.engine, OPERATOR, AuditAsked(login="rowan")).lines
    assert [line.students for line in lines] == [2, 3, 3]
    assert {line.says for line in lines} == {"listed students"}
    query = sa.text("SELECT id FROM student WHERE number IN ('001', '002', '003') ORDER BY id")
    with tarn.engine.connect() as connection:
        assert sorted(lines[1].detail["students"]) == list(connection.scalars(query))


def test_who_looked_at_one_student(tarn: Place) -> None:
    rowan = actor_named(tarn.engine, "rowan")
    tarn.ask(STUDENTS, rowan)
    with signed_in(tarn) as client:
        student = tarn.scalar("SELECT id FROM student WHERE number = '005'")
        assert client.get(f"/api/students/{student}").status_code == 200
        found = client.get("/api/audit?number=005").get_json()["lines"]
        assert [(line["login"], line["action"]) for line in found] == [("ailsa", "open_student")]
        found = client.get("/api/audit?number=002").get_json()["lines"]
        assert [(line["login"], line["action"]) for line in found] == [("rowan", "open_students")]
        assert client.get("/api/audit?number=999").status_code == 404


def test_lines_are_found_by_who_what_and_when_a_page_at_a_time(tarn: Place) -> None:
    engine = tarn.engine
    for n in range(7):
        note(engine, OPERATOR, "export", {"sentence": f"number {n}"})
    asked = AuditAsked(action="export", size=3)
    first = audit_page(engine, OPERATOR, asked)
    assert [line.about for line in first.lines] == ["number 6", "number 5", "number 4"]
    assert first.more
    last = audit_page(engine, OPERATOR, asked.model_copy(update={
        "before": first.lines[-1].id, "size": 4}))  # fmt: skip
    assert [line.about for line in last.lines] == [f"number {n}" for n in (3, 2, 1, 0)]
    assert not last.more
    today = dt.datetime.now(dt.UTC).date()
    day = dt.timedelta(days=1)
    for since, until, n in ((today - day, today + day, 7), (today + 2 * day, None, 0),
                            (None, today - 2 * day, 0)):  # fmt: skip
        wanted = AuditAsked(action="export", since=since, until=until)
        assert len(audit_page(engine, OPERATOR, wanted).lines) == n
    with pytest.raises(InvalidQuestion):
        audit_page(engine, OPERATOR, AuditAsked(action="nothing"))
    with pytest.raises(NotFound):
        audit_page(engine, OPERATOR, AuditAsked(number="x"))


def test_the_audit_goes_out_harmless_and_that_is_noted(tarn: Place) -> None:
    note(tarn.engine, OPERATOR, "find_students", {"text": "=cmd|' /C calc'!A0", "found": 1})
    with signed_in(tarn) as client:
        answer = client.post("/api/audit/csv", json={"action": "find_students"})
        rows = list(csv.DictReader(io.StringIO(answer.get_data(as_text=True))))
    assert [row["about"] for row in rows] == ["'=cmd|' /C calc'!A0"]
    newest = audit_page(tarn.engine, OPERATOR, AuditAsked()).lines[0]
    assert (newest.login, newest.action, newest.detail["action"]) == (
        "ailsa", "export", "find_students",
    )  # fmt: skip


@pytest.mark.parametrize("ask", [audit_page, audit_rows])
def test_nobody_else_reads_it_nor_with_names_hidden(tarn: Place, ask: Any) -> None:
    with pytest.raises(NotAllowed):
        ask(tarn.engine, actor_named(tarn.engine, "rowan"), AuditAsked())
    with signed_in(tarn) as client:
        client.put("/api/session/names", json={"hidden": True})
        assert client.get("/api/audit").status_code == 403
