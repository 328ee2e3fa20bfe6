"""Heads of columns as schools write them, and what values say where a head says nothing."""

from __future__ import annotations

import datetime as dt

import polars as pl
import pytest
from tests.support import Place

from bridge_chart.intake.cells.values import dates

ROSTER = {
    "Unique Pupil Number": "number", "Adm. No.": "number", "D.O.B.": "birth_date",
    "Date of birth (dd/mm/yyyy)": "birth_date", "Reg": "form", "Reg Group": "form",
    "Tutor group": "form", "Cls": "class", "Class Code": "class", "Forenames": "given_name",
    "Preferred Forename": "given_name", "Legal Surname": "family_name", "NC Year": "year_level",
    "Yr Grp": "year_level", "Sch": "school", "Teacher(s)": "teacher",
}  # fmt: skip
RESULTS = {
    "Outcome": "score:raw", "Actual": "score:raw", "Mark /80": "score:raw",
    "Std Score": "score:scaled", "Score %": "score:percent", "Est. Grade": "predicted",
    "Exam date": "date", "Date taken": "date", "Cand No": "number",
}  # fmt: skip
CELLS = {"birth_date": "03/04/2014", "date": "03/04/2026", "year_level": "8", "number": "001",
         "predicted": "B"}  # fmt: skip


@pytest.fixture
def known(place: Place) -> Place:
    rows = "".join(f"{n:03d},{'Ash' if n % 2 else 'St Birch'},8\n" for n in range(20))
    place.bring("roster", f"Number,School,Year\n{rows}", academic_year="2025-26")
    return place


def roles(place: Place, kind: str, head: str, cells: list[str]) -> dict[str, str]:
    number = "" if "number" in (ROSTER | RESULTS).get(head, "") else "Number;"
    school = "" if head == "Sch" else "School;" if kind == "roster" else ""
    mark = "" if kind == "roster" or "score" in (ROSTER | RESULTS).get(head, "") else "Mark;"
    lines = [
        f"{f'{n:03d};' if number else ''}{'Ash;' if school else ''}{'7;' if mark else ''}{cell}"
        for n, cell in enumerate(cells)
    ]
    text = "\n".join([f"{number}{school}{mark}{head}", *lines]) + "\n"
    told = {"academic_year": "2025-26"} if kind == "roster" else {"date": "2026-05-01"}
    shown = place.look(kind, text, **told).examination
    return {column.header: column.role for column in shown.columns}


@pytest.mark.parametrize(("head", "role"), ROSTER.items())
def test_heads_of_rosters(known: Place, head: str, role: str) -> None:
    cells = [CELLS.get(role, "Ash") if role != "number" else f"{n:03d}" for n in range(3)]
    assert roles(known, "roster", head, cells)[head] == role


@pytest.mark.parametrize(("head", "role"), RESULTS.items())
def test_heads_of_results(known: Place, head: str, role: str) -> None:
    cells = [CELLS.get(role, "12") if role != "number" else f"{n:03d}" for n in range(3)]
    assert roles(known, "results", head, cells)[head] == role


def test_outcomes_in_grades_are_grades(known: Place) -> None:
    assert roles(known, "results", "Outcome", ["A", "B", "C"])["Outcome"] == "score:grade"


def test_a_column_of_known_schools_is_the_school(known: Place) -> None:
    text = "Number,Place\n001,Ash\n002,st birch\n003,Cedar\n"
    shown = known.look("roster", text, academic_year="2026-27").examination
    assert [c.role for c in shown.columns] == ["number", "school"]
    assert shown.columns[1].why == "its values are names of schools"


def test_marks_are_never_below_nought(known: Place) -> None:
    told = roles(known, "results", "Score", ["-1.2", "0.4", "1.1"])
    assert told["Score"] == "score:scaled"


@pytest.mark.parametrize("text", ["3-Sep-13", "3 Sept 2013", "3rd Sept 2013",
                                  "Tue 3 September 2013", "2013/09/03",
                                  "Sept 3, 2013"])  # fmt: skip
def test_dates_as_people_write_them(text: str) -> None:
    assert dates(pl.Series([text])).values.to_list() == [dt.date(2013, 9, 3)]
