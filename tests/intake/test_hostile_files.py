"""Files made to harm: each is an error about that file in plain words, and the next one is read.

They are opened as the web server opens them, in a reader with limits; what they do there they do
to nobody else.
"""

from __future__ import annotations

import gzip
import io
import os
import resource
import signal
import struct
import time
import zipfile
from pathlib import Path

import polars as pl
import pytest
import xlsxwriter
from tests.support import Place, signed_in

from bridge_chart.intake.drafts.work import is_large
from bridge_chart.intake.reading import apart
from bridge_chart.intake.reading.apart import sheet_in, tables_of
from bridge_chart.terms.errors import BridgeError, UnreadableFile

MAIN = 'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"'
PLAIN = b"Number,Test,Score\n1,Quiz,5\n"


def archive(parts: dict[str, bytes | str], how: int = zipfile.ZIP_DEFLATED) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", how, compresslevel=1) as made:
        for name, data in parts.items():
            made.writestr(name, data)
    return out.getvalue()


def workbook(sheet: str) -> bytes:
    """An XLSX as a spreadsheet writes it, with this as its one sheet."""
    written = io.BytesIO()
    with xlsxwriter.Workbook(written) as book:
        book.add_worksheet("S").write(0, 0, 1)
    with zipfile.ZipFile(written) as made:
        parts = {name: made.read(name) for name in made.namelist()}
    return archive({**parts, "xl/worksheets/sheet1.xml": sheet})


def cell(at: str, value: str = "1") -> str:
    return f'<c r="{at}"><v>{value}</v></c>'


def sheet_of(rows: str) -> str:
    return f'<?xml version="1.0"?><worksheet {MAIN}><sheetData>{rows}</sheetData></worksheet>'


def far_corner() -> bytes:
    """One cell at the end of the sheet: 549 GB for whoever makes room for all between."""
    return workbook(sheet_of(f'<row r="1">{cell("A1")}</row><row r="1048576">'
                             f'{cell("XFD1048576")}</row>'))  # fmt: skip


def far_without_address() -> bytes:
    """The same, where only the dimension says it: believed by nobody."""
    rows = f'<row r="1">{cell("A1")}</row><row r="2">{cell("A2")}</row>'
    return workbook(f'<?xml version="1.0"?><worksheet {MAIN}><dimension ref="A1:XFD1048576"/>'
                    f"<sheetData>{rows}</sheetData></worksheet>")  # fmt: skip


def repeated_cells() -> bytes:
    """An OpenDocument table of one cell that says it is repeated in every direction."""
    office = "urn:oasis:names:tc:opendocument:xmlns:"
    body = (
        f'<office:document-content xmlns:office="{office}office:1.0" '
        f'xmlns:table="{office}table:1.0" xmlns:text="{office}text:1.0"><office:body>'
        '<office:spreadsheet><table:table table:name="S">'
        '<table:table-row table:number-rows-repeated="1048576"><table:table-cell '
        'table:number-columns-repeated="16384" office:value-type="float" office:value="1">'
        "<text:p>1</text:p></table:table-cell></table:table-row></table:table>"
        "</office:spreadsheet></office:body></office:document-content>"
    )
    kind = "application/vnd.oasis.opendocument.spreadsheet"
    return archive({"mimetype": kind, "content.xml": body,
                    "META-INF/manifest.xml": "<manifest/>"})  # fmt: skip


def packed_nothing() -> bytes:
    """Small as it comes, a gigabyte inside."""
    return archive({f"{n}.csv": b"a,b\n" + b"0,0\n" * (50 << 18) for n in range(13)})


def lying_size() -> bytes:
    """An archive that says its part is small."""
    data = bytearray(archive({"a.csv": b"a,b\n" + b"0,0\n" * (170 << 20 >> 2)}))
    for mark, at in ((b"PK\x01\x02", 24), (b"PK\x03\x04", 22)):
        place = data.find(mark)
        data[place + at : place + at + 4] = struct.pack("<I", 10)
    return bytes(data)


def many_parts() -> bytes:
    return archive({f"{n}.csv": b"a\n1\n" for n in range(6000)}, zipfile.ZIP_STORED)


def repeated_value() -> bytes:
    """A Parquet file of one value, very often."""
    out = io.BytesIO()
    pl.DataFrame({"Score": pl.repeat(1, 60_000_000, dtype=pl.Int8, eager=True)}).write_parquet(out)
    return out.getvalue()


def nested_xml() -> bytes:
    deep = "<a>" * 200_000
    return workbook(sheet_of(deep))


def entities() -> bytes:
    laughs = "".join(
        f'<!ENTITY a{n} "{("&a" + str(n - 1) + ";") * 10 if n else "aaaaaaaaaa"}">'
        for n in range(10)
    )
    return workbook(f'<?xml version="1.0"?><!DOCTYPE x [{laughs}]><worksheet {MAIN}><sheetData>'
                    f'<row r="1"><c r="A1" t="inlineStr"><is><t>&a9;</t></is></c></row>'
                    "</sheetData></worksheet>")  # fmt: skip


def outside_file() -> bytes:
    """An entity that names a file of the server."""
    return workbook('<?xml version="1.0"?><!DOCTYPE x [<!ENTITY f SYSTEM "file:///etc/passwd">]>'
                    f'<worksheet {MAIN}><sheetData><row r="1"><c r="A1" t="inlineStr"><is>'
                    "<t>&f;</t></is></c></row></sheetData></worksheet>")  # fmt: skip


def wide_text() -> bytes:
    return b",".join([b"c"] * 500_000) + b"\n"


def no_end() -> bytes:
    return b'a,b\n"' + b"x" * (3 << 20)


def locked() -> bytes:
    data = bytearray(archive({"a.csv": PLAIN}))
    data[6] |= 1
    data[data.find(b"PK\x01\x02") + 8] |= 1
    return bytes(data)


def old_broken() -> bytes:
    return b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1" + bytes(range(256)) * 40


HARMFUL = {
    "far.xlsx": (far_corner, "filled cell at XFD1048576"),
    "repeated.ods": (repeated_cells, "17,179,869,184 cells"),
    "packed.zip": (packed_nothing, "more than 600 MB"),
    "lying.zip": (lying_size, "damaged"),
    "parts.zip": (many_parts, "6000 files"),
    "value.parquet": (repeated_value, "60,000,000 rows"),
    "deep.xlsx": (nested_xml, "no filled sheet|damaged|no rows"),
    "laughs.xlsx": (entities, "damaged|no rows|no filled"),
    "passwd.xlsx": (outside_file, "damaged|no rows|no filled"),
    "wide.csv": (wide_text, "columns"),
    "quote.csv": (no_end, "never closed|field larger"),
    "locked.zip": (locked, "damaged|locked"),
    "old.xls": (old_broken, "damaged"),
}  # fmt: skip


def opened(name: str, data: bytes) -> None:
    """Every table of a file, as a draft of it is made."""
    for part, held, _ in tables_of(name, data, "results"):
        sheet_in(part, held)


@pytest.mark.parametrize("name", HARMFUL)
def test_what_is_made_to_harm_is_an_error_about_itself(name: str) -> None:
    make, says = HARMFUL[name]
    data = make()
    began = time.monotonic()
    with pytest.raises(UnreadableFile, match=says) as refused:
        opened(name, data)
    assert name in refused.value.message
    assert refused.value.kept == "Nothing was changed."
    assert "root:" not in str(refused.value)
    assert time.monotonic() - began < apart.SECONDS
    assert sheet_in("next.csv", PLAIN).headers == ("Number", "Test", "Score")


def test_what_only_says_it_is_large_is_read() -> None:
    assert sheet_in("says.xlsx", far_without_address()).cells.height == 2


def test_a_formatted_but_empty_far_cell_is_no_table() -> None:
    rows = f'<row r="1">{cell("A1")}{cell("B1")}</row><row r="2">{cell("A2")}{cell("B2")}</row>'
    far = '<row r="1048576"><c r="XFD1048576" s="1"/></row>'
    assert sheet_in("styled.xlsx", workbook(sheet_of(rows + far))).cells.height == 2


def test_a_reader_that_falls_takes_nobody_with_it(monkeypatch: pytest.MonkeyPatch) -> None:
    """Killed, out of time, or out of memory: an error about that file; the next one is read."""
    sheet_in("a.csv", PLAIN)
    with apart._READERS.one() as reader:
        process = reader.process
    os.kill(process.pid, signal.SIGKILL)
    process.wait()
    assert sheet_in("b.csv", PLAIN).cells.height == 1
    monkeypatch.setattr(apart, "SECONDS", 0.0)
    monkeypatch.setattr(apart, "SECONDS_A_MEGABYTE", 0.0)
    with pytest.raises(UnreadableFile, match="took longer than"):
        sheet_in("slow.csv", b"a,b\n" + b"1,2\n" * 500_000)
    monkeypatch.undo()
    assert sheet_in("c.csv", PLAIN).cells.height == 1


def test_a_reader_that_cannot_start_blames_no_file(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(apart, "_READERS", apart._Readers())
    monkeypatch.setattr(apart.sys, "executable", "/bin/false")
    with pytest.raises(BridgeError, match="could not be started") as refused:
        sheet_in("good.csv", PLAIN)
    assert "good.csv" not in refused.value.message
    monkeypatch.undo()
    assert sheet_in("good.csv", PLAIN).cells.height == 1


def test_a_reader_has_no_more_memory_than_a_file_may_take() -> None:
    """What nobody foresaw ends with the reader's limit, not with the machine's."""
    with apart._READERS.one() as reader:
        limits = Path(f"/proc/{reader.process.pid}/limits").read_text()
        score = Path(f"/proc/{reader.process.pid}/oom_score_adj").read_text()
    (line,) = [one for one in limits.splitlines() if one.startswith("Max address space")]
    assert line.split()[3].isdecimal()
    assert int(line.split()[3]) < 16 << 30
    assert "Max core file size        0" in limits
    assert int(score) >= 0


def test_a_file_that_asks_for_more_memory_is_told_so_and_the_next_is_read() -> None:
    """The limit is drawn tight for once: what then cannot be opened is an error in words."""
    sheet_in("a.csv", PLAIN)
    with apart._READERS.one() as reader:
        about = Path(f"/proc/{reader.process.pid}/statm").read_text().split()
        tight = int(about[0]) * resource.getpagesize() + (64 << 20)
        resource.prlimit(reader.process.pid, resource.RLIMIT_AS, (tight, tight))
    much = archive({"much.csv": b"a,b,c\n" + b"some text,more of it,and more\n" * 4_000_000})
    with pytest.raises(UnreadableFile, match="more than 4 GB of memory"):
        tables_of("much.zip", much, "results")
    with apart._READERS.one() as reader:
        reader.end()
    assert sheet_in("next.csv", PLAIN).cells.height == 1


@pytest.mark.parametrize("name", ["../../etc/x.csv", "/abs/x.csv", "a\\..\\..\\x.csv"])
def test_names_within_an_archive_lead_nowhere(name: str) -> None:
    ((part, held, _),) = tables_of("files.zip", archive({name: PLAIN}), "results")
    assert (part, held) == ("x.csv", PLAIN)


def test_an_upload_is_judged_by_what_is_inside(place: Place) -> None:
    """A small archive with much in it goes to a worker, whatever its name says."""
    much = archive({"a.csv": b"Number,Test,Score\n" + b"1,Quiz,5\n" * 700_000})
    assert len(much) < 100_000
    assert is_large(place.settings, "a.zip", much)
    assert is_large(place.settings, "a.csv", much)
    assert not is_large(place.settings, "a.zip", archive({"a.csv": PLAIN}))
    assert not is_large(place.settings, "a.xlsx", b"PK\x03\x04 and no more")


def test_the_web_server_answers_after_a_hostile_upload(place: Place) -> None:
    place.account("ailsa", "data_lead")
    with signed_in(place) as client:
        for name in ("far.xlsx", "repeated.ods", "laughs.xlsx", "locked.zip"):
            data = HARMFUL[name][0]()
            form = {"kind": "results", "file": (io.BytesIO(data), name)}
            response = client.post("/api/drafts", data=form)
            assert response.status_code == 422, name
            error = response.get_json()["error"]
            assert error["code"] == "unreadable_file"
            assert error["next"]
        assert client.get("/api/drafts").get_json() == {"drafts": []}
        form = {"kind": "roster", "file": (io.BytesIO(b"Number,School\n1,Tarn\n"), "r.csv")}
        assert client.post("/api/drafts", data=form).status_code == 201


def test_a_packed_file_is_opened_and_no_bomb_is() -> None:
    text = b"Number,Mark\n1,5\n"
    (told,) = tables_of("marks.csv.gz", gzip.compress(text), "results")
    assert told == ("marks.csv", text, [])
    with pytest.raises(UnreadableFile, match="unpacks to more than 600 MB"):
        tables_of("bomb.csv.gz", gzip.compress(bytes(601 << 20), 1), "results")
    with pytest.raises(UnreadableFile, match="is packed twice"):
        tables_of("twice.csv.gz", gzip.compress(gzip.compress(text)), "results")
    with pytest.raises(UnreadableFile, match="is damaged"):
        tables_of("half.csv.gz", gzip.compress(text)[:-9], "results")
