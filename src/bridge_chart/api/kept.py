"""Files that were kept, over HTTP: history, undo and what it would mean, rows set aside and
settling them, the file's own lines, what is remembered of them."""

from __future__ import annotations

import datetime as dt
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access.audit import note
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.api.reading import Identity
from bridge_chart.intake.drafts import kept_files
from bridge_chart.intake.drafts.memory import said_of
from bridge_chart.intake.drafts.understood import FileRow
from bridge_chart.intake.drafts.work import begin
from bridge_chart.intake.examine.naming import names_in_use
from bridge_chart.intake.keep.keep import change_standing
from bridge_chart.intake.keep.undoing import consequences
from bridge_chart.intake.said.settings import IntakeSettings
from bridge_chart.store.reference_tables import Scale
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.store.versions import history
from bridge_chart.terms.finding import NameInUse

api = APIBlueprint("kept", __name__, url_prefix="/api")


class BatchPath(BaseModel):
    batch_id: int


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
    archive: str


class StandingQuery(BaseModel):
    """archive: with it all that came in the same archive."""

    model_config = ConfigDict(extra="forbid")

    archive: bool = False


class History(BaseModel):
    batches: list[BatchItem]


class AsideRow(BaseModel):
    row: int
    reason: str
    cells: list[list[str]]


class AsideRows(BaseModel):
    rows: list[AsideRow]


class FileRows(BaseModel):
    headers: list[str]
    rows: list[FileRow]


class Consequences(BaseModel):
    """What an undo would mean, in sentences."""

    sentences: list[str]


class CutBody(BaseModel):
    """A cut score of a year level, form and school year (null: all). `upper`: where the step's
    upper half begins; `expected`: the step that is expected at that age."""

    year_level: int | None
    form: str | None
    school_year: str | None
    lowest: float
    upper: float | None
    expected: bool


class StepBody(BaseModel):
    name: str
    points: float | None
    passes: bool
    synonyms: list[str]
    cuts: list[CutBody]


class ScaleBody(BaseModel):
    """A scale as its newest table declares it; steps from lowest."""

    test: str
    subject: str
    score: str
    steps: list[StepBody]


class ScaleList(BaseModel):
    scales: list[ScaleBody]


class LinesQuery(BaseModel):
    line: list[Identity] = Field(max_length=200)


class Remembered(BaseModel):
    """A number that a file wrote, accepted as a student's."""

    id: int
    text: str
    number: str
    file: str
    batch_id: int
    at: dt.datetime


class RememberedList(BaseModel):
    remembered: list[Remembered]


class RememberedPath(BaseModel):
    alias_id: int


class OpenedDraft(BaseModel):
    """A draft that was opened."""

    draft_id: str


def _batch(row: dict[str, Any]) -> BatchItem:
    plain = {key: row[key] for key in BatchItem.model_fields if key in row}
    rows = {"rows_kept": row["counts"]["rows_kept"], "rows_set_aside": row["set_aside"]}
    return BatchItem(**plain, **rows)


@api.get("/batches", responses={200: History}, operation_id="history")
@rule("history")
def get_batches() -> Response:
    """What was kept and undone, newest first."""
    with instance().engine.connect() as connection:
        return as_json(History(batches=[_batch(row) for row in history(connection)]))


@api.get("/batches/<int:batch_id>/aside", responses={200: AsideRows}, operation_id="asideRows")
@rule("history")
def get_aside(path: BatchPath) -> Response:
    """Rows of a batch that were set aside; noted in the audit."""
    engine = instance().engine
    rows = kept_files.set_aside_rows(engine, path.batch_id)
    note(engine, actor(), "open_aside", {"batch": path.batch_id, "rows": len(rows)})
    return as_json(AsideRows(rows=[AsideRow.model_validate(row) for row in rows]))


@api.post("/batches/<int:batch_id>/undo", responses={200: KeptBody}, operation_id="undoBatch")
@rule("intake")
def post_undo(path: BatchPath, query: StandingQuery) -> Response:
    """Undo a kept batch."""
    return _changed(path.batch_id, "undone", query)


@api.post("/batches/<int:batch_id>/put-back", responses={200: KeptBody}, operation_id="putBack")
@rule("intake")
def post_put_back(path: BatchPath, query: StandingQuery) -> Response:
    """Put an undone batch back."""
    return _changed(path.batch_id, "kept", query)


def _changed(batch_id: int, event: str, query: StandingQuery) -> Response:
    here = instance()
    done = change_standing(
        here.engine, here.settings, actor(), batch_id, event, archive=query.archive
    )
    return as_json(KeptBody(batch_id=done.batch_id, version=done.version))


@api.get(
    "/batches/<int:batch_id>/consequences",
    responses={200: Consequences},
    operation_id="undoConsequences",
)
@rule("intake")
def get_consequences(path: BatchPath) -> Response:
    """What undoing a batch would mean."""
    return as_json(Consequences(sentences=consequences(instance().engine, path.batch_id)))


@api.post("/batches/<int:batch_id>/settle", responses={201: OpenedDraft}, operation_id="settle")
@rule("intake")
def post_settle(path: BatchPath) -> Response:
    """Open the rows that a kept file set aside as a draft of their own."""
    here = instance()
    draft = kept_files.settle(here.engine, here.settings, actor(), path.batch_id)
    if draft.large:
        begin(here.engine, here.settings, actor(), draft, "examine", draft.settings)
    return as_json(OpenedDraft(draft_id=draft.id), 201)


@api.post("/batches/<int:batch_id>/again", responses={201: OpenedDraft}, operation_id="readAgain")
@rule("intake")
def post_again(path: BatchPath) -> Response:
    """Take a kept file back and open it as a draft, with all that was said of it to change."""
    here = instance()
    draft = kept_files.read_again(here.engine, here.settings, actor(), path.batch_id)
    if draft.large:
        begin(here.engine, here.settings, actor(), draft, "examine", draft.settings)
    return as_json(OpenedDraft(draft_id=draft.id), 201)


@api.get("/batches/<int:batch_id>/lines", responses={200: FileRows}, operation_id="fileLines")
@rule("history")
def get_lines(path: BatchPath, query: LinesQuery) -> Response:
    """Lines of a kept file as the file has them; noted in the audit."""
    engine = instance().engine
    headers, rows = kept_files.file_lines(engine, path.batch_id, query.line)
    note(engine, actor(), "open_lines", {"batch": path.batch_id, "lines": len(rows)})
    shown = [FileRow(row=line, cells=cells) for line, cells in rows]
    return as_json(FileRows(headers=headers, rows=shown))


@api.get(
    "/batches/<int:batch_id>/mapping", responses={200: IntakeSettings}, operation_id="mappingOf"
)
@rule("history")
def get_mapping(path: BatchPath) -> Response:
    """Everything that was said of a kept file: a mapping for the next one of its shape."""
    return as_json(said_of(instance().engine, path.batch_id))


@api.get("/scales", responses={200: ScaleList}, operation_id="scales")
@rule("history")
def get_scales() -> Response:
    """The scales that tables of reference declare."""
    here = instance()
    tables = snapshot_of(here.engine, here.settings.snapshots).tables
    scales = [
        ScaleBody(test=test, subject=subject, score=score, steps=_steps(scale))
        for test, subject, score, scale in tables.scales()
    ]
    return as_json(ScaleList(scales=scales))


class MoveBody(BaseModel):
    """What a move from a level to a level earns, 0 to 1; levels without case and blanks."""

    before: str
    after: str
    credit: float


class MovementRuleBody(BaseModel):
    """A rule for movement as its newest table declares it; no subject: of all."""

    rule: str
    test: str
    subject: str
    moves: list[MoveBody]


class MovementRuleList(BaseModel):
    rules: list[MovementRuleBody]


@api.get("/movement-rules", responses={200: MovementRuleList}, operation_id="movementRules")
@rule("history")
def get_movement_rules() -> Response:
    """The rules that say which move between levels earns what."""
    here = instance()
    tables = snapshot_of(here.engine, here.settings.snapshots).tables
    rules = [
        MovementRuleBody(
            rule=called, test=test, subject=subject,
            moves=[MoveBody(before=b, after=a, credit=c) for (b, a), c in moves.items()],
        )
        for test, subject, called, moves in tables.movement_rules()
    ]  # fmt: skip
    return as_json(MovementRuleList(rules=rules))


class NameList(BaseModel):
    names: list[NameInUse]


@api.get("/names", responses={200: NameList}, operation_id="names")
@rule("intake")
def get_names() -> Response:
    """Every name in use, what else means it, and when sittings were."""
    here = instance()
    return as_json(NameList(names=names_in_use(snapshot_of(here.engine, here.settings.snapshots))))


def _steps(scale: Scale) -> list[StepBody]:
    return [
        StepBody(
            name=step.name, points=step.points, passes=step.passes, synonyms=list(step.synonyms),
            cuts=[
                CutBody(
                    year_level=c.year_level, form=c.form, school_year=c.school_year,
                    lowest=c.lowest, upper=c.upper, expected=c.expected,
                )
                for c in scale.cuts if c.step == step.name
            ],
        )
        for step in scale.steps
    ]  # fmt: skip


@api.get("/remembered", responses={200: RememberedList}, operation_id="remembered")
@rule("history")
def get_remembered() -> Response:
    """Numbers that were accepted as a student's."""
    rows = kept_files.remembered(instance().engine)
    return as_json(RememberedList(remembered=[Remembered.model_validate(row) for row in rows]))


@api.post("/remembered/<int:alias_id>/forget", operation_id="forget")
@rule("intake")
def post_forget(path: RememberedPath) -> Response:
    """Take a remembered number back; what was kept with it stays."""
    here = instance()
    version = kept_files.forget(here.engine, here.settings, actor(), path.alias_id)
    return as_json({"version": version})
