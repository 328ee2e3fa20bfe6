"""The grid of students by results, as it goes out and comes back."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.strict import LARGEST_ID

Role = Literal["raw", "percent", "scaled", "level", "grade", "predicted", "target"]
WORDS = {"raw": "raw mark", "percent": "percent", "scaled": "scaled score", "level": "level",
         "grade": "grade", "predicted": "predicted", "target": "target"}  # fmt: skip
OWN = (
    r"^(?P<test>.+?): (?:(?P<subject>.+), )?(?P<sitting>[^,]+) "
    r"\((?:(?P<kind>.+) )?(?P<words>" + "|".join(WORDS.values()) + r")\)$"
)
"""How the names of a grid's columns are put together."""
MOST_COLUMNS = 60
Identity = Annotated[int, Field(ge=0, le=LARGEST_ID)]
NUMBER, NAME = "Student number", "Name"


class GridColumn(BaseModel):
    """What a column of results is about. `kind`: which target, blank where there is one."""

    model_config = ConfigDict(extra="forbid")

    test: str = Field(min_length=1, max_length=200)
    subject: str = Field(default="", max_length=200)
    sitting: str = Field(min_length=1, max_length=200)
    date: dt.date | None = None
    role: Role
    kind: str = Field(default="", max_length=100)

    @property
    def header(self) -> str:
        """The column's name, which the intake takes apart again (`OWN`)."""
        about = ", ".join(part for part in (self.subject, self.sitting) if part)
        return f"{self.test}: {about} ({f'{self.kind} {WORDS[self.role]}'.strip()})"


class GridSpec(BaseModel):
    """Whose results, and which. Students: of a class, or of a school and a year level; all of
    them who are on roll today where nothing is said."""

    model_config = ConfigDict(extra="forbid")

    class_id: Identity | None = None
    school_id: Identity | None = None
    year_level: Identity | None = None
    columns: list[GridColumn] = Field(min_length=1, max_length=MOST_COLUMNS)


class GridRow(BaseModel):
    number: str
    name: str
    cells: list[str]


class Allowed(BaseModel):
    """What a column's cells may hold: steps with their synonyms, or figures where there are none;
    `codes`: words that a cell may hold instead of a result, and that say why there is none."""

    steps: list[str] = Field(default_factory=list)
    synonyms: dict[str, str] = Field(default_factory=dict)
    lowest: float | None = None
    highest: float | None = None
    codes: list[str] = Field(default_factory=list)


class Grid(BaseModel):
    """Students down, results across; blank where nothing is kept."""

    title: str
    headers: list[str]
    allowed: list[Allowed]
    rows: list[GridRow]
