"""Results of the heap: mark books, exports of others, trackers, spreadsheets gone wrong."""

from __future__ import annotations

import datetime as dt
import gzip
import io

import polars as pl
from tests.intake.damaged import book, ods
from tests.intake.heap.people import NUMBERS, PUPILS, base, comma, text, zeros
from tests.intake.heap.walk import (
    LEFT_OUT,
    NUMBER,
    Fate,
    HeapFile,
    Line,
    mark,
    names_a,
    score,
)
from tests.support import Place

NAME = Fate("name", lambda s, at, cell: None)
DATED = {"date": "2025-11-05"}


def results(
    name: str, lines: list[Line], data: bytes, columns: list[Fate],
    rows: dict[int, str] | None = None,
    said: dict[str, object] | None = None, **more: object,
) -> HeapFile:  # fmt: skip
    told = {**DATED, "test": "Check", "sitting": "autumn", **(said or {})}
    return HeapFile(name, "results", lines, data, columns, rows or {1: "names"}, told,
                    before=base, **more)  # type: ignore[arg-type]  # fmt: skip


def eight(*columns: list[str]) -> list[Line]:
    """A line per student: number, then a cell of each column."""
    return [[n, *(column[at] for column in columns)] for at, n in enumerate(NUMBERS)]


def _decimal_commas() -> HeapFile:
    lines = [["Number", "Scaled"], *eight([f"0,{600 + n}" for n in range(8)])]
    return results("comma.csv", lines, text(lines, ";"),
                   [NUMBER, score("scaled", "autumn", read=comma)])  # fmt: skip


def _thousands() -> HeapFile:
    cells = ["1,024", "998", "1,100", "876", "1,250", "999", "901", "1,003"]
    lines = [["Number", "Points"], *eight(cells)]
    return results("thousands.csv", lines, text(lines, ";"),
                   [NUMBER, score("raw", "autumn", read=lambda c: float(c.replace(",", "")))],
                   said={"decisions": {"number_style_raw": "point"}})  # fmt: skip


def _lost_zeros() -> HeapFile:
    lines = [["Number", "Mark"], *[[n.lstrip("0") + ".0", str(at)] for at, n in enumerate(NUMBERS)]]
    return results("excel.csv", lines, text(lines), [NUMBER, score("raw", "autumn")], number=zeros)


def _apostrophes() -> HeapFile:
    lines = [["Number", "Mark"], *[["'" + n, str(at)] for at, n in enumerate(NUMBERS)]]
    return results("kept as text.csv", lines, text(lines), [NUMBER, score("raw", "autumn")],
                   number=lambda c: c.removeprefix("'"))  # fmt: skip


def _percent() -> HeapFile:
    lines = [["Number", "Result (%)"], *eight([f"{50 + n}%" for n in range(8)])]
    return results("percent.csv", lines, text(lines),
                   [NUMBER, score("percent", "autumn", read=lambda c: float(c[:-1]))])  # fmt: skip


CODES = {"abs": "absent", "X": "exempt", "-": "not_sat", "W": "withheld"}


def coded(cell: str) -> object:
    return CODES.get(cell) or float(cell)


def _codes() -> HeapFile:
    lines = [["Number", "Score"], *eight(["12", "abs", "X", "-", "W", "3", "0", "19"])]
    return results("codes.csv", lines, text(lines), [NUMBER, score("raw", "autumn", read=coded)])


def _errors_of_a_spreadsheet() -> HeapFile:
    lines = [
        ["Number", "Score"],
        *eight(["12", "#N/A", "#REF!", "4", "#DIV/0!", "3", "see me", "19"]),
    ]
    rows = {1: "names", 3: "aside", 4: "aside", 6: "aside", 8: "aside"}
    return results("errors.csv", lines, text(lines), [NUMBER, score("raw", "autumn")], rows)


def _unknown_people() -> HeapFile:
    lines = [["Number", "Name", "Score"], ["00101", "Ida Öster", "5"], ["77777", "No One", "6"],
             ["", "Blank Number", "7"], ["00102", "Bo Lind-Åkers", "8"]]  # fmt: skip
    rows = {1: "names", 3: "aside", 4: "aside"}
    return results(
        "strangers.csv", lines, text(lines), [NUMBER, NAME, score("raw", "autumn")], rows
    )


def _copies() -> HeapFile:
    lines = [["Number", "Score"], ["00101", "5"], ["00102", "6"], ["00101", "5"]]
    return results("copies.csv", lines, text(lines), [NUMBER, score("raw", "autumn")],
                   {1: "names", 4: "copy"})  # fmt: skip


def _two_scores() -> HeapFile:
    lines = [["Number", "Score"], ["00101", "5"], ["00102", "6"], ["00101", "9"]]
    return results("resit.csv", lines, text(lines), [NUMBER, score("raw", "autumn")],
                   {1: "names", 2: "aside two different scores"},
                   {"decisions": {"two_scores": "higher"}})  # fmt: skip


def _merged_workbook() -> HeapFile:
    typed: list[list[object]] = [
        ["Autumn assessments", "", "", "", "", ""],
        ["", "", "Maths", "", "English", ""],
        ["Adm no", "Pupil", "mark /80", "grade", "mark /60", "grade"],
    ]
    lines = [[str(c) for c in line] for line in typed]
    for at, p in enumerate(PUPILS):
        row: list[object] = [
            int(p[0]),
            f"{p[2]}, {p[1]}",
            40 + at,
            "ABC"[at % 3],
            20 + at,
            "BCD"[at % 3],
        ]
        typed.append(row)
        lines.append([str(c) for c in row])
    columns = [
        NUMBER,
        NAME,
        score("raw", "autumn", "Maths"),
        score("grade", "autumn", "Maths", str),
        score("raw", "autumn", "English"),
        score("grade", "autumn", "English", str),
    ]
    return results("Autumn.xlsx", lines, book({"Y7": typed}), columns,
                   {1: "title", 2: "told", 3: "told"}, number=zeros)  # fmt: skip


def _question_marks() -> HeapFile:
    lines = [
        ["Number", "Name", "Q1", "Q2", "Q3", "Comment"],
        ["", "Topic", "Number", "Shape", "Shape", ""],
        ["", "Out of", "2", "3", "5", ""],
    ]
    lines += [[p[0], p[1], str(at % 3), str(at % 4), str(at % 6), "well done"]
              for at, p in enumerate(PUPILS)]  # fmt: skip
    columns = [
        NUMBER,
        NAME,
        mark("Q1", "autumn"),
        mark("Q2", "autumn"),
        mark("Q3", "autumn"),
        LEFT_OUT,
    ]

    def holds(place: Place, plan: object) -> None:
        told = place.snapshot.tables.questions("Check", None, "autumn", None).values()
        assert [(q.name, q.maximum, q.tags["topic"]) for q in told] == [
            ("Q1", 2, "Number"), ("Q2", 3, "Shape"), ("Q3", 5, "Shape"),
        ]  # fmt: skip

    return results("paper.csv", lines, text(lines), columns,
                   {1: "names", 2: "told", 3: "told"}, holds=holds)  # fmt: skip


def _several_tests() -> HeapFile:
    lines = [["Student", "Assessment", "Learning area", "Date taken", "Std score", "Stanine"]]
    for at, n in enumerate(NUMBERS):
        lines.append([n, "Reading check", "Reading", "03/10/2025", str(90 + at), str(1 + at)])
        lines.append([n, "Number check", "Maths", "21/10/2025", str(100 + at), str(1 + at)])
    day = lambda c: dt.date(2025, 10, int(c[:2]))  # noqa: E731
    columns = [NUMBER, names_a("test"), names_a("subject"), names_a("date", day),
               Fate("score", lambda s, at, cell: None), LEFT_OUT]  # fmt: skip

    def holds(place: Place, plan: object) -> None:
        snapshot = place.snapshot
        told = {
            (m.assessment.name, str(m.date)): snapshot.values(m).tolist() for m in snapshot.measures
        }
        assert told == {
            ("Reading check", "2025-10-03"): [90.0 + n for n in range(8)],
            ("Number check", "2025-10-21"): [100.0 + n for n in range(8)],
        }

    return HeapFile("both.csv", "results", lines, text(lines), columns, {1: "names"},
                    {"sitting": "autumn"}, before=base, holds=holds)  # fmt: skip


def _fine_grades() -> HeapFile:
    grades = ["4-", "4=", "4+", "5-", "5", "5+", "6-", "9"]
    lines = [["Number", "Grade"], *eight(grades)]

    def holds(place: Place, plan: object) -> None:
        (key,) = place.snapshot.measures
        assert [s.replace("−", "-").replace("=", "") for s in key.steps] == [
            g.replace("=", "") for g in grades
        ]

    columns = [NUMBER, Fate("grade", lambda s, at, cell: None)]
    return results("fine.csv", lines, text(lines), columns, holds=holds)


def _claims() -> HeapFile:
    lines = [
        ["Number", "Maths grade", "Maths target", "Maths predicted", "Effort"],
        *eight(["5", "6", "7", "4", "5", "6", "7", "8"], ["7"] * 8, ["6"] * 8, ["A"] * 8),
    ]
    columns = [NUMBER, score("grade", "autumn", "Maths", str),
               score("grade", "autumn", "Maths", str, "target"),
               score("grade", "autumn", "Maths", str, "predicted"), LEFT_OUT]  # fmt: skip
    return results("claims.csv", lines, text(lines), columns)


def _pattern() -> HeapFile:
    kinds = ("CA", "Tgt", "Eff", "%")
    heads = [f"{s}_{t}_{k}" for s in ("Ma", "En", "Sc") for t in ("Aut", "Spr") for k in kinds]
    lines = [["Number", *heads]]
    lines += [[n, *(["4", "6", "B", str(50 + at)] * 6)] for at, n in enumerate(NUMBERS)]
    columns = [NUMBER]
    for subject in ("Ma", "En", "Sc"):
        for sitting in ("Aut", "Spr"):
            columns += [score("grade", sitting, subject, str),
                        score("grade", sitting, subject, str, "target"), LEFT_OUT,
                        score("percent", sitting, subject)]  # fmt: skip
    said = {"pattern": "{subject}_{sitting}_{kind}", "sitting": "",
            "kinds": {"CA": "score:grade", "Tgt": "target", "Eff": "ignore"}}  # fmt: skip
    return results("tracker.csv", lines, text(lines, "\t"), columns, said=said)


def _negative() -> HeapFile:
    lines = [
        ["Number", "Score"],
        *eight(["-1.2", "0.4", "−0.3", "1.1", "-0.8", "0.0", "2.1", "-2.5"]),
    ]
    return results(
        "standard.csv",
        lines,
        text(lines),
        [NUMBER, score("scaled", "autumn", read=lambda c: float(c.replace("−", "-")))],
    )


def _parquet() -> HeapFile:
    lines = [["Number", "Score"], *eight([str(float(n)) for n in range(8)])]
    out = io.BytesIO()
    pl.DataFrame({"Number": NUMBERS, "Score": [float(n) for n in range(8)]}).write_parquet(out)
    # Lines of a Parquet file are counted from its first row on.
    return results(
        "frame.parquet", lines[1:], out.getvalue(), [NUMBER, score("raw", "autumn")], {0: "names"}
    )


def _packed() -> HeapFile:
    lines = [["Number", "Score"], *eight([str(n) for n in range(8)])]
    return results(
        "scores.csv", lines, gzip.compress(text(lines)), [NUMBER, score("raw", "autumn")]
    )


def _wide_ods() -> HeapFile:
    lines = [["Pupil no", "Autumn", "Spring", "Summer"]]
    lines += eight(["1", "2", "3", "4", "5", "6", "7", "8"], ["2"] * 8, ["3"] * 8)
    columns = [NUMBER, *(score("raw", s) for s in ("Autumn", "Spring", "Summer"))]
    return results("terms.ods", lines, ods(lines), columns, said={"sitting": ""})


def _two_forms() -> HeapFile:
    lines = [["Number", "Autumn form", "Maths Autumn", "Spring form", "Maths Spring"]]
    lines += eight(["A"] * 8, [str(n) for n in range(8)], ["B"] * 8, [str(n + 1) for n in range(8)])

    def form(sitting: str) -> Fate:
        def check(snapshot, at, cell):  # type: ignore[no-untyped-def]
            key = next(m for m in snapshot.measures if m.sitting.name == sitting)
            names = {f.id: f.name for f in key.forms}
            assert names[int(snapshot.form(key)[at])] == cell

        return Fate("form", check)

    columns = [NUMBER, form("Autumn"), score("raw", "Autumn", "Maths"), form("Spring"),
               score("raw", "Spring", "Maths")]  # fmt: skip
    return results("forms.csv", lines, text(lines), columns, said={"sitting": ""})


RESULTS = [
    _decimal_commas(), _thousands(), _lost_zeros(), _apostrophes(), _percent(), _codes(),
    _errors_of_a_spreadsheet(), _unknown_people(), _copies(), _two_scores(), _merged_workbook(),
    _question_marks(), _several_tests(), _fine_grades(), _claims(), _pattern(), _negative(),
    _parquet(), _packed(), _wide_ods(), _two_forms(),
]  # fmt: skip
