"""What is understood of a waiting file: the same for a small file, examined while one waits for
it, and for a large one, examined by a worker and stored with its draft."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

import sqlalchemy as sa
from pydantic import BaseModel, Field

from bridge_chart.intake.columns.columns import role_choices
from bridge_chart.intake.drafts import drafts
from bridge_chart.intake.keep.keep import Plan, examine
from bridge_chart.intake.reading.sheet import Sheet
from bridge_chart.intake.said.settings import LineRole
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.errors import UnreadableFile
from bridge_chart.terms.finding import Choice, ColumnInfo, Examination
from bridge_chart.terms.progress import UNWATCHED, Progress

TOP_CELLS = 12
"""Cells of a line at the top that are shown."""


class Problem(BaseModel):
    """What has to be said before the file can be understood."""

    message: str
    next_step: str
    missing_role: str | None


class FileRow(BaseModel):
    row: int
    cells: list[str]


class TopRow(BaseModel):
    """One of the file's first lines, and what it was taken for."""

    line: int
    role: LineRole
    cells: list[str]


class Understood(BaseModel):
    """`examination` is null while `problem` stands. `header_lines`: how many lines of column
    names; `rows`: of each finding of a large file, the rows that it speaks of."""

    read_as: str
    header_line: int
    header_lines: int
    names: list[str]
    examination: Examination | None
    problem: Problem | None
    columns: list[ColumnInfo]
    roles: list[Choice]
    rows: dict[str, list[FileRow]] = Field(default_factory=dict)
    top: list[TopRow] = Field(default_factory=list)


def understand_draft(
    engine: sa.Engine, folder: Path, draft: drafts.Draft, progress: Progress = UNWATCHED
) -> tuple[Understood, Sheet, Plan | None]:
    """Read and examine a draft with what is said of it. `folder`: the snapshots'. The plan is
    None where something must be said first."""
    progress.at("read")
    sheet = drafts.sheet_of(engine, draft.source_id, draft.settings)
    snapshot = snapshot_of(engine, folder)
    plan, problem = None, None
    try:
        plan = examine(
            draft.kind, sheet, draft.settings, snapshot, dt.date.today(), progress=progress
        )
    except UnreadableFile as error:
        problem = Problem(
            message=error.message,
            next_step=error.next_step,
            missing_role=error.details.get("missing_role"),
        )
    shown = plan.examination if plan else None
    columns = shown.columns if shown else drafts.columns_of(draft, sheet, snapshot)
    told = Understood(
        read_as=sheet.how.words,
        header_line=sheet.how.header_line,
        header_lines=sheet.how.header_lines,
        names=list(sheet.headers),
        examination=shown,
        problem=problem,
        columns=columns,
        roles=role_choices(draft.kind),
        top=[
            TopRow(line=one.line, role=one.role, cells=one.cells[:TOP_CELLS]) for one in sheet.top
        ],
    )
    return told, sheet, plan


def unread(kind: str) -> Understood:
    """Of a file that nobody has looked into yet."""
    return Understood(
        read_as="", header_line=1, header_lines=1, names=[], examination=None, problem=None,
        columns=[], roles=role_choices(kind),
    )  # fmt: skip


def rows_of(sheet: Sheet, lines: list[int]) -> list[FileRow]:
    """The file's own rows by line."""
    return [FileRow(row=line, cells=cells) for line, cells in sheet.rows_at(lines)]
