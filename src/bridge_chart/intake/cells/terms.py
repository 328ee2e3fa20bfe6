"""When a sitting was, as far as its name or a file's name says: a month or a term of a year."""

from __future__ import annotations

import datetime as dt
import re

from bridge_chart.terms.calendar import year_bounds
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.words import MONTHS

MIDDLE = {"autumn": (11, 15), "winter": (1, 31), "spring": (3, 15), "summer": (6, 15)}
"""The day in the middle of each term."""
TERMS = ("autumn", "spring", "summer")
_SEASON = r"autumn|fall|winter|spring|summer"
_MONTH = r"jan|feb|mar|apr|may|jun|jul|aug|sep|oct|nov|dec"
_MONTHS = _MONTH.split("|")


def day_said(text: str, school_year: str) -> dt.date | None:
    """The day that a name means; None where it names no month or term. Without a year it is the
    one of the school year.

    >>> str(day_said("Spring 2026 mocks", "2025-26")), str(day_said("autumn", "2025-26"))
    ('2026-03-15', '2025-11-15')
    >>> str(day_said("results_june2025.csv", "2025-26")), day_said("2026", "2025-26")
    ('2025-06-15', None)
    """
    plain = re.sub(r"[^a-z0-9]+", " ", text.lower())
    years = [int(found) for found in re.findall(r"(?<!\d)20\d\d(?!\d)", plain)]
    year = years[0] if len(set(years)) == 1 else None
    season = re.search(rf"(?<![a-z])({_SEASON})(?![a-z])", plain)
    if season:
        return day_of_term("autumn" if season[1] == "fall" else season[1], school_year, year)
    month = re.search(rf"(?<![a-z])({_MONTH})[a-z]{{0,6}}(?![a-z])", plain)
    if month and _is_month(month[0].strip()):
        return _within(_MONTHS.index(month[1]) + 1, 15, school_year, year)
    return None


def day_of_term(term: str, school_year: str, year: int | None = None) -> dt.date:
    """The middle of a term of a school year, or of the calendar year that is said."""
    return _within(*MIDDLE[term], school_year, year)


def day_read(text: str) -> dt.date:
    """A day that a person said; InvalidQuestion where there is none such."""
    try:
        return dt.date.fromisoformat(text)
    except ValueError as error:
        raise InvalidQuestion(f"“{text}” is no day.", kept="Nothing was changed.") from error


def _is_month(word: str) -> bool:
    return word in (*_MONTHS, "sept") or word in map(str.lower, MONTHS)


def _within(month: int, day: int, school_year: str, year: int | None) -> dt.date:
    first, last = year_bounds(school_year)
    if year is None:
        year = first.year if month >= first.month else last.year
    return dt.date(year, month, day)
