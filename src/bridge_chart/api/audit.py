"""The audit over HTTP: searched, filtered, taken out by a data lead."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel

from bridge_chart.access.audit import ACTIONS, AuditAsked, AuditPage, audit_page, audit_rows
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.output.csv import to_csv

api = APIBlueprint("audit", __name__, url_prefix="/api")


class ActionInfo(BaseModel):
    key: str
    says: str


class ActionList(BaseModel):
    """Everything that is noted, in words that finish “somebody …”."""

    actions: list[ActionInfo]


@api.get("/audit", responses={200: AuditPage}, operation_id="readAudit")
@rule("audit")
def get_audit(query: AuditAsked) -> Response:
    """Lines of the audit, newest first."""
    return as_json(audit_page(instance().engine, actor(), query))


@api.get("/audit/actions", responses={200: ActionList}, operation_id="auditActions")
@rule("audit")
def get_actions() -> Response:
    """What there is to filter by."""
    return as_json(ActionList(actions=[ActionInfo(key=k, says=v) for k, v in ACTIONS.items()]))


@api.post("/audit/csv", operation_id="exportAudit")
@rule("audit")
def post_csv(body: AuditAsked) -> Response:
    """All lines that fit as CSV; noted in the audit."""
    heads, rows = audit_rows(instance().engine, actor(), body)
    headers = {
        "Content-Disposition": 'attachment; filename="bridge-chart-audit.csv"',
        "Cache-Control": "no-store",
    }
    return Response(to_csv(heads, rows), mimetype="text/csv", headers=headers)
