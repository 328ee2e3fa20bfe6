"""What is known of backups, over HTTP; the worker writes them each day, or the command line."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint

from bridge_chart.answers.beside.backups import BackupList, list_backups
from bridge_chart.api.context import actor, as_json, instance, rule

api = APIBlueprint("backups", __name__, url_prefix="/api")


@api.get("/backups", responses={200: BackupList}, operation_id="listBackups")
@rule("backups")
def get_backups() -> Response:
    """The newest backups, and when the last good one was."""
    here = instance()
    return as_json(list_backups(here.engine, here.settings, actor()))
