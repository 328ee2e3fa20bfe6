"""More of the heap: tables of others, several tables in a book, odd signs, names that repeat."""

from __future__ import annotations

import csv

from tests.intake.damaged import book
from tests.intake.heap.people import NUMBERS, PUPILS, base, text
from tests.intake.heap.results import DATED, NAME, eight, results
from tests.intake.heap.walk import (
    LEFT_OUT,
    NUMBER,
    Fate,
    HeapFile,
    in_table,
    school,
    score,
    year,
)
from tests.support import Place

from bridge_chart.store.snapshot import Snapshot


def _national() -> HeapFile:
    lines = [["National results of 2026"], ["Subject", "Year", "Entries", "Average score", "P10",
             "P90", "Source"], ["Reading", "7", "51000", "101.2", "81", "119", "office"],
             ["Maths", "7", "50900", "99.8", "80", "118", "office"]]  # fmt: skip
    read = in_table("national")
    columns = [read, read, read, read, read, read, LEFT_OUT]
    return HeapFile("nation.csv", "national", lines, text(lines), columns, {1: "title", 2: "names"},
                    {"test": "Check", "score": "scaled"}, number=lambda c: "")  # fmt: skip


def _conversion() -> HeapFile:
    lines = [["Raw mark", "Scaled", "Rank"], ["0", "70", "1"], ["1", "74", "3"], ["2", "", "9"]]
    read = in_table("conversion")
    said = {"test": "Check", "score": "raw",
            "columns": {"Raw mark": "value", "Scaled": "becomes", "Rank": "becomes"}}  # fmt: skip
    return HeapFile("convert.csv", "conversion", lines, text(lines), [read] * 3, {1: "names"}, said,
                    number=lambda c: "")  # fmt: skip


def _scale() -> HeapFile:
    lines = [["Grade", "Points", "Pass", "Also written", "Colour"],
             ["U", "0", "no", "X|nil", "red"],
             ["C", "1", "yes", "", "amber"], ["A", "2", "yes", "A star", "green"]]  # fmt: skip
    read = in_table("scale")
    columns = [read, read, Fate("yes or no", lambda s, at, cell: None), read, LEFT_OUT]
    return HeapFile(
        "grades.csv",
        "scale",
        lines,
        text(lines),
        columns,
        {1: "names"},
        {"test": "Finals", "columns": {"Grade": "step"}},
        number=lambda c: "",
    )


def _credits() -> HeapFile:
    lines = [["Learner", "Standard", "Title", "Level", "Credits", "Result", "Banked or estimated",
              "Room"], ["00101", "AS90001", "Number", "1", "4", "Merit", "banked", "B2"],
             ["00102", "AS90001", "Number", "1", "4", "", "estimated", "B2"],
             ["00103", "AS90002", "Shape", "1", "lots", "Merit", "banked", "B2"]]  # fmt: skip
    columns = [NUMBER, *[Fate("credit", lambda s, at, cell: None)] * 6, LEFT_OUT]

    def holds(place: Place, plan: object) -> None:
        assert place.scalar(
            "SELECT string_agg(standard || title || level || credits || result || estimated, '/' "
            "ORDER BY row) FROM credit"
        ) == "AS90001Number14Meritfalse/AS90001Number14true"  # fmt: skip

    return HeapFile("credits.csv", "credits", lines, text(lines), columns,
                    {1: "names", 4: "aside credits"}, DATED, before=base, holds=holds)  # fmt: skip


def _two_tables() -> HeapFile:
    sheet = [["Number", "Score"], *eight([str(n) for n in range(8)])]
    data = book({"Read me": [["How to use this book"]], "Marks": [list(line) for line in sheet]})
    return results("book.xlsx", sheet, data, [NUMBER, score("raw", "autumn")],
                   said={"reading": {"table": "Marks"}})  # fmt: skip


def _line_breaks() -> HeapFile:
    lines = [["Number", "Score\n(out of 60)", "Remark"],
             *eight([str(n) for n in range(8)], ["first\nsecond"] * 8)]  # fmt: skip
    # Lines of the file are counted as an editor shows them: the head takes two, a row two.
    shown: list[list[str]] = [lines[0], []]
    for line in lines[1:]:
        shown += [line, []]
    return results("breaks.csv", shown, text(lines, quoting=csv.QUOTE_ALL),
                   [NUMBER, score("raw", "autumn"), LEFT_OUT], {1: "names"})  # fmt: skip


def _odd_signs() -> HeapFile:
    cells = ["\u00a012", "13\u202f", "1\u00a0004", "\ufeff15", "16\u200b", "+17", "018", "19.0"]
    lines = [["Number", "Points"], *eight(cells)]

    def plain(cell: str) -> float:
        return float("".join(c for c in cell if c.isdigit() or c == "."))

    return results(
        "signs.csv", lines, text(lines, ";"), [NUMBER, score("raw", "autumn", read=plain)]
    )


def _names_that_repeat() -> HeapFile:
    lines = [["Number", "Score", "Score", "Grade"],
             *eight([str(n) for n in range(8)], [str(n) for n in range(8)], ["A"] * 8)]  # fmt: skip
    columns = [NUMBER, score("raw", "autumn"), LEFT_OUT, score("grade", "autumn", read=str)]
    return results("twice.csv", lines, text(lines), columns)


def _status() -> HeapFile:
    lines = [["Number", "Attendance", "Score"],
             *eight(["sat", "absent", "sat", "exempt", "sat", "sat", "sat", "sat"],
                    ["5", "", "6", "", "7", "8", "9", "4"])]  # fmt: skip

    def status(snapshot: Snapshot, at: int, cell: str) -> None:
        (key,) = snapshot.measures
        codes = {"sat": 1, "absent": 2, "exempt": 3}
        assert int(snapshot.status(key)[at]) == codes[cell]

    columns = [NUMBER, Fate("status", status), score("raw", "autumn")]
    return results("status.csv", lines, text(lines), columns)


def _name_first() -> HeapFile:
    lines = [["Pupil name", "Class", "Adm. no.", "Reading SS", "Spelling SS", "Rank"]]
    lines += [[f"{p[2].upper()}, {p[1]}", p[5], p[0], str(90 + at), str(100 + at), str(at + 1)]
              for at, p in enumerate(PUPILS)]  # fmt: skip
    columns = [NAME, LEFT_OUT, NUMBER, score("scaled", "autumn", "Reading"),
               score("scaled", "autumn", "Spelling"), LEFT_OUT]  # fmt: skip
    return results("reading and spelling.csv", lines, text(lines), columns, at=2)


def _sections() -> HeapFile:
    head = ["Number", "Score"]
    lines = [["Class 7A", ""], head, ["00101", "4"], ["00102", "5"], ["", ""], ["Class 7B", ""],
             head,
             ["00103", "6"], ["00104", "7"], ["Average", "5.5"]]  # fmt: skip
    rows = {1: "title", 2: "names", 5: "blank", 6: "aside", 7: "names_again", 10: "total"}
    return results("sections.csv", lines, text(lines), [NUMBER, score("raw", "autumn")], rows)


def _capitals() -> HeapFile:
    lines = [["NUMBER", "SCHOOL", "YEAR"], *[[p[0], p[4].upper(), "7"] for p in PUPILS]]
    proper = {p[4].upper(): p[4] for p in PUPILS}
    said = {"as_of": "2026-02-01",
            "decisions": {f"near_school:{name}": "same" for name in proper}}  # fmt: skip
    return HeapFile(
        "capitals.csv",
        "roster",
        lines,
        text(lines),
        [NUMBER, school(lambda c: proper[c]), year()],
        {1: "names"},
        said,
        before=base,
    )


def _semicolons_in_a_comma_file() -> HeapFile:
    lines = [["Number", "Score", "Comment"],
             *eight([str(n) for n in range(8)], ["late; ill; and, tired"] * 8)]  # fmt: skip
    return results("comments.csv", lines, text(lines), [NUMBER, score("raw", "autumn"), LEFT_OUT])


def _numbers_as_names() -> HeapFile:
    lines = [["Quux", "Result"], *[[n, str(at)] for at, n in enumerate(NUMBERS)]]
    return results("unknown head.csv", lines, text(lines), [NUMBER, score("raw", "autumn")])


MORE = [
    _national(), _conversion(), _scale(), _credits(), _two_tables(), _line_breaks(), _odd_signs(),
    _names_that_repeat(), _status(), _name_first(), _sections(), _capitals(),
    _semicolons_in_a_comma_file(), _numbers_as_names(),
]  # fmt: skip
