"""Classes that are paired for a talk about a test, over HTTP."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict

from bridge_chart.access import pairings as held
from bridge_chart.api.context import actor, as_json, instance, rule, seen_now
from bridge_chart.api.reading import Identity

api = APIBlueprint("paired", __name__, url_prefix="/api")


class PairBody(BaseModel):
    """sitting, one, other: ids of a sitting and of two classes."""

    model_config = ConfigDict(extra="forbid")

    sitting: Identity
    one: Identity
    other: Identity


class PairingPath(BaseModel):
    id: Identity


class PairingList(BaseModel):
    pairings: list[held.Pairing]


@api.get("/pairings", responses={200: PairingList}, operation_id="pairings")
@rule("pair")
def get_pairings() -> Response:
    """The pairings under way."""
    return as_json(PairingList(pairings=held.pairings(instance().engine, actor(), seen_now())))


@api.post("/pairings", responses={201: held.Pairing}, operation_id="pair")
@rule("pair")
def post_pairing(body: PairBody) -> Response:
    """Pair two classes for a talk about a sitting."""
    engine = instance().engine
    made = held.pair(engine, actor(), seen_now(), body.sitting, body.one, body.other)
    return as_json(made, 201)


@api.delete("/pairings/<int:id>", operation_id="endPairing")
@rule("pair")
def delete_pairing(path: PairingPath) -> Response:
    """End a pairing."""
    held.end_pairing(instance().engine, actor(), seen_now(), path.id)
    return as_json({"ended": True})
