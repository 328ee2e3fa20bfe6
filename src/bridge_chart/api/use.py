"""Groups, saved questions, notes and find over HTTP."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.answers.beside import groups, saved
from bridge_chart.answers.beside.find import Found, find
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.terms.question import Question

api = APIBlueprint("use", __name__, url_prefix="/api")


class Body(BaseModel):
    model_config = ConfigDict(extra="forbid")


class NewGroup(Body):
    """Whom the question asks about, as a live rule or as the list that it is now."""

    name: str = Field(max_length=400)
    kind: groups.Kind
    shared: bool = False
    question: Question


class NewQuestion(Body):
    name: str = Field(max_length=400)
    shared: bool = False
    question: Question


class NewNote(Body):
    text: str = Field(max_length=10_000)
    shared: bool = False
    question: Question


class OnQuestion(Body):
    question: Question


class Identity(BaseModel):
    id: int


class FindQuery(BaseModel):
    text: str = Field(max_length=200)


class GroupList(BaseModel):
    groups: list[groups.Group]


class QuestionList(BaseModel):
    questions: list[saved.SavedQuestion]


class NoteList(BaseModel):
    notes: list[saved.Note]


class FoundList(BaseModel):
    found: list[Found]


@api.get("/groups", responses={200: GroupList}, operation_id="groups")
@rule("ask")
def get_groups() -> Response:
    """The groups that may be used in a question."""
    return as_json(GroupList(groups=groups.list_groups(instance().engine, actor())))


@api.post("/groups", responses={201: groups.Group}, operation_id="saveGroup")
@rule("ask")
def post_group(body: NewGroup) -> Response:
    """Save a group."""
    here = instance()
    made = groups.save_group(
        here.engine, here.settings, actor(), body.name, body.kind, body.question,
        shared=body.shared,
    )  # fmt: skip
    return as_json(made, 201)


@api.delete("/groups/<int:id>", operation_id="retireGroup")
@rule("ask")
def delete_group(path: Identity) -> Response:
    """Take a group out of use."""
    groups.retire_group(instance().engine, actor(), path.id)
    return as_json({"retired": True})


@api.get("/questions", responses={200: QuestionList}, operation_id="questions")
@rule("ask")
def get_questions() -> Response:
    """Saved questions: one's own and shared ones."""
    here = instance()
    found = saved.list_questions(here.engine, here.settings, actor())
    return as_json(QuestionList(questions=found))


@api.post("/questions", responses={201: saved.SavedQuestion}, operation_id="saveQuestion")
@rule("ask")
def post_question(body: NewQuestion) -> Response:
    """Save a question under a name."""
    here = instance()
    made = saved.save_question(
        here.engine, here.settings, actor(), body.name, body.question, shared=body.shared
    )
    return as_json(made, 201)


@api.delete("/questions/<int:id>", operation_id="retireQuestion")
@rule("ask")
def delete_question(path: Identity) -> Response:
    """Take a saved question away."""
    saved.retire_question(instance().engine, actor(), path.id)
    return as_json({"retired": True})


@api.post("/notes/find", responses={200: NoteList}, operation_id="notes")
@rule("ask", reads=True)
def post_notes_on(body: OnQuestion) -> Response:
    """The notes on a question's answer."""
    here = instance()
    found = saved.notes_on(here.engine, here.settings, actor(), body.question)
    return as_json(NoteList(notes=found))


@api.post("/notes", responses={201: saved.Note}, operation_id="addNote")
@rule("ask")
def post_note(body: NewNote) -> Response:
    """Write a note."""
    here = instance()
    made = saved.add_note(
        here.engine, here.settings, actor(), body.question, body.text, shared=body.shared
    )
    return as_json(made, 201)


@api.delete("/notes/<int:id>", operation_id="removeNote")
@rule("ask")
def delete_note(path: Identity) -> Response:
    """Take a note of one's own away."""
    saved.remove_note(instance().engine, actor(), path.id)
    return as_json({"removed": True})


@api.get("/find", responses={200: FoundList}, operation_id="find")
@rule("ask")
def get_find(query: FindQuery) -> Response:
    """Students, classes, schools, tests, saved questions and groups."""
    here = instance()
    return as_json(FoundList(found=find(here.engine, here.settings, actor(), query.text)))
