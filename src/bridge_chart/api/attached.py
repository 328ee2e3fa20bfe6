"""Papers, mark schemes and reports of a sitting, over HTTP."""

from __future__ import annotations

from urllib.parse import quote

from flask import Response
from flask_openapi3 import APIBlueprint, FileStorage
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.answers.beside import attachments as held
from bridge_chart.api.context import actor, as_json, instance, rule, seen_now
from bridge_chart.api.reading import Identity
from bridge_chart.terms.errors import InvalidQuestion

api = APIBlueprint("attached", __name__, url_prefix="/api")
STRICT = "default-src 'none'; script-src 'none'; object-src 'none'; frame-ancestors 'none'"
"""Of a file that somebody attached nothing is run, and it shows in no frame."""


class OfSitting(BaseModel):
    model_config = ConfigDict(extra="forbid")

    sitting: Identity


class AttachForm(BaseModel):
    """form: of which it is; blank: of all."""

    file: FileStorage
    sitting: Identity
    kind: held.Kind = "paper"
    form: str = Field(default="", max_length=200)


class AttachmentPath(BaseModel):
    id: Identity


class AttachmentList(BaseModel):
    attachments: list[held.Attachment]


@api.get("/attachments", responses={200: AttachmentList}, operation_id="attachments")
@rule("ask")
def get_attachments(query: OfSitting) -> Response:
    """What is attached to a sitting."""
    found = held.attachments(instance().engine, seen_now(), query.sitting)
    return as_json(AttachmentList(attachments=found))


@api.post("/attachments", responses={201: held.Attachment}, operation_id="attach")
@rule("intake")
def post_attachment(form: AttachForm) -> Response:
    """Attach a PDF or a picture to a sitting."""
    if not hasattr(form.file, "filename"):
        raise InvalidQuestion("“file” is a text, not a file.", kept="Nothing was attached.")
    made = held.attach(
        instance().engine, actor(), seen_now(), form.sitting, form.kind, form.form,
        form.file.filename or "", form.file.read(),
    )  # fmt: skip
    return as_json(made, 201)


@api.get("/attachments/<int:id>/file", operation_id="openAttachment")
@rule("ask")
def get_attachment(path: AttachmentPath) -> Response:
    """The file itself, as what it is and nothing else; noted in the audit."""
    name, media, data = held.opened(instance().engine, actor(), seen_now(), path.id)
    response = Response(data, mimetype=media)
    response.headers["Content-Security-Policy"] = STRICT
    response.headers["Content-Disposition"] = f"inline; filename*=UTF-8''{quote(name)}"
    response.headers["Cache-Control"] = "private, no-store"
    response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
    return response


@api.delete("/attachments/<int:id>", operation_id="removeAttachment")
@rule("intake")
def delete_attachment(path: AttachmentPath) -> Response:
    """Take an attachment away."""
    held.remove(instance().engine, actor(), path.id)
    return as_json({"removed": True})
