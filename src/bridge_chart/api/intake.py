"""Intake over HTTP: bring a file, say what it is, look at the match, keep, undo."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace

from flask import Response
from flask_openapi3 import APIBlueprint, FileStorage
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.api.kept import FileRows, KeptBody
from bridge_chart.api.reading import Identity
from bridge_chart.intake.drafts import drafts
from bridge_chart.intake.drafts.understood import (
    Problem,
    TopRow,
    Understood,
    rows_of,
    understand_draft,
    unread,
)
from bridge_chart.intake.drafts.work import Work, begin, is_large, stop, work_of, work_on
from bridge_chart.intake.keep.keep import Origin, keep
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store.room import require_room
from bridge_chart.terms.errors import BridgeError, InvalidQuestion, NotFound, Unsettled
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


class DraftState(BaseModel):
    """A file on its way in. `examination` is null while `problem` stands, and of a large file while
    nobody has looked into it; `work`: what a worker does with it, or why that failed; `came_with`:
    the other files of the archive, which wait as drafts of their own."""

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
    top: list[TopRow]
    work: Work | None = None
    came_with: list[str] = Field(default_factory=list)


class DraftItem(BaseModel):
    id: str
    kind: str
    name: str
    at: dt.datetime
    work: Work | None


class DraftList(BaseModel):
    drafts: list[DraftItem]


class WorkPath(BaseModel):
    work_id: Identity


class RowsQuery(BaseModel):
    finding: str = Field(max_length=400)


def state_of(draft: drafts.Draft) -> DraftState:
    """The draft as it stands: a small file is examined now, of a large one what a worker found."""
    here = instance()
    if not draft.large:
        told, _, _ = understand_draft(here.engine, here.settings.snapshots, draft)
        return _state(draft, told, None)
    # The work is looked at first: of work that ends between the two looks, the end is seen. The
    # other way round a page is told that nobody works and nothing is understood, and waits forever.
    work = work_on(here.engine, [draft.id]).get(draft.id)
    draft = drafts.open_draft(here.engine, actor(), draft.id)
    stored = drafts.understood_of(here.engine, draft)
    told = Understood.model_validate(stored) if stored else unread(draft.kind)
    return _state(draft, told, work)


def _state(draft: drafts.Draft, told: Understood, work: Work | None) -> DraftState:
    return DraftState(
        id=draft.id,
        kind=draft.kind,
        name=draft.name,
        read_as=told.read_as,
        header_line=told.header_line,
        headers=told.header_lines,
        settings=draft.settings,
        examination=told.examination,
        problem=told.problem,
        columns=told.columns,
        roles=told.roles,
        top=told.top,
        work=work,
    )


@api.get("/drafts", responses={200: DraftList}, operation_id="listDrafts")
@rule("intake")
def get_drafts() -> Response:
    """Files of mine that wait to be kept."""
    engine = instance().engine
    waiting = drafts.list_drafts(engine, actor())
    works = work_on(engine, [item["id"] for item in waiting])
    items = [DraftItem(**item, work=works.get(item["id"])) for item in waiting]
    return as_json(DraftList(drafts=items))


@api.post("/drafts", responses={201: DraftState}, operation_id="newDraft")
@rule("intake")
def post_draft(form: NewDraftForm) -> Response:
    """Bring a file in, or an archive of several; nothing is kept yet."""
    if not hasattr(form.file, "filename"):
        raise InvalidQuestion("“file” is a text, not a file.", kept="Nothing was changed.")
    require_room(instance().settings)
    name = (form.file.filename or "file.csv").replace("\\", "/").rsplit("/", 1)[-1][:200]
    data = form.file.read()
    here = instance()
    if is_large(here.settings, name, data):
        draft = drafts.unread_draft(here.engine, actor(), form.kind, name, data)
        begin(here.engine, here.settings, actor(), draft, "examine", draft.settings)
        return as_json(state_of(draft), 201)
    made = drafts.new_drafts(here.engine, actor(), form.kind, name, data, IntakeSettings())
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
    here = instance()
    draft = drafts.open_draft(here.engine, actor(), path.draft_id)
    if draft.large:
        begin(here.engine, here.settings, actor(), draft, "examine", body)
        return as_json(state_of(draft), 202)
    state = state_of(replace(draft, settings=body))
    drafts.change_draft(here.engine, draft, body)
    return as_json(state)


class SaidAlso(BaseModel):
    """The other waiting files of which the same was said, and those of which it could not be."""

    said: list[str]
    refused: list[str]


@api.post("/drafts/<draft_id>/same", responses={200: SaidAlso}, operation_id="saySame")
@rule("intake")
def post_same(path: DraftPath) -> Response:
    """Say of my other waiting files with the same columns what is said of this one."""
    here = instance()
    told = SaidAlso(said=[], refused=[])
    draft = drafts.open_draft(here.engine, actor(), path.draft_id)
    for other in drafts.say_same(here.engine, actor(), draft):
        try:
            if other.large:
                begin(here.engine, here.settings, actor(), other, "examine", other.settings)
            else:
                understand_draft(here.engine, here.settings.snapshots, other)
                drafts.change_draft(here.engine, other, other.settings)
            told.said.append(other.name)
        except BridgeError:
            told.refused.append(other.name)
    return as_json(told)


@api.get("/drafts/<draft_id>/rows", responses={200: FileRows}, operation_id="findingRows")
@rule("intake")
def get_rows(path: DraftPath, query: RowsQuery) -> Response:
    """The file's own rows that a finding speaks of."""
    here = instance()
    draft = drafts.open_draft(here.engine, actor(), path.draft_id)
    stored = drafts.understood_of(here.engine, draft) if draft.large else None
    if stored is not None:
        told = Understood.model_validate(stored)
        rows = told.rows.get(query.finding)
    else:
        told, sheet, _ = understand_draft(here.engine, here.settings.snapshots, draft)
        findings = told.examination.findings if told.examination else []
        rows = next((rows_of(sheet, f.rows) for f in findings if f.key == query.finding), None)
    if rows is None:
        raise NotFound("There is no such finding any more.")
    return as_json(FileRows(headers=told.names, rows=rows))


@api.delete("/drafts/<draft_id>", operation_id="dropDraft")
@rule("intake")
def delete_draft(path: DraftPath) -> Response:
    """Throw the waiting file away."""
    engine = instance().engine
    drafts.drop_draft(engine, drafts.open_draft(engine, actor(), path.draft_id))
    return as_json({"dropped": True})


@api.post("/drafts/<draft_id>/keep", responses={200: KeptBody, 202: Work}, operation_id="keepDraft")
@rule("intake")
def post_keep(path: DraftPath, body: KeepBody) -> Response:
    """Keep the file, all or nothing; a large one is kept by a worker, which the answer names."""
    here = instance()
    draft = drafts.open_draft(here.engine, actor(), path.draft_id)
    if draft.large:
        settings = draft.settings
        work = begin(here.engine, here.settings, actor(), draft, "keep", settings, body.token)
        return as_json(work, 202)
    _, sheet, plan = understand_draft(here.engine, here.settings.snapshots, draft)
    if plan is None:
        raise Unsettled(
            "The file is not understood yet.", kept="Nothing was changed.",
            next_step="Say what its columns are.",
        )  # fmt: skip
    kept = keep(
        here.engine, here.settings, actor(), plan, sheet, draft.settings,
        Origin(draft.source_id, draft.id), token=body.token, today=dt.date.today(),
    )  # fmt: skip
    return as_json(KeptBody(batch_id=kept.batch_id, version=kept.version))


@api.get("/work/<int:work_id>", responses={200: Work}, operation_id="readWork")
@rule("intake")
def get_work(path: WorkPath) -> Response:
    """How far a piece of my work is."""
    return as_json(work_of(instance().engine, actor(), path.work_id))


@api.post("/work/<int:work_id>/stop", responses={200: Work}, operation_id="stopWork")
@rule("intake")
def post_stop(path: WorkPath) -> Response:
    """Take work back that is under way; nothing of it stays."""
    return as_json(stop(instance().engine, actor(), path.work_id))
