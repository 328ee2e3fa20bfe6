"""Students' records over HTTP: everything that is held of one, erasing, and how long is kept."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.answers.person.everything import everything_of
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.intake.erasing import asking
from bridge_chart.intake.erasing.asking import Erasure, HeldOfStudent, Kept, Retention

api = APIBlueprint("records", __name__, url_prefix="/api")


class StudentPath(BaseModel):
    id: int


class EraseBody(BaseModel):
    """number: the student's, typed once more; reference: of the request, without a name."""

    model_config = ConfigDict(extra="forbid")
    student: int
    number: str = Field(max_length=200)
    reference: str = Field(max_length=1000)


class LeaversBody(BaseModel):
    """due: how many are due, as was seen."""

    model_config = ConfigDict(extra="forbid")
    due: int


class Erasures(BaseModel):
    """The newest first."""

    erasures: list[Erasure]


@api.get("/students/<int:id>/everything", operation_id="everythingOfStudent")
@rule("erase")
def get_everything(path: StudentPath) -> Response:
    """Everything that is held of a student, as a ZIP of tables."""
    here = instance()
    data = everything_of(here.engine, here.settings, actor(), path.id)
    named = {"Content-Disposition": f'attachment; filename="student-{path.id}.zip"',
             "Cache-Control": "no-store"}  # fmt: skip
    return Response(data, mimetype="application/zip", headers=named)


@api.get("/students/<int:id>/held", responses={200: HeldOfStudent}, operation_id="heldOfStudent")
@rule("erase")
def get_held(path: StudentPath) -> Response:
    """How much the record holds of a student."""
    return as_json(asking.held_of(instance().engine, actor(), path.id))


@api.get("/erasures", responses={200: Erasures}, operation_id="listErasures")
@rule("erase")
def get_erasures() -> Response:
    """What was asked for and done, with receipts."""
    return as_json(Erasures(erasures=asking.erasures(instance().engine, actor())))


@api.post("/erasures", responses={201: Erasure}, operation_id="erase")
@rule("erase")
def post_erasure(body: EraseBody) -> Response:
    """Ask that a student be erased from every version, file, list and note."""
    here = instance()
    made = asking.ask_to_erase(
        here.engine, here.settings, actor(), body.student, body.number, body.reference
    )
    return as_json(made, 201)


@api.post("/erasures/leavers", responses={201: Erasure}, operation_id="eraseLeavers")
@rule("erase")
def post_leavers(body: LeaversBody) -> Response:
    """Ask that all leavers be erased whose time is over."""
    here = instance()
    return as_json(asking.erase_leavers(here.engine, here.settings, actor(), body.due), 201)


@api.get("/retention", responses={200: Kept}, operation_id="retention")
@rule("erase")
def get_retention() -> Response:
    """How long leavers and the audit are kept, and who left when."""
    here = instance()
    return as_json(asking.kept(here.engine, here.settings, actor()))


@api.put("/retention", responses={200: Retention}, operation_id="sayRetention")
@rule("erase")
def put_retention(body: Retention) -> Response:
    """Say how long leavers and the audit are kept."""
    return as_json(asking.say_retention(instance().engine, actor(), body))
