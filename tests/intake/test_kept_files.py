"""After keeping: settling what was set aside, undo explained, what is remembered, the file's own
lines, and the choices of one file for the next of its shape."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator

import pytest
from flask.testing import FlaskClient
from tests.support import PASSWORD, Place, roster, serving, signed_in

from bridge_chart.access.accounts import OPERATOR
from bridge_chart.intake.drafts import kept_files
from bridge_chart.intake.drafts.drafts import Draft, new_drafts, sheet_of
from bridge_chart.intake.drafts.memory import said_of
from bridge_chart.intake.keep.keep import Origin, Plan, change_standing, examine, keep
from bridge_chart.intake.keep.undoing import consequences
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.terms.errors import ChangedMeanwhile, NotFound, UnreadableFile

PUPILS = roster([(f"{n:03d}", "Tarn", 8) for n in range(1, 11)])
MARKS = "No,Mark\n001,5\n002,six\n003,7\n999,8\n"
YEAR = {"academic_year": "2025-26"}


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", PUPILS, **YEAR)
    return place


def settled(place: Place, batch: int, **decisions: str) -> int:
    """Settle a batch's rows with the decisions; the new batch."""
    draft = kept_files.settle(place.engine, place.settings, OPERATOR, batch)
    said = draft.settings.model_copy(update={"decisions": decisions})
    sheet = sheet_of(place.engine, draft.source_id, said)
    plan = examine(draft.kind, sheet, said, place.snapshot, said.date or place.snapshot.today)
    return keep(
        place.engine, place.settings, OPERATOR, plan, sheet, said,
        Origin(draft.source_id, draft.id), today=place.snapshot.today,
    ).batch_id  # fmt: skip


def aside(place: Place, batch: int) -> list[int]:
    return [row["row"] for row in kept_files.set_aside_rows(place.engine, batch)]


def test_rows_set_aside_are_settled_later_and_counted_until_then(tarn: Place) -> None:
    tarn.bring("results", MARKS, name="Quiz.csv")
    assert aside(tarn, 2) == [3, 5]
    counted = [m.set_aside for m in tarn.snapshot.measures]
    assert counted == [2]
    batch = settled(tarn, 2, unknown_code_raw="absent", no_student="set_aside")
    # The stranger's row is set aside still, and with the first batch.
    assert aside(tarn, 2) == [5]
    assert aside(tarn, batch) == []
    assert [m.set_aside for m in tarn.snapshot.measures] == [1]
    answer = tarn.ask({"what": [{"assessment": "Quiz"}]})
    assert {m.reason: m.n for m in answer.coverage[0].missing}["absent"] == 1
    change_standing(tarn.engine, tarn.settings, OPERATOR, batch, "undone")
    assert aside(tarn, 2) == [3, 5]


def test_a_stranger_whom_a_later_roster_names_is_settled(tarn: Place) -> None:
    tarn.bring("results", MARKS, name="Quiz.csv")
    tarn.bring("roster", PUPILS + "999,Tarn,8\n", **YEAR, as_of="2026-01-10")
    settled(tarn, 2, unknown_code_raw="set_aside")
    assert aside(tarn, 2) == [3]
    assert tarn.ask({"what": [{"assessment": "Quiz"}]}).body.rows[0].n == 3


def test_settling_a_roster_moves_nobody_else(tarn: Place) -> None:
    text = "Number,School,Year\n011,Tarn,8\n012,Trn,8\n"
    tarn.bring("roster", text + ",Tarn,8\n", **YEAR, as_of="2026-01-10", covers=["Tarn"],
               decisions={"near_school:Trn": "same"})  # fmt: skip
    with pytest.raises(NotFound, match="no batch 99"):
        kept_files.settle(tarn.engine, tarn.settings, OPERATOR, 99)
    draft = kept_files.settle(tarn.engine, tarn.settings, OPERATOR, 2)
    assert draft.settings.lines == [4]
    sheet = sheet_of(tarn.engine, draft.source_id, draft.settings)
    plan = examine("roster", sheet, draft.settings, tarn.snapshot, tarn.snapshot.today)
    assert {c.key: c.n for c in plan.examination.counts}["gone"] == 0


def test_nothing_left_to_settle_is_said(tarn: Place) -> None:
    with pytest.raises(NotFound, match="No row of this file"):
        kept_files.settle(tarn.engine, tarn.settings, OPERATOR, 1)


def test_an_undo_says_what_rests_on_the_batch(tarn: Place) -> None:
    tarn.bring("results", MARKS, name="Quiz.csv")
    told = consequences(tarn.engine, 1)
    assert told[0] == "10 students stand on no other roster; no answer shows them until one does."
    assert told[1].startswith("2 results of “Quiz, 2025-26” wait")
    assert told[2].startswith("No other roster of this school year")
    assert consequences(tarn.engine, 2) == ["1 sitting will have no result left: Quiz, 2025-26."]
    tarn.bring("roster", PUPILS, **YEAR, as_of="2026-01-10")
    assert consequences(tarn.engine, 3) == ["The roster of 2025-08-01 holds instead."]
    tarn.bring("results", MARKS.replace("5\n", "6\n", 1), name="Quiz.csv")
    assert consequences(tarn.engine, 2) == ["For 2 results another file’s value counts instead."]


def test_an_undone_scale_says_whose_order_goes(tarn: Place) -> None:
    scale = "Test,Score,Step\nQuiz,grade,B\nQuiz,grade,A\n"
    tarn.bring("scale", scale, name="scale.csv")
    tarn.bring("results", "No,Grade\n001,A\n", name="Quiz.csv")
    assert consequences(tarn.engine, 2)[0].startswith("1 file of results uses this table.")


def test_a_remembered_number_is_taken_back_from_then_on(tarn: Place) -> None:
    tarn.bring("results", "No,Mark\nX1,5\n", name="Quiz.csv", decisions={"is:X1": "001"})
    held = kept_files.remembered(tarn.engine)
    assert [(r["text"], r["number"]) for r in held] == [("X1", "001")]
    before = tarn.snapshot
    kept_files.forget(tarn.engine, tarn.settings, OPERATOR, held[0]["id"])
    assert kept_files.remembered(tarn.engine) == []
    assert before.aliases == {"X1": 0}
    assert tarn.snapshot.aliases == {}
    with pytest.raises(NotFound):
        kept_files.forget(tarn.engine, tarn.settings, OPERATOR, held[0]["id"])


def test_an_undone_batch_remembers_nothing(tarn: Place) -> None:
    tarn.bring("results", "No,Mark\nX1,5\n", name="Quiz.csv", decisions={"is:X1": "001"})
    assert "1 remembered number rests until then." in consequences(tarn.engine, 2)
    change_standing(tarn.engine, tarn.settings, OPERATOR, 2, "undone")
    assert tarn.snapshot.aliases == {}


def test_the_files_own_lines_can_be_looked_at(tarn: Place) -> None:
    tarn.bring("results", "Quiz of May\n\n" + MARKS, name="Quiz.csv")
    headers, rows = kept_files.file_lines(tarn.engine, 2, [4, 1])
    assert headers == ["No", "Mark"]
    assert rows == [(4, ["001", "5"])]


def test_choices_about_columns_hold_for_the_next_file_of_the_shape(tarn: Place) -> None:
    text = "Ref,Paper\n001,5\n002,6\n"
    told = {"columns": {"Ref": "number", "Paper": "score:raw"}, "subject": "Art"}
    tarn.bring("results", text, name="Quiz.csv", **told)
    again = new_drafts(
        tarn.engine, OPERATOR, "results", "Next.csv", text.encode(), IntakeSettings()
    )[0]
    assert again.settings.columns == told["columns"]
    assert again.settings.like.startswith("Quiz.csv, ")
    # What the file is about is its own.
    assert again.settings.subject == ""
    sheet = sheet_of(tarn.engine, again.source_id, again.settings)
    plan = examine("results", sheet, again.settings, tarn.snapshot, tarn.snapshot.today)
    assert plan.examination.defaults[0].value.startswith("as in Quiz.csv")
    other = new_drafts(
        tarn.engine, OPERATOR, "results", "Other.csv", b"Ref,Marks\n001,5\n", IntakeSettings()
    )[0]
    assert other.settings == IntakeSettings()
    assert said_of(tarn.engine, 2).columns == told["columns"]


def test_how_a_file_was_read_is_remembered_too(tarn: Place) -> None:
    text = "a,b\nNo,Mark\n001,5\n"
    tarn.bring("results", text, name="Quiz.csv", reading={"header_line": 2})
    again = new_drafts(
        tarn.engine, OPERATOR, "results", "Next.csv", text.encode(), IntakeSettings()
    )[0]
    assert again.settings.reading.header_line == 2


def archive(**files: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        for name, text in files.items():
            made.writestr(f"folder/{name}", text)
        made.writestr("folder/read me.doc", "no table")
        made.writestr("__MACOSX/._x.csv", "rubbish")
    return out.getvalue()


def test_an_archive_opens_a_draft_for_each_table(tarn: Place) -> None:
    data = archive(**{"8B.csv": MARKS, "8A.csv": MARKS})
    made = new_drafts(tarn.engine, OPERATOR, "results", "forms.zip", data, IntakeSettings())
    assert [draft.name for draft in made] == ["8A.csv", "8B.csv"]


def test_an_archive_with_one_bad_table_brings_in_none(tarn: Place) -> None:
    data = archive(**{"8A.csv": MARKS, "8B.csv": "only names\n"})
    with pytest.raises(UnreadableFile, match=r"8B\.csv"):
        new_drafts(tarn.engine, OPERATOR, "results", "forms.zip", data, IntakeSettings())
    assert tarn.scalar("SELECT count(*) FROM draft") == 0
    empty = archive()
    with pytest.raises(UnreadableFile, match="must hold tables"):
        new_drafts(tarn.engine, OPERATOR, "results", "none.zip", empty, IntakeSettings())


@pytest.fixture
def client(tarn: Place) -> Iterator[FlaskClient]:
    tarn.account("dora", "data_lead")
    with serving(tarn) as app:
        made: FlaskClient = app.test_client()
        made.post("/api/session", json={"login": "dora", "password": PASSWORD})
        yield made


def test_settling_over_http(tarn: Place, client: FlaskClient) -> None:
    tarn.bring("results", MARKS, name="Quiz.csv")
    draft = client.post("/api/batches/2/settle").get_json()["draft_id"]
    state = client.get(f"/api/drafts/{draft}").get_json()
    assert state["examination"]["rows_in_file"] == 2
    assert {f["key"] for f in state["examination"]["findings"]} == {
        "unknown_code_raw", "no_student",
    }  # fmt: skip
    # Throwing the draft away leaves the kept file alone.
    assert client.delete(f"/api/drafts/{draft}").status_code == 200
    assert client.get("/api/batches/2/lines?line=2&line=3").get_json()["rows"][1] == {
        "row": 3, "cells": ["002", "six"],
    }  # fmt: skip
    history = client.get("/api/batches").get_json()["batches"]
    assert [b["rows_set_aside"] for b in history] == [2, 0]


def test_a_typed_grid_over_http(tarn: Place, client: FlaskClient) -> None:
    spec = {"year_level": 8, "columns": [{"test": "Quiz", "sitting": "May", "role": "raw"}]}
    grid = client.post("/api/grid", json=spec).get_json()
    assert len(grid["rows"]) == 10
    rows = [{**grid["rows"][0], "cells": ["7"]}]
    body = {"spec": spec, "title": grid["title"], "rows": rows}
    draft = client.post("/api/grid/typed", json=body).get_json()["draft_id"]
    state = client.get(f"/api/drafts/{draft}").get_json()["examination"]
    assert (state["rows_kept"], state["creates"][0]["names"]) == (1, ["Quiz"])
    blank = {**body, "rows": grid["rows"]}
    refused = client.post("/api/grid/typed", json=blank).get_json()["error"]
    assert refused["message"] == "Nothing was typed."
    book = client.post("/api/grid/file", json={**spec, "format": "xlsx"})
    assert book.data[:2] == b"PK"


def test_two_people_settling_the_same_rows_keep_them_once(tarn: Place) -> None:
    """Both opened the row before either kept it: the later one's is no new result any more."""
    tarn.bring("results", "No,Mark\n001,5\nX9,7\n", "Quiz.csv")
    first = kept_files.settle(tarn.engine, tarn.settings, OPERATOR, 2)
    second = kept_files.settle(tarn.engine, tarn.settings, OPERATOR, 2)

    def plan_of(draft: Draft) -> tuple[Plan, Sheet, IntakeSettings]:
        said = draft.settings.model_copy(update={"decisions": {"is:X9": "002"}})
        sheet = sheet_of(tarn.engine, draft.source_id, said)
        return examine(draft.kind, sheet, said, tarn.snapshot, tarn.snapshot.today), sheet, said

    plans = [(draft, *plan_of(draft)) for draft in (first, second)]
    kept, refused = 0, 0
    for draft, plan, sheet, said in plans:
        try:
            keep(tarn.engine, tarn.settings, OPERATOR, plan, sheet, said,
                 Origin(draft.source_id, draft.id), today=tarn.snapshot.today)  # fmt: skip
            kept += 1
        except ChangedMeanwhile:
            refused += 1
    assert (kept, refused) == (1, 1)
    assert aside(tarn, 2) == []
    assert tarn.scalar("SELECT count(*) FROM batch") == 3


def test_a_kept_file_is_taken_back_and_waits_to_be_said_otherwise(place: Place) -> None:
    place.account("ailsa", "data_lead")
    place.bring("roster", "Number,School,Year\n1,Ash,7\n2,Ash,7\n", academic_year="2025-26")
    place.bring("results", "Number,Score\n1,5\n2,6\n", test="Quiz", sitting="autumn",
                date="2025-10-10")  # fmt: skip
    with signed_in(place) as client:
        made = client.post("/api/batches/2/again").get_json()["draft_id"]
        assert place.snapshot.measures == []
        draft = client.get(f"/api/drafts/{made}").get_json()
        assert draft["settings"]["test"] == "Quiz"
        said = {**draft["settings"], "test": "Short quiz", "date": "2025-11-11"}
        state = client.put(f"/api/drafts/{made}/settings", json=said).get_json()
        client.post(f"/api/drafts/{made}/keep", json={"token": state["examination"]["token"]})
        measure = place.snapshot.measures[0]
        assert (measure.assessment.name, str(measure.date)) == ("Short quiz", "2025-11-11")
        # A file that is undone already is read again without another undo.
        assert client.post("/api/batches/2/again").status_code == 201
        assert client.post("/api/batches/99/again").status_code == 404
