"""Tokens over HTTP: made, listed and revoked by whose they are."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel

from bridge_chart.access import tokens
from bridge_chart.access.tokens import MadeToken, NewToken, Token
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.api.reading import Identity

api = APIBlueprint("tokens", __name__, url_prefix="/api")


class TokenPath(BaseModel):
    token: Identity


class TokenList(BaseModel):
    """One's own tokens, and what a new one may be let do."""

    tokens: list[Token]
    may: list[str]


@api.get("/tokens", responses={200: TokenList}, operation_id="listTokens")
@rule("own_account")
def get_tokens() -> Response:
    """One's own tokens."""
    who = actor()
    found = tokens.list_tokens(instance().engine, who)
    return as_json(TokenList(tokens=found, may=tokens.grantable(who)))


@api.post("/tokens", responses={201: MadeToken}, operation_id="makeToken")
@rule("own_account")
def post_token(body: NewToken) -> Response:
    """A token for a program, which sends it as `Authorization: Bearer …`; shown this once."""
    return as_json(tokens.make_token(instance().engine, actor(), body), 201)


@api.delete("/tokens/<int:token>", operation_id="revokeToken")
@rule("own_account")
def delete_token(path: TokenPath) -> Response:
    """Revoke a token."""
    tokens.revoke_token(instance().engine, actor(), path.token)
    return as_json({"revoked": path.token})
