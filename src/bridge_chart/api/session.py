"""Signing in and out."""

from __future__ import annotations

import secrets
from dataclasses import replace

from flask import Response
from flask import session as cookie
from flask_login import current_user, login_user, logout_user
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access.accounts import end_session, sign_in
from bridge_chart.access.rules import RULES, may
from bridge_chart.api.context import NAMES_HIDDEN, PUBLIC, SignedIn, actor, as_json, instance, rule
from bridge_chart.store.words import words_of
from bridge_chart.terms.errors import NotSignedIn
from bridge_chart.terms.people import Actor
from bridge_chart.terms.words import DistrictWords

api = APIBlueprint("session", __name__, url_prefix="/api")


class SignInBody(BaseModel):
    model_config = ConfigDict(extra="forbid")
    login: str = Field(max_length=200)
    password: str = Field(max_length=500)


class Person(BaseModel):
    """Who is signed in, what their role allows, and the words that the district speaks."""

    login: str
    name: str
    role: str
    may: list[str]
    words: DistrictWords
    names_hidden: bool


class NamesBody(BaseModel):
    model_config = ConfigDict(extra="forbid")
    hidden: bool


class SessionState(BaseModel):
    """Who is signed in in this browser; null if nobody is."""

    person: Person | None


def _person(who: Actor) -> Person:
    allowed = [action for action in RULES if may(who, action)]
    # Names of characteristics come with what may be asked: a role may not see them all.
    words = words_of(instance().engine).model_copy(update={"characteristics": {}})
    return Person(login=who.login, name=who.name, role=who.role, may=allowed, words=words,
                  names_hidden=who.names_hidden)  # fmt: skip


@api.post("/session", responses={200: Person}, operation_id="signIn")
@rule(PUBLIC)
def post_session(body: SignInBody) -> Response:
    """Sign in; the cookie is for this browser only and runs out."""
    who = sign_in(instance().engine, body.login, body.password)
    cookie.clear()
    cookie.permanent = True
    login_user(SignedIn(who, secrets.token_urlsafe(16)))
    return as_json(_person(who))


@api.get("/session", responses={200: SessionState}, operation_id="whoAmI")
@rule(PUBLIC)
def get_session() -> Response:
    """Who is signed in."""
    try:
        return as_json(SessionState(person=_person(actor())))
    except NotSignedIn:
        return as_json(SessionState(person=None))


@api.put("/session/names", responses={200: Person}, operation_id="hideNames")
@rule("ask")
def put_names(body: NamesBody) -> Response:
    """Hide students' names in this browser, or show them again."""
    cookie[NAMES_HIDDEN] = body.hidden
    return as_json(_person(replace(actor(), names_hidden=body.hidden)))


@api.delete("/session", operation_id="signOut")
@rule(PUBLIC)
def delete_session() -> Response:
    """Sign out: this session is over, whatever still comes with its cookie."""
    if current_user.is_authenticated:
        end_session(instance().engine, current_user.session)
    logout_user()
    cookie.clear()
    return as_json({"signed_out": True})
