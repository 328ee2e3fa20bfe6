"""What is known of backups, over HTTP; the worker writes them each day, or the command line."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel

from bridge_chart.answers.beside.backups import BackupList, list_backups
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.store.room import LITTLE, free_megabytes

api = APIBlueprint("backups", __name__, url_prefix="/api")


class Room(BaseModel):
    """What is free on the disk; low: so little that it should be seen to."""

    free_megabytes: int
    low: bool


@api.get("/room", responses={200: Room}, operation_id="room")
@rule("backups")
def get_room() -> Response:
    """How much room is left on the disk."""
    free = free_megabytes(instance().settings)
    return as_json(Room(free_megabytes=free, low=free < LITTLE))


@api.get("/backups", responses={200: BackupList}, operation_id="listBackups")
@rule("backups")
def get_backups() -> Response:
    """The newest backups, and when the last good one was."""
    here = instance()
    return as_json(list_backups(here.engine, here.settings, actor()))
