"""Any page of the interface as PDF: asked for by somebody, drawn as they see it."""

from __future__ import annotations

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, OpenAPI
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access.audit import note
from bridge_chart.api.context import ACTOR, actor, instance, rule
from bridge_chart.output.paper import HOST, Asked, Given, Paper, on_paper
from bridge_chart.terms.people import Actor

api = APIBlueprint("paper", __name__, url_prefix="/api")
LEFT_OUT = ("cookie", "accept-encoding", "host", "content-length")
"""Headers that the page's request is answered without: who asks is known, nothing is packed."""


class PageBody(BaseModel):
    """page: its path with its query, as the address has it; paper: the size of the sheets."""

    model_config = ConfigDict(extra="forbid")

    page: str = Field(
        pattern=r"^/(awards|compare|progress|tests|people|methods|published|setup)([/?].*)?$",
        max_length=60_000,
    )
    paper: Paper = "A4"


@api.post("/exports/pdf", operation_id="exportPdf")
@rule("published", reads=True)
def post_pdf(body: PageBody) -> Response:
    """A page of this interface as PDF; noted in the audit."""
    who = actor()
    note(instance().engine, who, "export", {"page": body.page[:2000], "as": "pdf"})
    app: OpenAPI = current_app._get_current_object()  # type: ignore[attr-defined]
    data = printed(app, who, body.page, body.paper)
    headers = {
        "Content-Disposition": 'attachment; filename="bridge-chart.pdf"',
        "Cache-Control": "no-store",
    }
    return Response(data, mimetype="application/pdf", headers=headers)


def printed(app: OpenAPI, who: Actor, page: str, paper: Paper = "A4") -> bytes:
    """The PDF of a page as somebody sees it. Every request of it is answered by the application
    itself, as that person: their role, scope and hidden names hold as on screen."""

    def answer(asked: Asked) -> Given:
        kept = {k: v for k, v in asked.headers.items() if k.lower() not in LEFT_OUT}
        found = app.test_client().open(
            asked.target, method=asked.method, headers=kept, data=asked.body,
            base_url=f"http://{HOST}", environ_overrides={ACTOR: who},
        )  # fmt: skip
        return Given(found.status_code, dict(found.headers), found.get_data())

    return on_paper(page, answer, paper)
