"""The small readers: cells, columns, names, school years, one by one."""

from __future__ import annotations

import datetime as dt

import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bridge_chart.intake.cells.names import near_name, near_pairs
from bridge_chart.intake.cells.values import CODE_MEANS, dates, numbers, year_levels
from bridge_chart.intake.columns.columns import understand
from bridge_chart.intake.reading.read import read_sheet
from bridge_chart.intake.said.settings import IntakeSettings, within_year
from bridge_chart.output.csv import safe
from bridge_chart.terms.calendar import school_year_of, year_bounds
from bridge_chart.terms.errors import BridgeError, InvalidQuestion


@pytest.mark.parametrize(
    ("cell", "value"),
    [("12", 12.0), ("007", 7.0), ("3.5", 3.5), ("3,5", 3.5), ("-2", -2.0), ("−2", -2.0),
     ("+4", 4.0), ("", None), ("abs", None), ("1e3", None), ("12 ", None), ("1,234.5", 1234.5),
     ("1.234,5", 1234.5), ("1 234", 1234.0), ("1,23,4", None), ("85%", 85.0),
     ("NaN", None), ("inf", None), ("0x1F", None), ("½", None), ("٣", None),
     ("12345678901234", None)],
)  # fmt: skip
def test_only_plain_numbers_are_numbers(cell: str, value: float | None) -> None:
    assert numbers(pl.Series([cell])).to_list() == [value]


@pytest.mark.parametrize(
    ("cells", "order", "first"),
    [(["2026-05-12"], "iso", dt.date(2026, 5, 12)),
     (["12/05/2026", "31/12/2025"], "dmy", dt.date(2026, 5, 12)),
     (["12/05/2026", "12/31/2025"], "mdy", dt.date(2026, 12, 5)),
     (["12.05.2026"], "dmy", dt.date(2026, 5, 12)), (["12-5-2026"], "dmy", dt.date(2026, 5, 12)),
     (["12/05/2026 00:00:00"], "dmy", dt.date(2026, 5, 12)), (["12/05/0026"], "iso", None),
     (["12 May 2026"], "dmy", dt.date(2026, 5, 12)), (["3/4/26"], "dmy", dt.date(2026, 4, 3)),
     (["May 12, 2026"], "mdy", dt.date(2026, 5, 12)), (["20260512"], "iso", dt.date(2026, 5, 12)),
     (["Tue 12th May 2026"], "dmy", dt.date(2026, 5, 12)),
     (["46154"], "serial", dt.date(2026, 5, 12)), (["12345"], "iso", None)],
)  # fmt: skip
def test_dates_in_their_orders(cells: list[str], order: str, first: dt.date | None) -> None:
    read = dates(pl.Series(cells))
    assert (read.order, read.values[0]) == (order, first)


@given(st.dates(dt.date(1950, 1, 1), dt.date(2090, 1, 1)))
def test_dates_come_back_in_every_order(date: dt.date) -> None:
    for order, text in (("iso", "%Y-%m-%d"), ("dmy", "%d/%m/%Y"), ("mdy", "%m/%d/%Y")):
        assert dates(pl.Series([date.strftime(text)]), order).values.to_list() == [date]


def test_year_levels_and_codes() -> None:
    cells = pl.Series(["8", "Year 8", "Y08", "yr 11", "Grade 3", "R", "108", "8A"])
    assert year_levels(cells).to_list() == [8, 8, 8, 11, 3, None, None, None]
    assert len(CODE_MEANS) == len(set(CODE_MEANS))
    assert all(word == word.lower() for word in CODE_MEANS)


@pytest.mark.parametrize(
    ("header", "role"),
    [("Student No", "number"), ("PUPIL_ID", "number"), ("admission number", "number"),
     ("Surname", "family_name"), ("First name", "given_name"), ("Name", "full_name"),
     ("Assessment", "test"), ("Learning area", "subject"), ("Term", "sitting"),
     ("Scale score", "score:scaled"), ("% correct", "score:percent"), ("Mark", "score:raw"),
     ("Performance level", "score:level"), ("Comment", "ignore")],
)  # fmt: skip
def test_columns_by_their_usual_names(header: str, role: str) -> None:
    sheet = read_sheet("f.csv", f"{header},zz\n1,a\n2,b\n3,a\n".encode())
    assert understand("results", sheet, IntakeSettings())[0].role == role


def test_a_name_alone_does_not_make_a_date() -> None:
    sheet = read_sheet("f.csv", b"Number,Date\n1,soon\n2,later\n")
    assert understand("results", sheet, IntakeSettings())[1].role == "ignore"


@pytest.mark.parametrize(
    ("name", "known", "near"),
    [("Netherbey", ["Netherby"], "Netherby"), ("netherby", ["Netherby"], "Netherby"),
     ("St. Osks", ["St Osk's"], "St Osk's"), ("Tarn", ["Tarn", "Tarm"], None),
     ("Hollin", ["Brackwater"], None), ("Year 7 test", ["Year 8 test"], None),
     ("Paper A", ["Paper B"], None), ("Reading", ["Writing"], None), ("", ["Tarn"], None)],
)  # fmt: skip
def test_near_names(name: str, known: list[str], near: str | None) -> None:
    assert near_name(name, known) == near


def test_a_rare_name_beside_a_frequent_one_is_a_slip_and_two_frequent_ones_are_two() -> None:
    assert near_pairs({"Mallowley": 300, "Mallowlay": 3}, []) == [("Mallowlay", "Mallowley")]
    assert near_pairs({"Mallowley": 300, "Fallowley": 280}, []) == []


@given(st.dates(dt.date(1950, 1, 1), dt.date(2090, 1, 1)))
def test_every_date_lies_in_its_school_year(date: dt.date) -> None:
    year = school_year_of(date)
    first, last = year_bounds(year)
    assert first <= date <= last
    assert within_year(date, year) == date
    assert (last - first).days in (364, 365)


@pytest.mark.parametrize("year", ["2025", "2025-27", "25-26", "2025-2026", ""])
def test_what_is_no_school_year(year: str) -> None:
    with pytest.raises(InvalidQuestion, match="must read like"):
        year_bounds(year)
    if year:
        with pytest.raises((BridgeError, ValueError)):
            IntakeSettings(academic_year=year).year(dt.date(2026, 1, 1))


@given(st.text(max_size=20))
def test_no_exported_text_begins_a_formula(text: str) -> None:
    assert not str(safe(text)).startswith(("=", "+", "-", "@", "\t", "\r"))
    assert str(safe(text)).removeprefix("'").endswith(text.removeprefix("'"))
