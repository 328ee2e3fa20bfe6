"""Rosters of the heap: systems, countries, schools' own lists, spreadsheets."""

from __future__ import annotations

import csv
import datetime as dt

from tests.intake.damaged import book, ods
from tests.intake.heap.people import PUPILS, text
from tests.intake.heap.walk import (
    LEFT_OUT,
    NUMBER,
    HeapFile,
    birth,
    characteristic,
    family,
    given,
    in_class,
    names_nothing,
    on_course,
    school,
    taught_by,
    year,
)
from tests.support import Place

MONTHS = ["Jan", "Feb", "Mar", "Apr", "May", "June", "July", "Aug", "Sept", "Oct", "Nov", "Dec"]


def day_first(cell: str) -> dt.date:
    day, month, year_ = cell.replace(".", "/").split("/")
    return dt.date(int(year_) + (2000 if len(year_) == 2 else 0), int(month), int(day))


def in_words(cell: str) -> dt.date:
    day, month, year_ = cell.split()
    return dt.date(int(year_), MONTHS.index(month) + 1, int(day))


def dotted(born: str) -> str:
    return ".".join(reversed(born.split("-")))


def said_in_words(born: str) -> str:
    day = dt.date.fromisoformat(born)
    return f"{day.day} {MONTHS[day.month - 1]} {day.year}"


def _danish() -> HeapFile:
    lines = [
        ["Elevnr", "Fornavn", "Efternavn", "Skole", "Klassetrin", "Klasse", "Køn", "Kommentar"]
    ]
    lines += [[n, g, f, s, "7. klasse", c, {"F": "Pige", "M": "Dreng"}[x], f"note {n}"]
              for n, g, f, _, s, c, x in PUPILS]  # fmt: skip
    said = {
        "columns": {
            "Elevnr": "number",
            "Fornavn": "given_name",
            "Efternavn": "family_name",
            "Skole": "school",
            "Klassetrin": "year_level",
            "Klasse": "class",
        }
    }
    columns = [NUMBER, given(), family(), school(), year(lambda c: int(c[0])), in_class(),
               characteristic("Køn"), LEFT_OUT]  # fmt: skip
    return HeapFile("elever.csv", "roster", lines, text(lines, ";", "utf-8-sig"), columns,
                    {1: "names"}, said)  # fmt: skip


def _utf16() -> HeapFile:
    lines = [["STUDENT_ID", "FIRST_NAME", "SURNAME", "DOB", "SITE", "YR", "TUTOR_GROUP"]]
    lines += [[n, g, f, dotted(b).replace(".", "/"), s, "7", c] for n, g, f, b, s, c, _ in PUPILS]
    data = text(lines, "\t", "utf-16", quoting=csv.QUOTE_ALL)
    columns = [NUMBER, given(), family(), birth(day_first), school(), year(), in_class()]
    return HeapFile("export.txt", "roster", lines, data, columns, {1: "names"})


def _one_school() -> HeapFile:
    mine = [p for p in PUPILS if p[4] == "Ash"]
    lines = [["Register of Ash"], [], ["Adm No", "Pupil", "D.O.B.", "Reg", "House"]]
    lines += [[n, f"{f}, {g}", said_in_words(b), c, "Oak" if x == "F" else "Fir"]
              for n, g, f, b, _, c, x in mine]  # fmt: skip
    lines += [[], ["Total", "4 pupils", "", "", ""]]
    columns = [NUMBER, family(), birth(in_words), in_class(), characteristic("House")]
    return HeapFile("Ash.csv", "roster", lines, text(lines), columns,
                    {1: "title", 3: "names", 9: "total"},
                    {"school": "Ash", "year_level": "7"})  # fmt: skip


def _workbook_dates() -> HeapFile:
    head = ["UPN", "Legal surname", "Legal forename", "Date of birth", "School name", "NC Year",
            "FSM", "EAL"]  # fmt: skip
    typed: list[list[object]] = [list(head)]
    lines = [list(head)]
    for n, g, f, b, s, _, x in PUPILS:
        serial = (dt.date.fromisoformat(b) - dt.date(1899, 12, 30)).days
        typed.append([n, f, g, serial, s, 7, x == "F", "Y" if x == "M" else "N"])
        lines.append([n, f, g, str(serial), s, "7", str(x == "F"), "Y" if x == "M" else "N"])
    columns = [NUMBER, family(), given(),
               birth(lambda c: dt.date(1899, 12, 30) + dt.timedelta(int(c))), school(), year(),
               characteristic("FSM", lambda c: c.upper()), characteristic("EAL")]  # fmt: skip
    return HeapFile("census.xlsx", "roster", lines, book({"Census": typed}), columns,
                    {1: "names"}, {"date_order": "serial"})  # fmt: skip


def _pages() -> HeapFile:
    head = ["No.", "Name", "School", "Class", "Year"]
    lines = [["All pupils", "", "", "", ""], head]
    lines += [[p[0], f"{p[1]} {p[2]}", p[4], p[5], "Year 7"] for p in PUPILS[:4]]
    lines += [["", "", "", "", ""], head]
    lines += [[p[0], f"{p[1]} {p[2]}", p[4], p[5], "Y7"] for p in PUPILS[4:]]
    lines += [["Printed on Monday by the office of the district", "", "", "", ""]]
    columns = [NUMBER, family(), school(), in_class(), year(lambda c: 7)]
    return HeapFile("pages.csv", "roster", lines, text(lines, encoding="cp1252"), columns,
                    {1: "title", 2: "names", 7: "blank", 8: "names_again", 13: "note"})  # fmt: skip


def _sets() -> HeapFile:
    lines = [["Cand No", "Student", "Campus", "Yr Grp", "Teaching group", "Taught by", "Course"]]
    lines += [
        [n, f"{g} {f}", s, "7", group, teacher, course]
        for n, g, f, _, s, c, _ in PUPILS
        for group, teacher, course in (
            (f"{c}Ma", "Ms Moe", "Maths"),
            (f"{c}En", "Mr Ek", "English"),
        )
    ]
    columns = [NUMBER, family(), school(), year(), in_class(), taught_by(), on_course()]
    return HeapFile("sets.csv", "roster", lines, text(lines, "|"), columns, {1: "names"})


def _forms_and_sets() -> HeapFile:
    lines = [["Ref", "Preferred name", "Last name", "School", "Year", "Form", "Set", "Postcode"]]
    lines += [[n, g, f, s, "7", c, f"{c}/Sc1", f"QX{at} {at}ZZ"]
              for at, (n, g, f, _, s, c, _) in enumerate(PUPILS)]  # fmt: skip
    columns = [NUMBER, given(), family(), school(), year(), in_class(), in_class(), LEFT_OUT]
    return HeapFile("forms.csv", "roster", lines, text(lines), columns, {1: "names"})


def _many_areas() -> HeapFile:
    lines = [["Student id", "School", "Year", "Area"]]
    lines += [[p[0], p[4], "7", f"Quarter {at}"] for at, p in enumerate(PUPILS)]
    columns = [NUMBER, school(), year(), characteristic("Area")]
    return HeapFile("areas.csv", "roster", lines, text(lines), columns, {1: "names"},
                    {"columns": {"Area": "characteristic"}})  # fmt: skip


def _years() -> HeapFile:
    lines = [["Academic year", "Number", "School", "Year"]]
    lines += [["2024/25", p[0], p[4], "6"] for p in PUPILS[:3]]
    lines += [["2025/26", p[0], p[4], "7"] for p in PUPILS]
    lines += [["this year", "00999", "Ash", "7"]]
    columns = [names_nothing(), NUMBER, school(), year()]
    rows = {1: "names", 2: "other", 3: "other", 4: "other", 13: "aside school year"}
    return HeapFile("years.csv", "roster", lines, text(lines), columns, rows, at=1)


def _holes() -> HeapFile:
    lines = [["Number", "Name", "School", "Year", "", ""],
             ["00101", "Ida Öster", "Ash", "7", "", ""], ["", "", "", "", "", ""],
             ["", "Nobody Known", "Ash", "7", "", ""], ["00102", "Bo Lind", "", "7", "", ""],
             ["00103", "Cyd O'Hara", "Ash", "seven-ish", "", ""],
             ["00101", "Ida Öster", "Ash", "7", "", ""]]  # fmt: skip
    rows = {1: "names", 3: "blank", 4: "aside student number", 5: "aside school", 7: "copy"}
    columns = [NUMBER, family(), school(), year(lambda c: -1 if "-" in c else int(c))]
    return HeapFile("holes.csv", "roster", lines, text(lines), columns, rows)


def _two_schools_for_one() -> HeapFile:
    lines = [["Number", "School", "Year", "Class"], ["00101", "Ash", "7", "7A"],
             ["00101", "Elm Hill", "7", "7A"], ["00102", "Ash", "7", "7A"]]  # fmt: skip
    rows = {1: "names", 2: "aside contradicted", 3: "aside contradicted"}
    columns = [NUMBER, school(), year(), in_class()]
    return HeapFile("twice.csv", "roster", lines, text(lines), columns, rows)


def _hostile() -> HeapFile:
    lines = [["Number", "First name", "Surname", "School", "Year"],
             ["00101", '=HYPERLINK("http://x","y")', "<script>alert(1)</script>", "Ash", "7"],
             ["00102", "Bo\nBa", 'Quote "in" it', "Ash", "7"],
             ["00103", "'@SUM(A1)", "x" * 400, "Ash", "7"]]  # fmt: skip
    columns = [NUMBER, given(lambda c: c.removeprefix("'")), family(), school(), year()]
    return HeapFile("hostile.csv", "roster", lines, text(lines), columns, {1: "names"})


def _joined_names() -> HeapFile:
    def before(place: Place) -> None:
        place.bring(
            "names",
            "What,Name,Of,Means\nvalue,M,Sex,Male\nvalue,Boy,Sex,Male\n"
            "value,F,Sex,Female\nschool,Ash Sch.,,Ash\ncharacteristic,Gender,,Sex\n",
        )

    lines = [["Number", "School", "Year", "Gender"]]
    lines += [[p[0], ("Ash Sch.", "Ash")[at % 2], "7", ("F", "Boy", "M", "F")[at % 4]]
              for at, p in enumerate(PUPILS)]  # fmt: skip
    means = {"F": "Female", "Boy": "Male", "M": "Male"}
    columns = [NUMBER, school(lambda c: "Ash"), year(), characteristic("Sex", lambda c: means[c])]
    return HeapFile("gender.csv", "roster", lines, text(lines), columns, {1: "names"},
                    before=before)  # fmt: skip


def _packed() -> HeapFile:
    lines = [["Learner ID", "Learner name", "Establishment", "Curriculum year"]]
    lines += [[p[0], f"{p[1]} {p[2]}", p[4], "7"] for p in PUPILS]
    columns = [NUMBER, family(), school(), year()]
    return HeapFile("learners.csv", "roster", lines, text(lines, encoding="utf-16-le"), columns,
                    {1: "names"})  # fmt: skip


def _open_document() -> HeapFile:
    lines = [["Nr", "School", "Year", "Bus"]]
    lines += [[p[0], p[4], "7", "yes" if p[6] == "F" else "no"] for p in PUPILS]
    columns = [NUMBER, school(), year(), characteristic("Bus")]
    return HeapFile("bus.ods", "roster", lines, ods(lines), columns, {1: "names"})


def _no_names() -> HeapFile:
    lines = [[p[0], p[4], "7", p[5]] for p in PUPILS]
    said = {
        "reading": {"header_line": 0},
        "columns": {"#1": "number", "#2": "school", "#3": "year_level", "#4": "class"},
    }
    columns = [NUMBER, school(), year(), in_class()]
    return HeapFile("bare.csv", "roster", lines, text(lines), columns, {}, said)


ROSTERS = [
    _danish(), _utf16(), _one_school(), _workbook_dates(), _pages(), _sets(), _forms_and_sets(),
    _many_areas(), _years(), _holes(), _two_schools_for_one(), _hostile(), _joined_names(),
    _packed(), _open_document(), _no_names(),
]  # fmt: skip
