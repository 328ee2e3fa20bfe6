"""Signing in by the district's own sign-on, over HTTP: there and back."""

from __future__ import annotations

from dataclasses import asdict

from flask import Response, redirect, request
from flask import session as cookie
from flask_login import login_user
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel

from bridge_chart.access import provider
from bridge_chart.api.context import PUBLIC, SignedIn, address, as_json, instance, rule
from bridge_chart.terms.errors import BridgeError, NotSignedIn

api = APIBlueprint("sign_on", __name__, url_prefix="/api")
BEGUN, TROUBLE = "sign_on", "sign_on_trouble"
BACK = "/api/sign-on/back"


class WaysIn(BaseModel):
    """provider: what the district's own sign-on is called, null: there is none; trouble: why the
    last try by it came to nothing, said once."""

    provider: str | None
    trouble: str | None


@api.get("/sign-on", responses={200: WaysIn}, operation_id="waysIn")
@rule(PUBLIC)
def get_ways() -> Response:
    """The ways to sign in."""
    settings = instance().settings
    named = settings.provider_name if settings.provider_issuer else None
    return as_json(WaysIn(provider=named, trouble=cookie.pop(TROUBLE, None)))


@api.get("/sign-on/begin", operation_id="beginSignOn")
@rule(PUBLIC)
def get_begin() -> Response:
    """To the district's sign-on."""
    try:
        begun = provider.begin(instance().settings, f"{here()}{BACK}")
    except BridgeError as error:
        return _failed(error)
    cookie[BEGUN] = asdict(begun)
    return _to(begun.address)


@api.get("/sign-on/back", operation_id="finishSignOn")
@rule(PUBLIC)
def get_back() -> Response:
    """Back from the district's sign-on."""
    at, told = instance(), cookie.pop(BEGUN, None)
    try:
        if told is None or request.args.get("state") != told["state"]:
            raise NotSignedIn("This did not begin here.", next_step="Begin once more.")
        begun = provider.Begun(**told)
        came = f"{here()}{request.full_path}"
        who, secret = provider.finish(
            at.engine, at.settings, begun, f"{here()}{BACK}", came, address()
        )
    except BridgeError as error:
        return _failed(error)
    cookie.clear()
    cookie.permanent = True
    login_user(SignedIn(who, secret))
    return _to("/")


def here() -> str:
    """What this instance's address is, as a browser sees it."""
    return (instance().settings.public_address or request.host_url).rstrip("/")


def _failed(error: BridgeError) -> Response:
    cookie[TROUBLE] = " ".join(one for one in (error.message, error.next_step) if one)
    return _to("/")


def _to(where: str) -> Response:
    answer = redirect(where)
    answer.headers["Cache-Control"] = "no-store"
    assert isinstance(answer, Response)
    return answer
