"""What a person or a mapping file says about one file: format of our own, docs/formats.md."""

from __future__ import annotations

import datetime as dt
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.calendar import school_year_of, year_bounds
from bridge_chart.terms.finding import DefaultUsed

LineRole = Literal["names", "maximum", "topic", "left_out", "row"]
"""What a line at the top of a file is: column names, what each question is worth or is about, none
of these and no row either, or a row."""


class HowToRead(BaseModel):
    """How a file is to be read, where a guess would be wrong. `header_line`: the first line with
    the column names, 0 for none; `lines`: what single lines are, by their number in the file."""

    model_config = ConfigDict(extra="forbid")

    table: str = Field(default="", max_length=200)
    encoding: str = Field(default="", max_length=20)
    delimiter: str = Field(default="", max_length=5)
    header_line: int | None = Field(default=None, ge=0)
    header_lines: Literal[1, 2, 3, 4] | None = None
    lines: dict[int, LineRole] = Field(default_factory=dict)


class About(BaseModel):
    """What one column of results is about, where a sheet has a column per subject, test or
    sitting. Blank: as for the whole file."""

    model_config = ConfigDict(extra="forbid")

    test: str = Field(default="", max_length=200)
    subject: str = Field(default="", max_length=200)
    sitting: str = Field(default="", max_length=200)
    date: dt.date | None = None
    form: str = Field(default="", max_length=100)


class IntakeSettings(BaseModel):
    """Everything that shapes how a file is understood. Empty = guessed, and said so. `pattern`: how
    names of columns of results are built, `kinds`: what they call each kind of score; `like`: the
    kept file of the same shape whose columns were taken over; `lines`: only these lines of the
    file, `settles`: the batch that had set them aside; `left_behind`: what a bundle held and this
    table does not; `together`: the archive whose files are parts of one test; `archive`: the one
    that it came in, with a mark of its own."""

    model_config = ConfigDict(extra="forbid")

    academic_year: str = Field(default="", pattern=r"^(\d{4}-\d{2})?$")
    as_of: dt.date | None = None
    covers: list[str] = Field(default_factory=list)
    school: str = Field(default="", max_length=200)
    year_level: str = Field(default="", max_length=60)
    test: str = Field(default="", max_length=200)
    subject: str = Field(default="", max_length=200)
    sitting: str = Field(default="", max_length=200)
    date: dt.date | None = None
    score: Literal["raw", "percent", "scaled", "level", "grade"] | None = None
    date_order: Literal["iso", "dmy", "mdy", "serial"] | None = None
    columns: dict[str, str] = Field(default_factory=dict)
    about: dict[str, About] = Field(default_factory=dict)
    pattern: str = Field(default="", max_length=200)
    kinds: dict[str, str] = Field(default_factory=dict)
    reading: HowToRead = Field(default_factory=HowToRead)
    decisions: dict[str, str] = Field(default_factory=dict)
    left_behind: list[str] = Field(default_factory=list)
    together: str = Field(default="", max_length=200)
    archive: str = Field(default="", max_length=220)
    lines: list[int] = Field(default_factory=list)
    settles: int | None = None
    like: str = Field(default="", max_length=300)

    def taken_over(self) -> list[DefaultUsed]:
        """What was assumed because a file of the same shape was kept before."""
        if not self.like:
            return []
        why = "a file with these columns was kept before"
        return [DefaultUsed(key="columns", value=f"as in {self.like}", why=why)]

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
