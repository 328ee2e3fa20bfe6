"""Erasing: nothing of the student is left anywhere, and nothing of anybody else is touched."""

from __future__ import annotations

import csv
import io
import json
import subprocess
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

import polars as pl
import pytest
import sqlalchemy as sa
import xlsxwriter
from python_calamine import CalamineWorkbook
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from tests.support import Place, roster

from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.answers.asking.ask import read_question
from bridge_chart.answers.beside import student_notes
from bridge_chart.answers.beside.groups import save_group
from bridge_chart.answers.beside.saved import add_note, list_questions, save_question
from bridge_chart.answers.person.erased import carry_out_erasures
from bridge_chart.answers.person.everything import everything_of
from bridge_chart.answers.person.student import student_of_number
from bridge_chart.cli.bring_in import bring_in
from bridge_chart.intake.drafts.drafts import list_drafts, new_drafts
from bridge_chart.intake.drafts.kept_files import file_lines, read_again, set_aside_rows
from bridge_chart.intake.erasing import asking
from bridge_chart.intake.erasing import erase as erasing
from bridge_chart.intake.erasing.persons import STUDENT_TABLES
from bridge_chart.intake.erasing.texts import LOOKED_THROUGH, NAMES_OF_OTHERS, NO_WORDS
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.output.read_schema import write_schema
from bridge_chart.store import tables as t
from bridge_chart.store.cluster import binaries
from bridge_chart.store.database import connect_owner
from bridge_chart.store.erasures import marked_in
from bridge_chart.terms.errors import ChangedMeanwhile, InvalidQuestion, NotFound

NUMBER, GIVEN, FAMILY = "0047", "Zenobia", "Quillwharf"
QUIZ = {"what": [{"assessment": "Quiz"}], "split": [{"field": "school"}], "show": "table"}


def people() -> list[tuple[str, str, str]]:
    """Number, given and family name; one shares the family name, one the given name."""
    held = [(f"{n:04d}", f"Given{n}", f"Family{n}") for n in range(40, 64)]
    held[7] = (NUMBER, GIVEN, FAMILY)
    held[8] = ("0048", "Otto", FAMILY)
    held[9] = ("0049", GIVEN, "Marsh")
    return held


def names_roster() -> str:
    lines = ["Student number,Given name,Family name,School,Year level"]
    lines += [f"{n},{g},{f},{'Tarn' if n < '0052' else 'Orme'},7" for n, g, f in people()]
    return "\n".join(lines) + "\n"


def workbook() -> bytes:
    """Schools merged downwards over their students, a second sheet, a hidden one."""
    out = io.BytesIO()
    with xlsxwriter.Workbook(out, {"in_memory": True}) as book:
        sheet = book.add_worksheet("Scores")
        sheet.write_row(0, 0, ["School", "Number", "Score"])
        rows = people()
        sheet.merge_range(1, 0, 12, 0, "Tarn")
        sheet.merge_range(13, 0, 24, 0, "Orme")
        for at, (number, _, _) in enumerate(rows, start=1):
            sheet.write_string(at, 1, number)
            sheet.write_number(at, 2, at)
        beside = book.add_worksheet("Remarks")
        beside.write_row(0, 0, ["Who", "What"])
        beside.write_row(1, 0, [f"{FAMILY}, {GIVEN}", "came late"])
        beside.write_row(2, 0, ["Somebody", "came early"])
        hidden = book.add_worksheet("Old")
        hidden.hide()
        hidden.write_row(0, 0, [int(NUMBER), NUMBER])
    return out.getvalue()


def parquet() -> bytes:
    frame = pl.DataFrame({"Number": [n for n, _, _ in people()], "Score": [*range(24)]})
    out = io.BytesIO()
    frame.write_parquet(out)
    return out.getvalue()


@pytest.fixture
def filled(place: Place) -> Place:
    place.account("ailsa", "data_lead")
    place.bring("roster", names_roster(), "Roster.csv", academic_year="2025-26")
    rows = "".join(f"{n},{int(n)}\n" for n, _, _ in people())
    # A row of a student whom nobody knows, who has the same full name, is set aside: it goes too.
    # Line 27 belongs to another, though a cell reads like the number.
    text = f'Number,Score,Remark\n"","12","{GIVEN} {FAMILY} was moved"\n' + "".join(
        f"{n},{int(n)},{'room 0047' if n == '0050' else ''}\n" for n, _, _ in people()
    )
    place.bring("results", text, f"Quiz {GIVEN} {FAMILY}.csv", test="Quiz", date="2026-05-01")
    place.bring("results", ("Number;Score\n" + rows.replace(",", ";")).encode("utf-16"),
                "Wide.txt", test="Tide", date="2026-05-02")  # fmt: skip
    place.bring("results", workbook(), "Maze.xlsx", test="Maze", date="2026-05-03")
    place.bring("results", parquet(), "Reef.parquet", test="Reef", date="2026-05-04")
    ailsa = actor_named(place.engine, "ailsa")
    at = student_of_number(place.engine, place.settings, ailsa, NUMBER)
    other = student_of_number(place.engine, place.settings, ailsa, "0050")
    student_notes.note_student(place.engine, place.settings, ailsa, at, "hers", shared=True)
    student_notes.note_student(
        place.engine, place.settings, ailsa, other, f"sat beside {FAMILY.upper()},  {GIVEN}",
        shared=True,
    )  # fmt: skip
    both = {"who": {"all": [{"field": "student", "in": [at, other]}]}, "what": QUIZ["what"]}
    alone = {"who": {"all": [{"field": "student", "in": [at]}]}, "what": QUIZ["what"]}
    save_question(place.engine, place.settings, ailsa, "Both", read_question(both), shared=False)
    save_question(place.engine, place.settings, ailsa, f"{GIVEN} {FAMILY}", read_question(alone),
                  shared=False)  # fmt: skip
    return place


def ask(place: Place, number: str = NUMBER) -> asking.Erasure:
    student = student_of_number(place.engine, place.settings, OPERATOR, number)
    return asking.ask_to_erase(place.engine, place.settings, OPERATOR, student, number, "Letter 12")


def erased(place: Place) -> asking.Erasure:
    made = ask(place)
    owner = connect_owner(place.settings)
    assert carry_out_erasures(owner, place.settings) == 1
    owner.dispose()
    return next(one for one in asking.erasures(place.engine, OPERATOR) if one.id == made.id)


def dump_of(place: Place) -> str:
    """All that the record holds, as text; files in it as what they hold."""
    url = sa.make_url(place.settings.owner).set(drivername="postgresql")
    done = subprocess.run(
        [binaries() / "pg_dump", "--data-only", url.render_as_string(False)], capture_output=True,
        text=True, check=True,
    )  # fmt: skip
    return done.stdout


def stored_files(place: Place) -> Iterator[tuple[str, list[list[str]]]]:
    """Every file of the record with the cells of all of its tables."""
    with place.engine.connect() as connection:
        rows = connection.execute(sa.select(t.source.c.name, t.source.c.bytes)).all()
    for name, data in rows:
        if data[:2] == b"PK":
            book = CalamineWorkbook.from_filelike(io.BytesIO(data))
            for title in book.sheet_names:
                cells = book.get_sheet_by_name(title).to_python()
                yield f"{name} {title}", [[str(cell) for cell in row] for row in cells]
        elif data[:4] == b"PAR1":
            frame = pl.read_parquet(io.BytesIO(data)).cast(pl.String)
            yield name, [[cell or "" for cell in row] for row in frame.rows()]
        else:
            text = data.decode("utf-16" if data[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8")
            yield name, [line.split(";" if ";" in line else ",") for line in text.split("\n")]


def test_every_text_of_the_record_is_decided_upon() -> None:
    """A new column with words is looked through, or says why it need not be."""
    looked = {f"{column.table.name}.{column.name}" for column in LOOKED_THROUGH}
    texts = {
        f"{table.name}.{column.name}"
        for table in t.metadata.sorted_tables if table.name not in NAMES_OF_OTHERS
        for column in table.columns
        if isinstance(column.type, sa.Text | JSONB) or (
            isinstance(column.type, ARRAY) and isinstance(column.type.item_type, sa.Text))
    }  # fmt: skip
    assert texts == looked | {one for one in NO_WORDS if one != "account.code_secret"}
    assert not looked & NO_WORDS


def test_every_table_that_knows_students_is_emptied_of_them() -> None:
    """By the name of a column, so that no table can be forgotten; arrays of ids are told apart."""
    assert {table.name for table in STUDENT_TABLES} >= {
        "result", "attempt", "enrolment", "mark_sheet", "choice_sheet", "written", "claim",
        "credit", "class_member", "characteristic_value", "student_detail", "alias",
        "student_note",
    }  # fmt: skip
    other = [
        f"{table.name}.{column.name}" for table in t.metadata.sorted_tables
        for column in table.columns
        if "student" in column.name and column.name != "student_id"
    ]  # fmt: skip
    assert other == ["student_set.students"]


def test_nothing_of_the_student_is_left(filled: Place) -> None:
    place = filled
    before = dump_of(place)
    assert NUMBER in before
    assert FAMILY in before
    place.ask({"what": QUIZ["what"], "show": "students"})
    owner = connect_owner(place.settings)
    write_schema(owner, place.snapshot, None)
    owner.dispose()
    assert NUMBER in dump_of(place).partition("COPY read.students")[2]
    done = erased(place)
    assert (done.state, done.students, done.trouble) == ("done", 1, None)
    after = dump_of(place)
    assert "0048" in after.partition("COPY read.students")[2]  # filled again, without them
    for line in after.splitlines():
        held = line.casefold()
        assert not ("zenobia" in held and "quillwharf" in held), line
        assert f"\t{NUMBER}\t" not in f"\t{line}\t", line
    for name, rows in stored_files(place):
        for row in rows:
            assert not {NUMBER, "47.0"} & {*row}, (name, row)
            assert not {GIVEN, FAMILY} <= set(" ".join(row).replace(",", " ").split()), (name, row)
    snapshots = list(place.settings.snapshots.rglob("*"))
    assert place.settings.snapshots.exists()
    for path in snapshots:
        data = path.read_bytes() if path.is_file() else b""
        assert "Zenobia".encode("utf-32-le") + "Quillwharf".encode("utf-32-le") not in data
        assert NUMBER.encode() not in data
    with pytest.raises(NotFound):
        student_of_number(place.engine, place.settings, OPERATOR, NUMBER)


def test_the_receipt_says_what_went_and_what_was_not_looked_into(filled: Place) -> None:
    done = erased(filled)
    told = done.receipt
    assert told is not None
    assert told.rows["result"] == 4
    assert told.rows["student"] == 1
    assert told.rows["student_note"] == 1
    files = {one.file: one.lines for one in told.files}
    assert files == {
        "Roster.csv": 1, "Quiz (erased).csv": 2, "Wide.txt": 1, "Maze.xlsx": 1, "Reef.parquet": 1,
    }  # fmt: skip
    assert len(told.not_looked_into) == 3
    assert NUMBER not in told.model_dump_json()
    assert (done.reference, done.version) == ("Letter 12", 6)


def test_nobody_else_is_touched(filled: Place) -> None:
    place = filled
    asked = {"what": QUIZ["what"], "show": "students", "page": {"size": 100}}
    kept = [one for one in scores(place, asked) if one[0] != NUMBER]
    counts = {name: place.scalar(f"SELECT count(*) FROM {name}") for name in ("result", "attempt")}
    erased(place)
    assert scores(place, asked) == kept
    for name, n in counts.items():
        assert place.scalar(f"SELECT count(*) FROM {name}") == int(str(n)) - 4
    for test in ("Tide", "Maze", "Reef"):
        assert place.ask({"what": [{"assessment": test}]}).coverage[0].counted == 23
    # Lines keep their numbers: 0050 is still told in its own line.
    for batch, line in ((2, 13), (3, 12), (4, 12), (5, 11)):
        heads, rows = file_lines(place.engine, batch, [line])
        assert "0050" in rows[0][1], (batch, heads, rows)
    assert [row["cells"] for row in set_aside_rows(place.engine, 2)] == []
    notes = place.scalar("SELECT text FROM student_note")
    assert notes == "sat beside (erased)"


def scores(place: Place, asked: dict[str, object]) -> list[tuple[Any, ...]]:
    held = {c.key: c.values for c in place.ask(asked).body.columns}  # type: ignore[union-attr]
    return sorted(zip(held["number"], held["score"], strict=True))


def test_a_file_reads_as_before_without_them(filled: Place) -> None:
    place = filled
    erased(place)
    for batch in (2, 3, 4, 5):
        draft = read_again(place.engine, place.settings, OPERATOR, batch)
        kind, name = draft.kind, draft.name
        query = sa.select(t.source.c.bytes).where(t.source.c.id == draft.source_id)
        with place.engine.connect() as connection:
            data = bytes(connection.scalar(query) or b"")
        said = draft.settings.model_copy(update={"lines": []})
        bring_in(place.settings, place.engine, kind, name, data, said)
    for test in ("Quiz", "Tide", "Maze", "Reef"):
        assert place.ask({"what": [{"assessment": test}]}).coverage[0].counted == 23


def test_an_earlier_version_says_that_somebody_was_erased_since(filled: Place) -> None:
    place = filled
    codes = [w.code for w in place.ask({**QUIZ, "version": 5}).warnings]
    assert "erased_since" not in codes
    erased(place)
    told = place.ask({**QUIZ, "version": 5})
    assert [w.text for w in told.warnings if w.code == "erased_since"] == [
        "1 student who sat this was erased from the record after this version. What was printed "
        "of it before then may differ."
    ]
    assert "erased_since" not in [w.code for w in place.ask(QUIZ).warnings]
    assert told.coverage[0].counted == 23


def test_questions_and_groups_go_on_without_them(filled: Place) -> None:
    place = filled
    ailsa = actor_named(place.engine, "ailsa")
    group = save_group(
        place.engine, place.settings, ailsa, "All", "list",
        read_question({"what": QUIZ["what"]}),
    )  # fmt: skip
    erased(place)
    listed = list_questions(place.engine, place.settings, ailsa)
    assert [one.name for one in listed] == ["Both"]
    assert place.scalar("SELECT name FROM saved_question WHERE retired") == "(erased)"
    assert place.scalar("SELECT cardinality(students) FROM student_set") == 23
    asked = {"who": {"all": [{"set": group.id}]}, "what": QUIZ["what"]}
    assert place.ask(asked, ailsa).coverage[0].counted == 23


def test_a_file_that_waits_and_holds_them_is_thrown_away(filled: Place) -> None:
    place = filled
    ailsa = actor_named(place.engine, "ailsa")
    held = f"Number,Score\n{NUMBER},5\n0048,6\n".encode()
    free = b"Number,Score\n0048,6\n0050,47\n"
    for name, data in (("holds.csv", held), ("free.csv", free)):
        new_drafts(place.engine, ailsa, "results", name, data, IntakeSettings())
    done = erased(place)
    assert done.receipt is not None
    gone = [one.file for one in done.receipt.files if one.waiting]
    assert gone == ["holds.csv"]
    assert [one["name"] for one in list_drafts(place.engine, ailsa)] == ["free.csv"]


def test_who_asks_says_the_number_once_more_and_a_reference(filled: Place) -> None:
    place = filled
    student = student_of_number(place.engine, place.settings, OPERATOR, NUMBER)
    asks = (place.engine, place.settings, OPERATOR, student)
    with pytest.raises(InvalidQuestion, match="not this student's number"):
        asking.ask_to_erase(*asks, "0048", "Letter 12")
    with pytest.raises(InvalidQuestion, match="must have a reference"):
        asking.ask_to_erase(*asks, NUMBER, "  ")
    with pytest.raises(NotFound):
        asking.ask_to_erase(place.engine, place.settings, OPERATOR, 9999, NUMBER, "x")
    asking.ask_to_erase(*asks, NUMBER, "Letter 12")
    with pytest.raises(InvalidQuestion, match="asked for already"):
        asking.ask_to_erase(*asks, NUMBER, "Letter 12")


def test_one_that_dies_half_way_is_whole_afterwards(
    filled: Place, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Killed before its transaction ends nothing has happened; after it, the rest is done later."""
    place = filled
    before = place.scalar("SELECT count(*) FROM result")
    made = ask(place)
    owner = connect_owner(place.settings)

    def dies(*_: object) -> None:
        raise RuntimeError("killed")

    monkeypatch.setattr(erasing, "take_out_of_audit", dies)
    with pytest.raises(RuntimeError):
        erasing.erase_waiting(owner, place.settings)
    assert place.scalar("SELECT count(*) FROM result") == before
    assert student_of_number(place.engine, place.settings, OPERATOR, NUMBER)
    monkeypatch.undo()
    monkeypatch.setattr(erasing, "forget_snapshots", dies)
    with pytest.raises(RuntimeError):
        erasing.erase_waiting(owner, place.settings)
    assert place.scalar(f"SELECT state FROM erasure WHERE id = {made.id}") == "sweeping"
    monkeypatch.undo()
    erasing.erase_waiting(owner, place.settings)
    owner.dispose()
    assert place.scalar(f"SELECT state FROM erasure WHERE id = {made.id}") == "done"


def test_what_came_back_with_an_older_backup_is_erased_again(filled: Place) -> None:
    place = filled
    marks = [str(place.scalar(f"SELECT mark FROM student WHERE number = '{NUMBER}'"))]
    done = erased(place)
    assert done.state == "done"
    assert marked_in(place.settings.home) == marks
    with place.engine.begin() as connection:  # as a restore of an older backup would leave it
        connection.execute(sa.text(f"INSERT INTO student (number, mark) VALUES ('{NUMBER}', "
                                   f"'{marks[0]}')"))  # fmt: skip
    owner = connect_owner(place.settings)
    assert erasing.erase_again(owner, place.settings, marked_in(place.settings.home)) == 1
    assert erasing.erase_again(owner, place.settings, marked_in(place.settings.home)) == 0
    owner.dispose()
    assert place.scalar(f"SELECT count(*) FROM student WHERE number = '{NUMBER}'") == 0


def test_everything_that_is_held_of_a_student_comes_out(filled: Place) -> None:
    place = filled
    student = student_of_number(place.engine, place.settings, OPERATOR, NUMBER)
    data = everything_of(place.engine, place.settings, OPERATOR, student)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        about = json.loads(archive.read("about.json"))
        tables = {
            name: list(csv.DictReader(io.StringIO(archive.read(f"{name}.csv").decode())))
            for name in about["tables"]
        }
    assert about["number"] == NUMBER
    assert {row["test"]: float(row["value"]) for row in tables["results"]} == {
        "Quiz": 47.0, "Tide": 47.0, "Maze": 8.0, "Reef": 7.0,
    }  # fmt: skip
    assert {row["file"] for row in tables["lines"]} == {
        "Roster.csv", f"Quiz {GIVEN} {FAMILY}.csv", "Wide.txt", "Maze.xlsx", "Reef.parquet",
    }  # fmt: skip
    assert [row["text"] for row in tables["notes"]] == ["hers"]
    assert {row["name"] for row in tables["lists"]} == {"Both", f"{GIVEN} {FAMILY}"}
    assert {table: about["tables"][table]["rows"] for table in tables} == {
        table: len(rows) for table, rows in tables.items()
    }
    assert not any("0048" in json.dumps(rows) for rows in tables.values())


def test_leavers_are_due_by_the_rule_and_erased_only_as_they_were_seen(place: Place) -> None:
    for year, numbers in (("2021-22", range(1, 9)), ("2022-23", range(3, 9)),
                          ("2025-26", range(5, 9))):  # fmt: skip
        people = [(f"{n:04d}", "Tarn", 7) for n in numbers]
        place.bring("roster", roster(people), f"{year}.csv", academic_year=year)
    seen = asking.kept(place.engine, place.settings, OPERATOR)
    assert [(one.last_year, one.students, one.due) for one in seen.leavers[-2:]] == [
        ("2022-23", 2, False), ("2021-22", 2, False)
    ]  # fmt: skip
    said = asking.Retention(leavers_years=3, audit_years=None, revision=seen.rule.revision)
    asking.say_retention(place.engine, OPERATOR, said)
    with pytest.raises(ChangedMeanwhile):
        asking.say_retention(place.engine, OPERATOR, said)
    seen = asking.kept(place.engine, place.settings, OPERATOR)
    assert seen.due == 2
    with pytest.raises(ChangedMeanwhile, match="2 students are due now, not 4"):
        asking.erase_leavers(place.engine, place.settings, OPERATOR, 4)
    asking.erase_leavers(place.engine, place.settings, OPERATOR, 2)
    owner = connect_owner(place.settings)
    erasing.erase_waiting(owner, place.settings)
    owner.dispose()
    numbers = place.scalar("SELECT string_agg(number, ' ' ORDER BY number) FROM student")
    assert numbers == "0003 0004 0005 0006 0007 0008"
    with pytest.raises(ChangedMeanwhile):
        asking.erase_leavers(place.engine, place.settings, OPERATOR, 0)


def test_old_lines_of_the_audit_go_by_the_rule_and_nothing_else_may_remove_them(
    place: Place,
) -> None:
    place.account("ailsa", "data_lead")
    owner = connect_owner(place.settings)
    with owner.begin() as connection:
        connection.execute(sa.text(
            "INSERT INTO audit (login, action, detail, at) VALUES "
            "('ailsa', 'export', '{}', now() - interval '4 years')"
        ))  # fmt: skip
    assert asking.forget_old_audit(owner) == 0
    said = asking.Retention(audit_years=3, leavers_years=None, revision=0)
    asking.say_retention(place.engine, OPERATOR, said)
    assert asking.forget_old_audit(owner) == 1
    assert asking.forget_old_audit(owner) == 0
    assert place.scalar("SELECT count(*) FROM audit WHERE action = 'forget_audit'") == 1
    owner.dispose()
    for change in (
        "DELETE FROM audit",
        "UPDATE audit SET login = 'x'",
        "TRUNCATE audit",
        "ALTER TABLE audit DISABLE TRIGGER audit_only_grows",
        "CREATE TABLE more (n int)",
        "UPDATE alembic_version SET version_num = '1'",
    ):
        with pytest.raises(sa.exc.DBAPIError), place.engine.begin() as connection:
            connection.execute(sa.text(change))


def test_a_note_on_an_answer_loses_their_name(filled: Place) -> None:
    place = filled
    ailsa = actor_named(place.engine, "ailsa")
    add_note(place.engine, place.settings, ailsa, read_question(QUIZ),
             f"because of {GIVEN} {FAMILY}'s mark, 0047, and 10047", shared=True)  # fmt: skip
    erased(place)
    assert (
        place.scalar("SELECT text FROM note") == "because of (erased)'s mark, (erased), and 10047"
    )


def test_marks_are_told_beside_backups(filled: Place, tmp_path: Path) -> None:
    place = Place(replace(filled.settings, backup_folder=str(tmp_path / "b")), filled.engine)
    erased(place)
    assert marked_in(tmp_path / "b") == marked_in(place.settings.home)
    assert len(marked_in(tmp_path / "b")) == 1
