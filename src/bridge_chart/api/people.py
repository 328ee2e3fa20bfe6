"""People over HTTP: lists, and notes about students."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.answers.beside import lists, student_notes
from bridge_chart.answers.beside.colleagues import Colleagues, colleagues
from bridge_chart.answers.beside.effect import Effect, list_effect
from bridge_chart.answers.beside.list_changes import ListChanges
from bridge_chart.answers.beside.list_grid import grid_of_list
from bridge_chart.answers.beside.saved import retire_question
from bridge_chart.answers.person.page import StudentPage
from bridge_chart.answers.person.student import student_page
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.api.reading import Identity as Id
from bridge_chart.terms.grid import GridSpec
from bridge_chart.terms.question import Question

api = APIBlueprint("people", __name__, url_prefix="/api")


class Body(BaseModel):
    model_config = ConfigDict(extra="forbid")


class NewList(Body):
    """The students of a question, or of the mark that it opens, as a list. fixed: these, as they
    are now; else whoever fits."""

    name: str = Field(max_length=400)
    question: Question
    fixed: bool = False


class ListGrid(Body):
    """The students of a question and its columns of results, as a grid of this name."""

    question: Question
    title: str = Field(default="", max_length=200)


class ListChange(Body):
    """What is to be others; what is left away stays. `revision`: of the list that was opened."""

    revision: Id
    name: str | None = Field(default=None, max_length=400)
    question: Question | None = None
    plan: lists.Plan | None = None


class ListSharing(Body):
    revision: Id
    everybody: bool = False
    shared_with: lists.SharedWith = Field(default_factory=lists.SharedWith)


class NewStudentNote(Body):
    text: str = Field(max_length=10_000)
    shared: bool = False
    list_id: Id | None = None


class ListPath(BaseModel):
    id: int


class SinceQuery(BaseModel):
    """since: a version; none: the one that who asks saw last."""

    model_config = ConfigDict(extra="forbid")

    since: Id | None = None


class ListOfLists(BaseModel):
    lists: list[lists.KeptList]


class Seen(BaseModel):
    version: int


class StudentNotes(BaseModel):
    notes: list[student_notes.NoteOnStudent]


@api.get("/lists", responses={200: ListOfLists}, operation_id="lists")
@rule("open_students")
def get_lists() -> Response:
    """The lists that may be opened."""
    here = instance()
    found = lists.lists(here.engine, here.settings, actor())
    return as_json(ListOfLists(lists=found))


@api.get("/colleagues", responses={200: Colleagues}, operation_id="colleagues")
@rule("open_students")
def get_colleagues() -> Response:
    """With whom a list can be shared."""
    here = instance()
    return as_json(colleagues(here.engine, here.settings, actor()))


@api.post("/lists", responses={201: lists.KeptList}, operation_id="keepList")
@rule("open_students")
def post_list(body: NewList) -> Response:
    """Keep a question's students as a list."""
    here = instance()
    made = lists.keep_list(
        here.engine, here.settings, actor(), body.name, body.question, fixed=body.fixed
    )
    return as_json(made, 201)


@api.post("/lists/grid", responses={200: GridSpec}, operation_id="listGrid")
@rule("intake", reads=True)
def post_list_grid(body: ListGrid) -> Response:
    """A list as a grid to fill in, for `POST /api/grid/file`."""
    here = instance()
    return as_json(grid_of_list(here.engine, here.settings, actor(), body.question, body.title))


@api.put("/lists/<int:id>", responses={200: lists.KeptList}, operation_id="changeList")
@rule("open_students")
def put_list(path: ListPath, body: ListChange) -> Response:
    """Change a list of one's own."""
    here = instance()
    done = lists.change_list(
        here.engine, here.settings, actor(), path.id, body.revision, name=body.name,
        question=body.question, plan=body.plan,
    )  # fmt: skip
    return as_json(done)


@api.put("/lists/<int:id>/sharing", responses={200: lists.KeptList}, operation_id="shareList")
@rule("open_students")
def put_sharing(path: ListPath, body: ListSharing) -> Response:
    """Say who may open a list of one's own."""
    here = instance()
    done = lists.share_list(
        here.engine, here.settings, actor(), path.id, body.revision, everybody=body.everybody,
        shared_with=body.shared_with,
    )  # fmt: skip
    return as_json(done)


@api.delete("/lists/<int:id>", operation_id="retireList")
@rule("open_students")
def delete_list(path: ListPath) -> Response:
    """Take a list of one's own away."""
    retire_question(instance().engine, actor(), path.id)
    return as_json({"retired": True})


@api.get("/lists/<int:id>/changes", responses={200: ListChanges}, operation_id="listChanges")
@rule("open_students")
def get_changes(path: ListPath, query: SinceQuery) -> Response:
    """What changed in a list."""
    here = instance()
    found = lists.list_changes(here.engine, here.settings, actor(), path.id, query.since)
    return as_json(found)


@api.get("/lists/<int:id>/effect", responses={200: Effect}, operation_id="listEffect")
@rule("open_students")
def get_effect(path: ListPath) -> Response:
    """How a list's students did since, against others who were like them."""
    here = instance()
    return as_json(list_effect(here.engine, here.settings, actor(), path.id))


@api.post("/lists/<int:id>/seen", responses={200: Seen}, operation_id="sawList")
@rule("open_students")
def post_seen(path: ListPath) -> Response:
    """Note that a list was seen as it is now."""
    return as_json(
        Seen(version=lists.looked_at(instance().engine, instance().settings, actor(), path.id))
    )


class VersionQuery(BaseModel):
    """version: as of which; none: the newest."""

    model_config = ConfigDict(extra="forbid")

    version: Id | None = None


@api.get("/students/<int:id>", responses={200: StudentPage}, operation_id="student")
@rule("open_students")
def get_student(path: ListPath, query: VersionQuery) -> Response:
    """The page of a student."""
    here = instance()
    return as_json(student_page(here.engine, here.settings, actor(), path.id, query.version))


@api.get("/students/<int:id>/notes", responses={200: StudentNotes}, operation_id="studentNotes")
@rule("open_students")
def get_student_notes(path: ListPath) -> Response:
    """What may be read about a student."""
    here = instance()
    found = student_notes.notes_on_student(here.engine, here.settings, actor(), path.id)
    return as_json(StudentNotes(notes=found))


@api.post(
    "/students/<int:id>/notes",
    responses={201: student_notes.NoteOnStudent}, operation_id="noteStudent",
)  # fmt: skip
@rule("open_students")
def post_student_note(path: ListPath, body: NewStudentNote) -> Response:
    """Write about a student."""
    here = instance()
    made = student_notes.note_student(
        here.engine, here.settings, actor(), path.id, body.text, shared=body.shared,
        list_id=body.list_id,
    )  # fmt: skip
    return as_json(made, 201)


@api.delete("/student-notes/<int:id>", operation_id="removeStudentNote")
@rule("open_students")
def delete_student_note(path: ListPath) -> Response:
    """Take a note of one's own away."""
    student_notes.remove_student_note(instance().engine, actor(), path.id)
    return as_json({"removed": True})
