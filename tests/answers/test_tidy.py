"""The merged record as tables: what they hold, by other people's readers, is what was kept."""

from __future__ import annotations

import csv
import datetime as dt
import io
import json
import zipfile
from collections.abc import Iterator
from pathlib import Path

import polars as pl
import pytest
import sqlalchemy as sa
from tests.answers import islands
from tests.cli.warm import command
from tests.support import Place, signed_in

from bridge_chart.output.read_schema import ROLE, write_schema
from bridge_chart.output.tidy import TABLES, write_tidy
from bridge_chart.store.database import connect_owner
from bridge_chart.terms.errors import InvalidQuestion


@pytest.fixture
def kept(place: Place) -> Place:
    place.bring("roster", "Number,Given name,Birth date,School,Year,Form,Set,Teacher,House\n"
                "001,=Ida,2013-05-01,Ash,7,7A,Ma1,Ms Moe,oak\n002,Bo,,Ash,,7A,Ma2,,\n",
                academic_year="2025-26", as_of="2025-09-01")  # fmt: skip
    place.bring("roster", "Number,School,Year,House\n001,Elm,7,fir\n002,Ash,7,oak\n",
                academic_year="2025-26", as_of="2026-01-10")  # fmt: skip
    place.bring("results", "Number,Maths scaled,Maths grade,Maths target\n001,101.5,B,A\n"
                "002,abs,abs,B\n", "check.csv", test="Check", sitting="autumn",
                date="2025-10-10")  # fmt: skip
    place.bring("results", "Number,Name,Q1,Q2\n,Max,2,5\n,Topic,Shape,Number\n001,Ida,1,4\n",
                "paper.csv", test="Paper", sitting="autumn", date="2025-10-12")  # fmt: skip
    return place


@pytest.fixture
def out(kept: Place, tmp_path: Path) -> Path:
    write_tidy(kept.snapshot, tmp_path)
    return tmp_path


def table(out: Path, name: str) -> list[dict[str, object]]:
    return pl.read_parquet(out / f"{name}.parquet").to_dicts()


def test_credit_records_as_they_hold_with_their_origin(kept: Place, tmp_path: Path) -> None:
    kept.bring("credits", "Number,Standard,Credits,Result,Status,Date\n"
               "001,=S1,2.5,pass,banked,2025-11-02\n001,S2,4,,estimated,2026-05-01\n"
               "002,S2,3,pass,banked,2025-03-01\n", "c.csv")  # fmt: skip
    write_tidy(kept.snapshot, tmp_path)
    told = [
        (r["number"], r["school_year"], r["standard"], r["credits"], r["standing"], str(r["date"]),
         r["file"], r["line"])
        for r in table(tmp_path, "credits")
    ]  # fmt: skip
    assert told == [
        ("001", "2025-26", "=S1", 2.5, "banked", "2025-11-02", "c.csv", 2),
        ("001", "2025-26", "S2", 4.0, "estimated", "2026-05-01", "c.csv", 3),
        ("002", "2024-25", "S2", 3.0, "banked", "2025-03-01", "c.csv", 4),
    ]
    assert "'=S1" in (tmp_path / "credits.csv").read_text()


def test_students_and_where_they_were(out: Path) -> None:
    assert table(out, "students") == [
        {"number": "001", "given_name": "=Ida", "family_name": "",
         "birth_date": dt.date(2013, 5, 1)},
        {"number": "002", "given_name": "Bo", "family_name": "", "birth_date": None},
    ]  # fmt: skip
    told = [
        (r["number"], str(r["since"]), r["school"], r["year_level"])
        for r in table(out, "enrolment")
    ]
    assert told == [
        ("001", "2025-09-01", "Ash", 7), ("002", "2025-09-01", "Ash", None),
        ("001", "2026-01-10", "Elm", 7), ("002", "2026-01-10", "Ash", 7),
    ]  # fmt: skip
    first = [r for r in table(out, "classes") if str(r["since"]) == "2025-09-01"]
    assert {(r["number"], r["class"], r["kind"], r["teachers"]) for r in first} == {
        ("001", "7A", "form", ""), ("001", "Ma1", "set", "Ms Moe"), ("002", "7A", "form", ""),
        ("002", "Ma2", "set", ""),
    }  # fmt: skip
    houses = [(r["number"], str(r["since"]), r["value"]) for r in table(out, "characteristics")]
    assert houses == [("001", "2025-09-01", "oak"), ("001", "2026-01-10", "fir"),
                      ("002", "2026-01-10", "oak")]  # fmt: skip


def test_results_claims_and_marks_with_reasons_and_origin(out: Path) -> None:
    check = [r for r in table(out, "results") if r["test"] == "Check"]
    assert [(r["number"], r["score"], r["value"], r["step"], r["status"], r["file"], r["line"])
            for r in check] == [
        ("001", "scaled", 101.5, "", "sat", "check.csv", 2),
        ("002", "scaled", None, "", "absent", "check.csv", 3),
        ("001", "grade", None, "B", "sat", "check.csv", 2),
        ("002", "grade", None, "", "absent", "check.csv", 3),
    ]  # fmt: skip
    assert [(r["number"], r["role"], r["step"]) for r in table(out, "claims")] == [
        ("001", "target", "A"), ("002", "target", "B"),
    ]  # fmt: skip
    assert [(r["question"], r["mark"], r["maximum"], r["topic"]) for r in table(out, "marks")] == [
        ("Q1", 1, 2.0, "Shape"), ("Q2", 4, 5.0, "Number"),
    ]  # fmt: skip


def test_csv_says_the_same_and_runs_nothing(out: Path) -> None:
    for name in TABLES:
        rows = list(csv.DictReader(io.StringIO((out / f"{name}.csv").read_text("utf-8"))))
        frame = table(out, name)
        assert len(rows) == len(frame)
        for row, meant in zip(rows, frame, strict=True):
            for key, value in meant.items():
                plain = "" if value is None else str(value)
                assert row[key] in (plain, f"'{plain}")
    text = (out / "students.csv").read_text(encoding="utf-8")
    assert "'=Ida" in text
    assert ",=Ida" not in text


def test_the_description_is_of_the_files_that_are_there(out: Path) -> None:
    told = json.loads((out / "csv-metadata.json").read_text(encoding="utf-8"))
    assert told["@context"] == "http://www.w3.org/ns/csvw"
    for one in told["tables"]:
        heads = next(csv.reader(io.StringIO((out / one["url"]).read_text("utf-8"))))
        columns = one["tableSchema"]["columns"]
        assert [column["name"] for column in columns] == heads
        assert all(column["dc:description"] for column in columns)
        assert {column["datatype"] for column in columns} <= {"string", "date", "double", "integer"}


def test_on_the_command_line_and_over_http(kept: Place) -> None:
    folder = kept.settings.home / "out"
    done = command(kept.settings.home, "export", str(folder))
    assert done.returncode == 0, done.stderr
    assert "results: " in done.stdout
    kept.account("ailsa", "data_lead")
    with signed_in(kept) as client:
        answer = client.get("/api/export")
        with zipfile.ZipFile(io.BytesIO(answer.data)) as archive:
            assert sorted(archive.namelist()) == sorted(path.name for path in folder.iterdir())
    assert kept.scalar("SELECT count(*) FROM audit WHERE action = 'export'") == 2


def test_an_empty_record_gives_tables_without_rows(place: Place, tmp_path: Path) -> None:
    assert set(write_tidy(place.snapshot, tmp_path).values()) == {0}


@pytest.fixture
def owned(place: Place) -> Iterator[Place]:
    """As the owner of the tables, who alone makes schemas and roles."""
    made = Place(place.settings, connect_owner(place.settings))
    islands.fill(made)
    yield made
    made.engine.dispose()


def test_the_schema_for_sql_holds_the_tables_and_its_role_sees_nothing_else(owned: Place) -> None:
    place = owned
    rows = write_schema(place.engine, place.snapshot, "a-long-password")
    assert rows["students"] == 40
    assert rows["results"] > 70
    with place.engine.connect() as connection:
        connection.execute(sa.text(f"SET ROLE {ROLE}"))
        one = sa.text("SELECT value FROM read.results WHERE number = '005' AND sitting = :sitting")
        assert connection.scalar(one, {"sitting": "spring 2026"}) == 40
        told = connection.scalar(
            sa.text("SELECT col_description('read.students'::regclass, 1)")
        )  # fmt: skip
        assert "leading zeros" in str(told)
        for forbidden in ("SELECT * FROM public.student", "DELETE FROM read.students",
                          "CREATE TABLE read.mine (x int)"):  # fmt: skip
            with pytest.raises(sa.exc.ProgrammingError, match="permission denied"):
                connection.execute(sa.text(forbidden))
            connection.rollback()
            connection.execute(sa.text(f"SET ROLE {ROLE}"))


def test_filled_again_it_is_of_the_new_version_and_own_views_stay(owned: Place) -> None:
    place = owned
    write_schema(place.engine, place.snapshot, None)
    with place.engine.begin() as connection:
        connection.execute(sa.text("CREATE VIEW public.mine AS SELECT number FROM read.results"))
    place.bring("results", "Number,Scaled score\n007,88\n", name="late.csv", test="Quiz",
                subject="Maths", sitting="spring 2026", date="2026-05-01")  # fmt: skip
    write_schema(place.engine, place.snapshot, None)
    late = "SELECT value FROM read.results WHERE number = '007' AND sitting = 'spring 2026'"
    assert place.scalar(late + " AND score = 'scaled'") == 88
    assert int(str(place.scalar("SELECT count(*) FROM public.mine"))) > 70
    with place.engine.begin() as connection:
        connection.execute(sa.text("ALTER TABLE read.results ADD COLUMN extra int"))
    with pytest.raises(InvalidQuestion, match="somebody's own"):
        write_schema(place.engine, place.snapshot, None)
    assert place.scalar(late + " AND score = 'scaled'") == 88
