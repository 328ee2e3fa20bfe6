"""School years: they begin on 1 August and are named like “2025-26”."""

from __future__ import annotations

import datetime as dt
import re

from bridge_chart.terms.errors import InvalidQuestion

FIRST_MONTH = 8


YEAR_WRITTEN = r"^\s*(?:sy|ay)?\s*(20\d\d)\s*[-/–—]\s*(?:20)?(\d\d)\s*$"
"""How files write a school year: 2025-26, 2025/2026, SY 2025–26."""


def school_year_of(date: dt.date) -> str:
    """The school year that a date lies in.

    >>> school_year_of(dt.date(2026, 5, 12)), school_year_of(dt.date(1999, 9, 1))
    ('2025-26', '1999-00')
    """
    first = date.year if date.month >= FIRST_MONTH else date.year - 1
    return f"{first}-{(first + 1) % 100:02d}"


def year_bounds(name: str) -> tuple[dt.date, dt.date]:
    """First and last day of a school year; InvalidQuestion unless it reads like “2025-26”.

    >>> [str(day) for day in year_bounds("2025-26")]
    ['2025-08-01', '2026-07-31']
    """
    found = re.fullmatch(r"(\d{4})-(\d{2})", name)
    if not found or (int(found[1]) + 1) % 100 != int(found[2]):
        raise InvalidQuestion(f"A school year must read like “2025-26”. It reads “{name}” instead.")
    first = int(found[1])
    return dt.date(first, FIRST_MONTH, 1), dt.date(first + 1, FIRST_MONTH, 1) - dt.timedelta(1)
