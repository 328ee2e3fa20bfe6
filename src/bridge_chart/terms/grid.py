"""The grid of students by results, as it goes out and comes back."""

from __future__ import annotations

import datetime as dt
import re
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.terms.strict import LARGEST_ID

Role = Literal["raw", "percent", "scaled", "level", "grade", "predicted", "target"]
WORDS = {"raw": "raw mark", "percent": "percent", "scaled": "scaled score", "level": "level",
         "grade": "grade", "predicted": "predicted", "target": "target"}  # fmt: skip
NAME_PART = "“(?:[^”]|””)*”|[^:,()“”]+"
HEADER = re.compile(
    f"(?P<test>{NAME_PART}): (?:(?P<subject>{NAME_PART}), )?(?P<sitting>{NAME_PART}) "
    rf"\((?:(?P<kind>{NAME_PART}) )?(?P<words>{'|'.join(WORDS.values())})\)"
)
"""How the names of a grid's columns are put together. What holds one of their signs is quoted, so
that each comes apart as it was put together, whatever a test is called."""
MOST_COLUMNS, MOST_STUDENTS = 100, 20_000
Identity = Annotated[int, Field(ge=0, le=LARGEST_ID)]
NUMBER, NAME = "Student number", "Name"


class GridColumn(BaseModel):
    """What a column of results is about. `kind`: which target, blank where there is one."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    test: str = Field(min_length=1, max_length=200)
    subject: str = Field(default="", max_length=200)
    sitting: str = Field(min_length=1, max_length=200)
    date: dt.date | None = None
    role: Role
    kind: str = Field(default="", max_length=100)

    @property
    def header(self) -> str:
        """The column's name, which the intake takes apart again.

        >>> column = GridColumn(test="Unit 3: Forces", sitting="May", role="raw")
        >>> column.header
        '“Unit 3: Forces”: May (raw mark)'
        >>> read_header(column.header) == column
        True
        """
        about = ", ".join(_quoted(part) for part in (self.subject, self.sitting) if part)
        told = f"{_quoted(self.kind)} {WORDS[self.role]}".strip()
        return f"{_quoted(self.test)}: {about} ({told})"


def read_header(text: str) -> GridColumn | None:
    """A column by its name; None where the name is no grid's."""
    found = HEADER.fullmatch(text)
    if found is None:
        return None
    role = next(role for role, words in WORDS.items() if words == found["words"])
    named = {
        key: _bare(found[key] or "") for key in ("test", "subject", "sitting", "kind")
    }  # fmt: skip
    return GridColumn.model_validate({**named, "role": role})


def _quoted(name: str) -> str:
    return f"“{name.replace('”', '””')}”" if re.search("[:,()“”]", name) else name


def _bare(part: str) -> str:
    return part[1:-1].replace("””", "”") if part.startswith("“") else part


class GridSpec(BaseModel):
    """Whose results, and which. Students: of a class, or of a school and a year level, or these by
    their ids, on roll or not; all of them who are on roll today where nothing is said. title: what
    the grid is called, where its students do not say it."""

    model_config = ConfigDict(extra="forbid")

    class_id: Identity | None = None
    school_id: Identity | None = None
    year_level: Identity | None = None
    students: list[Identity] | None = Field(default=None, max_length=MOST_STUDENTS)
    title: str = Field(default="", max_length=200)
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
