"""Intake over HTTP: bring a file, say what it is, look at the match, keep, undo."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint, FileStorage
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.intake import drafts
from bridge_chart.intake.columns import role_choices
from bridge_chart.intake.keep import change_standing, examine, keep
from bridge_chart.intake.settings import IntakeSettings
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.store.versions import history
from bridge_chart.terms.errors import NotFound, UnreadableFile
from bridge_chart.terms.finding import Choice, ColumnInfo, Examination, FileKind

api = APIBlueprint("intake", __name__, url_prefix="/api")


class NewDraftForm(BaseModel):
    kind: FileKind
    file: FileStorage


class DraftPath(BaseModel):
    draft_id: str = Field(max_length=40)


class BatchPath(BaseModel):
    batch_id: int


class KeepBody(BaseModel):
    """`token` names the outcome that was on screen; anything else is refused."""

    model_config = ConfigDict(extra="forbid")
    token: str


class Problem(BaseModel):
    """What has to be said before the file can be understood."""

    message: str
    next_step: str
    missing_role: str | None


class DraftState(BaseModel):
    """A file on its way in. `examination` is null while `problem` stands."""

    id: str
    kind: FileKind
    name: str
    encoding: str
    delimiter: str
    settings: IntakeSettings
    examination: Examination | None
    problem: Problem | None
    columns: list[ColumnInfo]
    roles: list[Choice]


class DraftItem(BaseModel):
    id: str
    kind: str
    name: str
    at: dt.datetime


class DraftList(BaseModel):
    drafts: list[DraftItem]


class KeptBody(BaseModel):
    batch_id: int
    version: int


class BatchItem(BaseModel):
    """A batch and where it stands: “kept” counts, “undone” does not."""

    id: int
    kind: str
    title: str
    file: str
    academic_year: str | None
    effective_date: dt.date | None
    event: str
    event_at: dt.datetime
    by: str | None
    version_id: int
    rows_kept: int
    rows_set_aside: int


class History(BaseModel):
    batches: list[BatchItem]


class AsideRow(BaseModel):
    row: int
    reason: str
    cells: list[list[str]]


class AsideRows(BaseModel):
    rows: list[AsideRow]


class FileRow(BaseModel):
    row: int
    cells: list[str]


class FileRows(BaseModel):
    headers: list[str]
    rows: list[FileRow]


class RowsQuery(BaseModel):
    finding: str = Field(max_length=400)


def _state(draft: drafts.Draft) -> DraftState:
    here = instance()
    sheet = drafts.sheet_of(here.engine, draft.source_id)
    snapshot = snapshot_of(here.engine, here.settings.snapshots)
    examination, problem, columns = None, None, []
    try:
        examination = examine(
            draft.kind, sheet, draft.settings, snapshot, dt.date.today()
        ).examination
        columns = examination.columns
    except UnreadableFile as error:
        problem = Problem(
            message=error.message,
            next_step=error.next_step,
            missing_role=error.details.get("missing_role"),
        )
        columns = drafts.columns_of(draft, sheet)
    return DraftState(
        id=draft.id,
        kind=draft.kind,
        name=draft.name,
        encoding=sheet.encoding,
        delimiter=sheet.delimiter,
        settings=draft.settings,
        examination=examination,
        problem=problem,
        columns=columns,
        roles=role_choices(draft.kind),
    )


@api.get("/drafts", responses={200: DraftList}, operation_id="listDrafts")
@rule("intake")
def get_drafts() -> Response:
    """Files of mine that wait to be kept."""
    waiting = drafts.list_drafts(instance().engine, actor())
    return as_json(DraftList(drafts=[DraftItem.model_validate(item) for item in waiting]))


@api.post("/drafts", responses={201: DraftState}, operation_id="newDraft")
@rule("intake")
def post_draft(form: NewDraftForm) -> Response:
    """Bring a file in; nothing is kept yet."""
    name = (form.file.filename or "file.csv").replace("\\", "/").rsplit("/", 1)[-1][:200]
    data = form.file.read()
    draft = drafts.new_draft(instance().engine, actor(), form.kind, name, data, IntakeSettings())
    return as_json(_state(draft), 201)


@api.get("/drafts/<draft_id>", responses={200: DraftState}, operation_id="readDraft")
@rule("intake")
def get_draft(path: DraftPath) -> Response:
    """What is understood of the file so far."""
    return as_json(_state(drafts.open_draft(instance().engine, actor(), path.draft_id)))


@api.put("/drafts/<draft_id>/settings", responses={200: DraftState}, operation_id="changeDraft")
@rule("intake")
def put_settings(path: DraftPath, body: IntakeSettings) -> Response:
    """Say what the file is: columns, year, dates, choices. Refused settings change nothing."""
    engine = instance().engine
    draft = drafts.open_draft(engine, actor(), path.draft_id)
    state = _state(replace(draft, settings=body))
    drafts.change_draft(engine, draft, body)
    return as_json(state)


@api.get("/drafts/<draft_id>/rows", responses={200: FileRows}, operation_id="findingRows")
@rule("intake")
def get_rows(path: DraftPath, query: RowsQuery) -> Response:
    """The file's own rows that a finding speaks of."""
    here = instance()
    draft = drafts.open_draft(here.engine, actor(), path.draft_id)
    shown = _state(draft).examination
    found = [f for f in shown.findings if f.key == query.finding] if shown else []
    if not found:
        raise NotFound("There is no such finding any more.")
    sheet = drafts.sheet_of(here.engine, draft.source_id)
    rows = [FileRow(row=n, cells=cells) for n, cells in drafts.rows_at(sheet, found[0].rows)]
    return as_json(FileRows(headers=list(sheet.headers), rows=rows))


@api.delete("/drafts/<draft_id>", operation_id="dropDraft")
@rule("intake")
def delete_draft(path: DraftPath) -> Response:
    """Throw the waiting file away."""
    engine = instance().engine
    drafts.drop_draft(engine, drafts.open_draft(engine, actor(), path.draft_id))
    return as_json({"dropped": True})


@api.post("/drafts/<draft_id>/keep", responses={200: KeptBody}, operation_id="keepDraft")
@rule("intake")
def post_keep(path: DraftPath, body: KeepBody) -> Response:
    """Keep the file, all or nothing."""
    here = instance()
    draft = drafts.open_draft(here.engine, actor(), path.draft_id)
    sheet = drafts.sheet_of(here.engine, draft.source_id)
    today = dt.date.today()
    snapshot = snapshot_of(here.engine, here.settings.snapshots)
    plan = examine(draft.kind, sheet, draft.settings, snapshot, today)
    kept = keep(
        here.engine, here.settings, actor(), plan, sheet, draft.settings, draft.source_id,
        token=body.token, today=today, draft_id=draft.id,
    )  # fmt: skip
    return as_json(KeptBody(batch_id=kept.batch_id, version=kept.version))


def _batch(row: dict[str, Any]) -> BatchItem:
    counts = row["counts"]
    plain = {key: row[key] for key in BatchItem.model_fields if key in row}
    return BatchItem(
        **plain, rows_kept=counts["rows_kept"], rows_set_aside=counts["rows_set_aside"]
    )


@api.get("/batches", responses={200: History}, operation_id="history")
@rule("history")
def get_batches() -> Response:
    """What was kept and undone, newest first."""
    with instance().engine.connect() as connection:
        return as_json(History(batches=[_batch(row) for row in history(connection)]))


@api.get("/batches/<int:batch_id>/aside", responses={200: AsideRows}, operation_id="asideRows")
@rule("history")
def get_aside(path: BatchPath) -> Response:
    """Rows of a batch that were set aside."""
    rows = drafts.set_aside_rows(instance().engine, path.batch_id)
    return as_json(AsideRows(rows=[AsideRow.model_validate(row) for row in rows]))


@api.post("/batches/<int:batch_id>/undo", responses={200: KeptBody}, operation_id="undoBatch")
@rule("intake")
def post_undo(path: BatchPath) -> Response:
    """Undo a kept batch."""
    return _changed(path.batch_id, "undone")


@api.post("/batches/<int:batch_id>/put-back", responses={200: KeptBody}, operation_id="putBack")
@rule("intake")
def post_put_back(path: BatchPath) -> Response:
    """Put an undone batch back."""
    return _changed(path.batch_id, "kept")


def _changed(batch_id: int, event: str) -> Response:
    here = instance()
    done = change_standing(here.engine, here.settings, actor(), batch_id, event)
    return as_json(KeptBody(batch_id=done.batch_id, version=done.version))
