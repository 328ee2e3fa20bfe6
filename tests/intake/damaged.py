"""A heap of damaged files: each with what must come of it, written down by hand."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Callable
from dataclasses import dataclass, field

import polars as pl
import xlsxwriter

NAMES = ["Ann Smith", "Zoë Öberg", "Łukasz Wójcik", "Siân O'Hara", "Ağa Çelik", "李 明"]
"""Students 00101 to 00106."""
ALL = {f"0010{n}": 10.0 * n for n in range(1, 7)}
"""What a whole file says: ten marks for each place."""


@dataclass(frozen=True)
class Damaged:
    """A file of marks and its outcome: `kept`: number → mark (None: no score, but a reason);
    `aside`: lines set aside; `copies`: rows that count once; `found`: findings it must name."""

    id: str
    data: bytes
    kept: dict[str, float | None] = field(default_factory=lambda: dict(ALL))
    aside: tuple[int, ...] = ()
    copies: int = 0
    found: tuple[str, ...] = ()
    name: str = "Check.csv"
    said: dict[str, object] = field(default_factory=dict)


def rows(number: Callable[[int], str] = lambda n: f"0010{n}", mark: str = "{}") -> list[list[str]]:
    return [[number(n), NAMES[n - 1], mark.format(10 * n)] for n in range(1, 7)]


def text(
    lines: list[list[str]], mark: str = ",", head: tuple[str, ...] = ("No", "Name", "Mark")
) -> str:
    return "".join(mark.join(line) + "\n" for line in [list(head), *lines])


def book(sheets: dict[str, list[list[object]]]) -> bytes:
    out = io.BytesIO()
    made = xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False})
    for name, lines in sheets.items():
        sheet = made.add_worksheet(name)
        for at, line in enumerate(lines):
            for n, cell in enumerate(line):
                sheet.write(at, n, cell)
    made.close()
    return out.getvalue()


MANIFEST = (
    '<?xml version="1.0" encoding="UTF-8"?><manifest:manifest '
    'xmlns:manifest="urn:oasis:names:tc:opendocument:xmlns:manifest:1.0">'
    '<manifest:file-entry manifest:full-path="/" '
    'manifest:media-type="application/vnd.oasis.opendocument.spreadsheet"/></manifest:manifest>'
)


def ods(lines: list[list[str]]) -> bytes:
    """An OpenDocument sheet with nothing in it but texts."""
    cells = "".join(
        "<table:table-row>"
        + "".join(
            '<table:table-cell office:value-type="string">'
            f"<text:p>{cell}</text:p></table:table-cell>"
            for cell in line
        )
        + "</table:table-row>"
        for line in lines
    )
    space = "urn:oasis:names:tc:opendocument:xmlns:"
    content = (
        f'<?xml version="1.0" encoding="UTF-8"?><office:document-content '
        f'xmlns:office="{space}office:1.0" xmlns:table="{space}table:1.0" '
        f'xmlns:text="{space}text:1.0" office:version="1.2"><office:body><office:spreadsheet>'
        f'<table:table table:name="Marks">{cells}</table:table>'
        "</office:spreadsheet></office:body></office:document-content>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("META-INF/manifest.xml", MANIFEST)
        archive.writestr("content.xml", content)
    return out.getvalue()


def parquet() -> bytes:
    out = io.BytesIO()
    frame = {"No": list(ALL), "Name": NAMES, "Mark": list(ALL.values())}
    pl.DataFrame(frame).write_parquet(out)
    return out.getvalue()


PLAIN = text(rows())
WEST = [line for line in rows() if line[0] in ("00101", "00102", "00104")]
WEST_KEPT = {n: ALL[n] for n in ("00101", "00102", "00104")}
DOUBLED = text([*rows(), rows()[0], rows()[1]])
TWO = text([*rows(), ["00101", "Ann Smith", "99"]])
REST = {n: v for n, v in ALL.items() if n != "00101"}

HEAP = [
    Damaged("plain", PLAIN.encode()),
    Damaged("marked as UTF-8", PLAIN.encode("utf-8-sig")),
    Damaged("UTF-16", PLAIN.encode("utf-16")),
    Damaged("an old Western encoding", text(WEST).encode("cp1252"), WEST_KEPT, found=("encoding",)),
    Damaged("an old Macintosh encoding", text(WEST).replace("\n", "\r").encode("mac_roman"),
            WEST_KEPT, found=("encoding",)),
    Damaged("semicolons and decimal commas", text(rows(mark="{},0"), ";").encode()),
    Damaged("tabs", text(rows(), "\t").encode()),
    Damaged("bars", text(rows(), "|").encode()),
    Damaged("title lines", ("Netherby School\nMarks of the spring\n\n" + PLAIN).encode(),
            found=("titles",)),
    Damaged("a line above the names", text(rows(), head=("", "", "Maths"))
            .replace("Maths\n", "Maths\nNo,Name,Mark\n").encode(), found=("titles",)),
    Damaged("a line of units", PLAIN.replace("Mark\n", "Mark\n,,out of 60\n").encode(),
            found=("two_headers",)),
    Damaged("totals and averages", (PLAIN + "Total,,210\nAverage,,35\n").encode(),
            found=("totals",)),
    Damaged("notes below", (PLAIN + "\nTaken from the mark book on Friday,,\n").encode(),
            found=("notes",)),
    Damaged("column names again", (PLAIN + "No,Name,Mark\n").encode(), found=("names_again",)),
    Damaged("lost leading zeros", text(rows(lambda n: f"10{n}")).encode(), found=("zeros",)),
    Damaged("numbers made decimals", text(rows(lambda n: f"10{n}.0")).encode(), found=("zeros",)),
    Damaged("numbers made powers", text(rows(lambda n: f"1.0{n}E+02")).encode(), found=("zeros",)),
    Damaged("blanks around numbers", text(rows(lambda n: f"  0010{n}\u00a0 ")).encode()),
    Damaged("numbers behind an apostrophe", text(rows(lambda n: f"'0010{n}")).encode()),
    Damaged("percent signs", text(rows(mark="{} %")).encode()),
    Damaged("thousands marks", text(rows(mark='"1,0{}"')).encode(),
            {n: 1000 + v for n, v in ALL.items()}, found=("number_style_raw",)),
    Damaged("words instead of marks", PLAIN.replace(",10\n", ",abs\n").replace(",20\n", ",x\n")
            .encode(), {**ALL, "00101": None, "00102": None}, found=("codes",)),
    Damaged("a mark that is a word", PLAIN.replace(",10\n", ",good\n").encode(), REST, (2,),
            found=("unknown_code_raw",)),
    Damaged("blank marks", PLAIN.replace(",10\n", ",\n").encode(), {**ALL, "00101": None},
            found=("blank",)),
    Damaged("blank lines and Windows ends", PLAIN.replace("\n", "\r\n\r\n").encode()),
    Damaged("cells over two lines", PLAIN.replace("Ann Smith", '"Ann\nSmith"').encode()),
    Damaged("copies", DOUBLED.encode(), copies=2, found=("copies",)),
    Damaged("two marks for one student", TWO.encode(), REST, (2, 8), found=("two_scores",)),
    Damaged("two marks, the higher kept", TWO.encode(), {**ALL, "00101": 99.0}, (2,),
            said={"decisions": {"two_scores": "higher"}}),
    Damaged("a stranger", (PLAIN + "00999,Nobody Here,5\n").encode(), aside=(8,),
            found=("no_student",)),
    Damaged("a row without a number", (PLAIN + ",Ann Smith,5\n").encode(), aside=(8,),
            found=("no_number",)),
    Damaged("another one's number", PLAIN.replace("00103,Łukasz Wójcik", "00104,Łukasz Wójcik")
            .encode(), {n: v for n, v in ALL.items() if n != "00103"}, (4,),
            found=("name_differs",)),
    Damaged("no column names", PLAIN.split("\n", 1)[1].encode(),
            said={"columns": {"#1": "number", "#2": "full_name", "#3": "score:raw"},
                  "reading": {"header_line": 0}}),
    Damaged("formulas", PLAIN.replace("Ann Smith", "=HYPERLINK(1)&Ann Smith").encode()),
    Damaged("markup", PLAIN.replace("Ann Smith", "<b>Ann</b> Smith<script>").encode()),
    Damaged("columns turned round", text([line[::-1] for line in rows()],
                                         head=("Mark", "Name", "No")).encode()),
    Damaged("columns that nobody knows", text([[*line, "a;b", ""] for line in rows()],
                                              head=("No", "Name", "Mark", "House", "")).encode()),
    Damaged("a workbook of two sheets", book({"About": [["Marks of the spring"]],
            "Marks": [["No", "Name", "Mark"], *[[int(r[0]), r[1], int(r[2])] for r in rows()]]}),
            name="Check.xlsx", found=("zeros",)),
    Damaged("an OpenDocument sheet", ods([["No", "Name", "Mark"], *rows()]), name="Check.ods"),
    Damaged("a Parquet file", parquet(), name="Check.parquet"),
]  # fmt: skip
