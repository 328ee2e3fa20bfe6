"""The grid over HTTP: look at it, take it out as a file, bring in what was typed."""

from __future__ import annotations

from typing import Literal

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access.audit import note
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.api.kept import OpenedDraft
from bridge_chart.intake.drafts.drafts import draft_of, save_source
from bridge_chart.intake.drafts.grid import grid_of, typed
from bridge_chart.output.bundle import Meant, to_bundle
from bridge_chart.output.grid import to_csv, to_xlsx
from bridge_chart.output.tidy import tidy_archive
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.errors import InvalidQuestion
from bridge_chart.terms.grid import MOST_STUDENTS, Grid, GridRow, GridSpec

api = APIBlueprint("grid", __name__, url_prefix="/api")
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class GridFileBody(GridSpec):
    format: Literal["xlsx", "csv"] = "xlsx"


class TypedBody(BaseModel):
    """Rows as they were typed; blank cells say nothing."""

    model_config = ConfigDict(extra="forbid")

    spec: GridSpec
    title: str = Field(min_length=1, max_length=200)
    rows: list[GridRow] = Field(max_length=MOST_STUDENTS)


def _grid(spec: GridSpec) -> Grid:
    here = instance()
    grid = grid_of(snapshot_of(here.engine, here.settings.snapshots), spec)
    note(here.engine, actor(), "open_grid", {"title": grid.title, "students": len(grid.rows)})
    return grid


@api.post("/grid", responses={200: Grid}, operation_id="grid")
@rule("intake")
def post_grid(body: GridSpec) -> Response:
    """Students down, results across, as they are kept now."""
    return as_json(_grid(body))


@api.post("/grid/file", operation_id="gridFile")
@rule("intake")
def post_grid_file(body: GridFileBody) -> Response:
    """The grid as a workbook or as CSV; it is brought back like any file."""
    grid = _grid(body)
    book = body.format == "xlsx"
    data, kind = (to_xlsx(grid), XLSX) if book else (to_csv(grid), "text/csv; charset=utf-8")
    headers = {
        "Content-Disposition": f'attachment; filename="grid.{body.format}"',
        "Cache-Control": "no-store",
    }
    return Response(data, mimetype=kind, headers=headers)


class BundleQuery(BaseModel):
    """Which characteristics say a student's sex and race, by name."""

    model_config = ConfigDict(extra="forbid")

    sex: str | None = Field(default=None, max_length=200)
    race: str | None = Field(default=None, max_length=200)


@api.get("/bundle", operation_id="bundle")
@rule("intake")
def get_bundle(query: BundleQuery) -> Response:
    """The rosters of today and all scores as a OneRoster 1.2 CSV bundle; noted in the audit."""
    here = instance()
    meant = Meant(query.sex or None, query.race or None)
    made = to_bundle(snapshot_of(here.engine, here.settings.snapshots), meant)
    note(here.engine, actor(), "export", {"bundle": made.lines})
    headers = {
        "Content-Disposition": 'attachment; filename="oneroster.zip"', "Cache-Control": "no-store",
    }  # fmt: skip
    return Response(made.data, mimetype="application/zip", headers=headers)


@api.get("/export", operation_id="exportAll")
@rule("intake")
def get_export() -> Response:
    """The merged record, one table per kind, as Parquet and described CSV; noted in the audit."""
    here = instance()
    data, rows = tidy_archive(snapshot_of(here.engine, here.settings.snapshots))
    note(here.engine, actor(), "export", {"tables": rows})
    headers = {
        "Content-Disposition": 'attachment; filename="record.zip"', "Cache-Control": "no-store",
    }  # fmt: skip
    return Response(data, mimetype="application/zip", headers=headers)


@api.post("/grid/typed", responses={201: OpenedDraft}, operation_id="typedGrid")
@rule("intake")
def post_typed(body: TypedBody) -> Response:
    """What was typed, as a draft like any file's; nothing is kept yet."""
    if not any(cell.strip() for row in body.rows for cell in row.cells):
        raise InvalidQuestion("Nothing was typed.", next_step="Fill at least one cell.")
    engine = instance().engine
    file = typed(body.spec, body.title, body.rows)
    source = save_source(engine, file.name, file.data)
    draft = draft_of(engine, actor(), "results", file.name, source, file.said)
    return as_json(OpenedDraft(draft_id=draft.id), 201)
