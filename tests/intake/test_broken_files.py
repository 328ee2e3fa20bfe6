"""Files as people really have them: each is read rightly, or refused in plain words."""

from __future__ import annotations

import io
import zipfile

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from tests.effort import examples
from tests.support import Place, roster

from bridge_chart.intake.columns.columns import understand
from bridge_chart.intake.reading.read import read_sheet
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.terms.errors import BridgeError, InvalidQuestion, UnreadableFile

ENTITIES = "<!DOCTYPE x [<!ENTITY a 'aaaaaaaaaa'>" + "".join(
    f"<!ENTITY a{n} '{('&a' + (str(n - 1) if n else '') + ';') * 10}'>" for n in range(9)
) + "]><x>&a8;</x>"  # fmt: skip


def _archive(files: dict[str, str]) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, text in files.items():
            made.writestr(name, text)
    return out.getvalue()


ROWS = roster([(f"{n:05d}", "Netherby" if n % 2 else "Tarn", 8) for n in range(1, 61)])


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "is empty"),
        (b"  \n\n ", "is empty"),
        (b"number,school\n", "no rows"),
        (b"PK\x03\x04rest", "damaged and cannot be unpacked"),
        (b"number,school\n1,\x00\n", "not a text file"),
        (b"%PDF-1.7\n1 0 obj", "is a PDF"),
        (b"<html><table><tr><td>1</td></tr></table></html>", "is a web page"),
        (b'a,b\n"1,2\n3,4\n', "line 2: a quotation mark opens a cell and is never closed"),
        (_archive({"[Content_Types].xml": ENTITIES, "xl/workbook.xml": ENTITIES}), "damaged"),
        (_archive({"xl/workbook.xml": "0" * (601 << 20)}), "at most 600 MB"),
        (b"number,school\n1,a\n2,b,c\n", "line 3: there must be 2 cells"),
        (",".join(["c"] * 3000).encode() + b"\n1\n", "3000 columns"),
    ],
)
def test_what_cannot_be_read_is_refused_in_plain_words(data: bytes, says: str) -> None:
    with pytest.raises(UnreadableFile) as caught:
        read_sheet("file.csv", data)
    assert says in caught.value.message
    assert caught.value.kept == "Nothing was changed."


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "cp1252"])
@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
def test_usual_encodings_and_delimiters(encoding: str, delimiter: str) -> None:
    text = f"Number{delimiter}Name\r\n007{delimiter}Zoë Ørn\r\n"
    sheet = read_sheet("file.csv", text.encode(encoding))
    assert sheet.headers == ("Number", "Name")
    assert sheet.cells.row(0) == ("007", "Zoë Ørn")


def test_lines_are_the_files_own() -> None:
    text = 'a,b\n1,"two\nlines"\n\n3,x\n'
    sheet = read_sheet("file.csv", text.encode())
    assert sheet.lines.tolist() == [2, 5]
    assert sheet.cells.row(0)[1] == "two\nlines"


def test_a_quoted_header_with_a_line_break_keeps_the_rows_in_step() -> None:
    sheet = read_sheet("file.csv", b'a,"b\nc"\n1,x\n2,y\n')
    assert sheet.headers == ("a", "b\nc")
    assert sheet.cells.rows() == [("1", "x"), ("2", "y")]


@settings(max_examples=examples(150), deadline=None)
@given(st.binary(max_size=300))
def test_no_bytes_at_all_break_the_reader(data: bytes) -> None:
    try:
        sheet = read_sheet("file.csv", data)
    except UnreadableFile:
        return
    assert sheet.cells.height == len(sheet.lines)
    assert sheet.cells.width == len(sheet.headers)


@settings(max_examples=examples(60), deadline=None)
@given(
    st.lists(
        st.lists(st.text(st.characters(codec="utf-8", exclude_categories=["Cc"])), min_size=3,
                 max_size=3),
        min_size=1, max_size=8,
    )
)  # fmt: skip
def test_quoted_cells_come_back_as_written(rows: list[list[str]]) -> None:
    assume(any(cell.strip() for row in rows for cell in row))
    quoted = ["n,b,c", *(",".join('"' + c.replace('"', '""') + '"' for c in row) for row in rows)]
    # A sentence in a single cell at the end reads as a note, unless somebody says it is a row.
    said = IntakeSettings(decisions=dict.fromkeys(("notes", "totals", "names_again"), "keep"))
    sheet = read_sheet("file.csv", ("\n".join(quoted) + "\n").encode(), said)
    held = [row for row in rows if any(cell.strip() for cell in row)]
    shown = [row for row in sheet.cells.rows() if any(row)]
    assert shown == [tuple(cell.strip() for cell in row) for row in held]


def test_a_file_without_student_numbers_changes_nothing(place: Place) -> None:
    with pytest.raises(UnreadableFile, match="must have a column with student numbers"):
        place.bring("roster", "School,Sex\nNetherby,F\n")
    assert place.scalar("SELECT count(*) FROM batch") == 0
    assert place.scalar("SELECT count(*) FROM version") == 0


def test_results_before_any_roster_are_refused(place: Place) -> None:
    with pytest.raises(UnreadableFile, match="There is no roster yet"):
        place.bring("results", "Number,Score\n1,2\n")


def test_the_smallest_roster_and_results_go_through(place: Place) -> None:
    place.bring("roster", "ID,School,EAL\n1,Netherby,yes\n2,Tarn,no\n", academic_year="2025-26")
    plan = place.bring("results", "Student ID,Test,Score\n1,Quiz,7\n2,Quiz,5\n")
    assert plan.examination.rows_kept == 2
    measure = place.snapshot.measures[0]
    assert (measure.assessment.name, measure.subject, measure.score) == ("Quiz", None, "raw")
    assert place.snapshot.values(measure).tolist() == [7.0, 5.0]
    assert [c.name for c in place.snapshot.characteristics] == ["EAL"]


def test_every_row_is_kept_set_aside_or_a_copy(place: Place) -> None:
    place.bring("roster", ROWS, academic_year="2025-26")
    text = (
        "Number,Test,Subject,Sitting,Date,Score\n"
        "00001,Quiz,Maths,June,12/06/2026,10\n"  # fine
        "2,Quiz,Maths,June,12/06/2026,11\n"  # lost zeros
        "00003,Quiz,Maths,June,12/06/2026,abs\n"  # absent
        "00004,Quiz,Maths,June,12/06/2026,12\n"  # copy below
        "00004,Quiz,Maths,June,12/06/2026,12\n"
        "00005,Quiz,Maths,June,12/06/2026,13\n"  # contradicted below
        "00005,Quiz,Maths,June,12/06/2026,14\n"
        "99999,Quiz,Maths,June,12/06/2026,15\n"  # nobody
        ",Quiz,Maths,June,12/06/2026,16\n"  # no number
        "00006,Quiz,Maths,June,12/06/2026,wow\n"  # neither figure nor code
        "00007,Quiz,Maths,June,12/06/2026,\n"  # blank
        '00008,Quiz,Maths,June,12/06/2026,"7,5"\n'  # decimal comma
        "00009,Quiz,Maths,June,12/06/2026,-3\n"  # below what a raw mark can be
    )
    plan = place.bring("results", text)
    shown = plan.examination
    assert shown.rows_kept + shown.rows_set_aside + shown.rows_copies == shown.rows_in_file == 13
    assert shown.rows_copies == 1
    found = {f.key: (f.kind, f.n, f.rows) for f in shown.findings}
    assert found["no_student"] == ("stop", 1, [9])
    assert found["no_number"] == ("stop", 1, [10])
    assert found["two_scores"] == ("stop", 1, [7, 8])
    assert found["unknown_code_raw"] == ("stop", 1, [11])
    assert found["outside_raw"] == ("stop", 1, [14])
    assert found["copies"] == ("ask", 1, [6])
    assert found["codes"] == ("ask", 1, [4])
    assert found["blank"] == ("ask", 1, [12])
    assert found["zeros"] == ("done", 1, [3])
    assert found["date_order"][0] == "done"
    measure = place.snapshot.measures[0]
    by_number = dict(
        zip(place.snapshot.numbers.tolist(), place.snapshot.values(measure).tolist(), strict=True)
    )
    assert (by_number["00001"], by_number["00002"], by_number["00004"]) == (10.0, 11.0, 12.0)
    assert by_number["00008"] == 7.5
    assert str(measure.date) == "2026-06-12"
    aside = place.scalar("SELECT string_agg(row::text, ',' ORDER BY row) FROM set_aside")
    assert aside == "7,8,9,10,11,14"


def test_choices_settle_what_stops(place: Place) -> None:
    place.bring("roster", ROWS, academic_year="2025-26")
    text = "Number,Test,Score\n00001,Quiz,3\n00001,Quiz,9\n00002,Quiz,zz\n"
    for rule, value in (("first", 3.0), ("last", 9.0), ("higher", 9.0)):
        plan = place.look(
            "results", text, decisions={"two_scores": rule, "unknown_code_raw": "exempt"}
        )
        assert not plan.examination.unsettled
        assert plan.rows.filter(plan.rows["student"] == 0)["raw"].to_list() == [value]
    undecided = place.look("results", text).examination
    assert {f.key for f in undecided.unsettled} == {"two_scores", "unknown_code_raw"}
    with pytest.raises(InvalidQuestion, match="no choice"):
        place.look("results", text, decisions={"two_scores": "lower"})


@pytest.mark.parametrize("number", ["00012", "12", "0012"])
def test_zeros_are_restored_only_where_one_student_fits(place: Place, number: str) -> None:
    place.bring(
        "roster", roster([("00012", "Netherby", 8), ("00034", "Netherby", 8), ("34", "Tarn", 8)]),
        academic_year="2025-26",
    )  # fmt: skip
    sure = place.look("results", f"Number,Test,Score\n{number},Quiz,3\n0034,Quiz,4\n")
    assert sure.rows["student"].to_list() == [0]  # 0034 could be two students, so it is nobody's
    assert sure.examination.rows_set_aside == 1


def test_a_repaired_number_never_joins_somebody_who_is_there_already(place: Place) -> None:
    place.bring("roster", ROWS, academic_year="2025-26")
    plan = place.look("results", "Number,Test,Score\n00012,Quiz,3\n12,Quiz,9\n")
    assert [f.key for f in plan.examination.findings] == ["no_student"]
    assert plan.rows["raw"].to_list() == [3.0]


def test_a_name_near_an_existing_one_stops_also_unattended(place: Place) -> None:
    place.bring("roster", ROWS, academic_year="2025-26")
    slip = ROWS.replace("Netherby", "Netherbey")
    with pytest.raises(BridgeError, match="“Netherbey” is near “Netherby”"):
        place.bring("roster", slip, academic_year="2025-26")
    assert place.scalar("SELECT count(*) FROM school") == 2
    place.bring(
        "roster", slip, academic_year="2025-26", decisions={"near_school:Netherbey": "same"}
    )
    assert place.scalar("SELECT count(*) FROM school") == 2
    place.bring("results", "Number,Test,Score\n00001,Spring survey,3\n")
    with pytest.raises(BridgeError, match="near “Spring survey”"):
        place.bring("results", "Number,Test,Score\n00001,Sprnig survey,3\n")


def test_years_and_terms_are_not_near_each_other(place: Place) -> None:
    place.bring("roster", ROWS, academic_year="2025-26")
    place.bring("results", "Number,Test,Sitting,Score\n00001,Quiz,spring 2025,3\n")
    plan = place.look("results", "Number,Test,Sitting,Score\n00001,Quiz,spring 2026,3\n")
    assert not plan.examination.unsettled


def test_columns_are_guessed_by_name_and_content_and_can_be_corrected() -> None:
    text = "Pupil No,Surname,Forename,Form,Yr,DOB,Wing,Note\n1,A,B,8A,8,1/2/2014,east,n1\n2,C,D,8A,8,3/4/2014,west,n2\n3,E,F,8B,8,5/6/2014,east,n3\n4,E,F,8B,8,5/6/2014,west,n4\n"  # noqa: E501
    sheet = read_sheet("file.csv", text.encode())
    roles = [c.role for c in understand("roster", sheet, IntakeSettings())]
    assert roles == [
        "number", "family_name", "given_name", "form", "year_level", "birth_date",
        "characteristic:Wing", "ignore",
    ]  # fmt: skip
    told = understand(
        "roster", sheet, IntakeSettings(columns={"Wing": "school", "#8": "characteristic:Remark"})
    )
    assert [c.role for c in told][6:] == ["school", "characteristic:Remark"]
    for wrong in ({"Nowhere": "school"}, {"Wing": "colour"}, {"Wing": "number", "Yr": "number"}):
        with pytest.raises(InvalidQuestion):
            understand("roster", sheet, IntakeSettings(columns=wrong))


def test_hostile_cells_are_only_text(place: Place) -> None:
    nasty = ['=HYPERLINK("http://x")', "<script>alert(1)</script>", "'; DROP TABLE student; --"]
    quoted = ['"' + text.replace('"', '""') + '"' for text in nasty]
    lines = ["Number,School,Given name"]
    lines += [f"{n},{school},{school}" for n, school in enumerate(quoted)]
    place.bring("roster", "\n".join(lines) + "\n", academic_year="2025-26")
    assert sorted(s.name for s in place.snapshot.schools) == sorted(nasty)
    assert place.scalar("SELECT count(*) FROM student") == 3
