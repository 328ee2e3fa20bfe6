"""What a person or a mapping file says about one file: format of our own, docs/formats.md."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.calendar import school_year_of, year_bounds


class IntakeSettings(BaseModel):
    """Everything that shapes how a file is understood. Empty = guessed, and said so."""

    model_config = ConfigDict(extra="forbid")

    academic_year: str = Field(default="", pattern=r"^(\d{4}-\d{2})?$")
    as_of: dt.date | None = None
    covers: list[str] = Field(default_factory=list)
    test: str = Field(default="", max_length=200)
    subject: str = Field(default="", max_length=200)
    sitting: str = Field(default="", max_length=200)
    date: dt.date | None = None
    score: Literal["raw", "percent", "scaled", "level", "grade"] | None = None
    date_order: Literal["iso", "dmy", "mdy"] | None = None
    columns: dict[str, str] = Field(default_factory=dict)
    decisions: dict[str, str] = Field(default_factory=dict)

    def year(self, today: dt.date) -> str:
        """The school year meant; the one that `today` lies in if none is given."""
        if self.academic_year:
            year_bounds(self.academic_year)
        return self.academic_year or school_year_of(today)


def within_year(date: dt.date, year: str) -> dt.date:
    """`date` moved into the school year if it lies outside.

    >>> str(within_year(dt.date(2030, 1, 1), "2025-26"))
    '2026-07-31'
    """
    first, last = year_bounds(year)
    return min(max(date, first), last)
