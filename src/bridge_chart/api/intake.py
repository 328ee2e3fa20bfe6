"""Intake over HTTP: bring a file, say what it is, look at the match, keep, undo."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace

from flask import Response
from flask_openapi3 import APIBlueprint, FileStorage
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.api.kept import FileRow, FileRows, KeptBody
from bridge_chart.intake import drafts
from bridge_chart.intake.columns import role_choices
from bridge_chart.intake.keep import examine, keep
from bridge_chart.intake.settings import IntakeSettings
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.terms.errors import NotFound, UnreadableFile
from bridge_chart.terms.finding import Choice, ColumnInfo, Examination, FileKind

api = APIBlueprint("intake", __name__, url_prefix="/api")


class NewDraftForm(BaseModel):
    kind: FileKind
    file: FileStorage


class DraftPath(BaseModel):
    draft_id: str = Field(max_length=40)


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
    """A file on its way in. `examination` is null while `problem` stands; `came_with`: the other
    files of the archive, which wait as drafts of their own."""

    id: str
    kind: FileKind
    name: str
    read_as: str
    header_line: int
    headers: int
    settings: IntakeSettings
    examination: Examination | None
    problem: Problem | None
    columns: list[ColumnInfo]
    roles: list[Choice]
    came_with: list[str] = Field(default_factory=list)


class DraftItem(BaseModel):
    id: str
    kind: str
    name: str
    at: dt.datetime


class DraftList(BaseModel):
    drafts: list[DraftItem]


class RowsQuery(BaseModel):
    finding: str = Field(max_length=400)


def state_of(draft: drafts.Draft) -> DraftState:
    here = instance()
    sheet = drafts.sheet_of(here.engine, draft.source_id, draft.settings)
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
        columns = drafts.columns_of(draft, sheet, snapshot)
    return DraftState(
        id=draft.id,
        kind=draft.kind,
        name=draft.name,
        read_as=sheet.how.words,
        header_line=sheet.how.header_line,
        headers=sheet.how.header_lines,
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
    """Bring a file in, or an archive of several; nothing is kept yet."""
    name = (form.file.filename or "file.csv").replace("\\", "/").rsplit("/", 1)[-1][:200]
    data = form.file.read()
    made = drafts.new_drafts(instance().engine, actor(), form.kind, name, data, IntakeSettings())
    others = [draft.name for draft in made[1:]]
    return as_json(state_of(made[0]).model_copy(update={"came_with": others}), 201)


@api.get("/drafts/<draft_id>", responses={200: DraftState}, operation_id="readDraft")
@rule("intake")
def get_draft(path: DraftPath) -> Response:
    """What is understood of the file so far."""
    return as_json(state_of(drafts.open_draft(instance().engine, actor(), path.draft_id)))


@api.put("/drafts/<draft_id>/settings", responses={200: DraftState}, operation_id="changeDraft")
@rule("intake")
def put_settings(path: DraftPath, body: IntakeSettings) -> Response:
    """Say what the file is: columns, year, dates, choices. Refused settings change nothing."""
    engine = instance().engine
    draft = drafts.open_draft(engine, actor(), path.draft_id)
    state = state_of(replace(draft, settings=body))
    drafts.change_draft(engine, draft, body)
    return as_json(state)


@api.get("/drafts/<draft_id>/rows", responses={200: FileRows}, operation_id="findingRows")
@rule("intake")
def get_rows(path: DraftPath, query: RowsQuery) -> Response:
    """The file's own rows that a finding speaks of."""
    here = instance()
    draft = drafts.open_draft(here.engine, actor(), path.draft_id)
    shown = state_of(draft).examination
    found = [f for f in shown.findings if f.key == query.finding] if shown else []
    if not found:
        raise NotFound("There is no such finding any more.")
    sheet = drafts.sheet_of(here.engine, draft.source_id, draft.settings)
    rows = [FileRow(row=n, cells=cells) for n, cells in sheet.rows_at(found[0].rows)]
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
    sheet = drafts.sheet_of(here.engine, draft.source_id, draft.settings)
    today = dt.date.today()
    snapshot = snapshot_of(here.engine, here.settings.snapshots)
    plan = examine(draft.kind, sheet, draft.settings, snapshot, today)
    kept = keep(
        here.engine, here.settings, actor(), plan, sheet, draft.settings, draft.source_id,
        token=body.token, today=today, draft_id=draft.id,
    )  # fmt: skip
    return as_json(KeptBody(batch_id=kept.batch_id, version=kept.version))
