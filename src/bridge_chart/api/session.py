"""Signing in and out."""

from __future__ import annotations

from dataclasses import replace

from flask import Response
from flask import session as cookie
from flask_login import current_user, login_user, logout_user
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access import codes, links, managing, sessions
from bridge_chart.access.codes import CodesOffered, CodesState, RecoveryCodes
from bridge_chart.access.links import LinkFor
from bridge_chart.access.provider import sign_out_address
from bridge_chart.access.rules import RULES, may
from bridge_chart.api.context import (
    PUBLIC,
    SignedIn,
    actor,
    address,
    as_json,
    instance,
    rule,
    session,
)
from bridge_chart.api.sign_on import here
from bridge_chart.store.words import words_of
from bridge_chart.terms.errors import NotSignedIn
from bridge_chart.terms.people import Actor
from bridge_chart.terms.words import DistrictWords

api = APIBlueprint("session", __name__, url_prefix="/api")


class SignInBody(BaseModel):
    """code: a one-time code, where the account asks for one."""

    model_config = ConfigDict(extra="forbid")
    login: str = Field(max_length=200)
    password: str = Field(max_length=500)
    code: str = Field(default="", max_length=60)


class CodesBody(BaseModel):
    """secret: the one that was offered; code: made by it."""

    model_config = ConfigDict(extra="forbid")
    secret: str = Field(max_length=200)
    code: str = Field(max_length=60)
    password: str = Field(max_length=500)


class OnlyPassword(BaseModel):
    model_config = ConfigDict(extra="forbid")
    password: str = Field(max_length=500)


class SignedOut(BaseModel):
    """at_provider: where to go so that the district's sign-on signs out too."""

    signed_out: bool = True
    at_provider: str | None = None


class Person(BaseModel):
    """Who is signed in, what their role allows, and the words that the district speaks."""

    login: str
    name: str
    role: str
    may: list[str]
    words: DistrictWords
    names_hidden: bool
    seeing_as: str
    must_start_codes: bool


class NamesBody(BaseModel):
    model_config = ConfigDict(extra="forbid")
    hidden: bool


class AsBody(BaseModel):
    """account: null: as oneself again."""

    model_config = ConfigDict(extra="forbid")
    account: int | None


class PasswordBody(BaseModel):
    model_config = ConfigDict(extra="forbid")
    old: str = Field(max_length=500)
    new: str = Field(max_length=500)


class LinkBody(BaseModel):
    model_config = ConfigDict(extra="forbid")
    secret: str = Field(max_length=200)


class LinkUsed(LinkBody):
    """login, name: of the first data lead; of others they are known."""

    password: str = Field(max_length=500)
    login: str = Field(default="", max_length=200)
    name: str = Field(default="", max_length=200)
    code: str = Field(default="", max_length=60)


class SessionState(BaseModel):
    """Who is signed in in this browser; null if nobody is."""

    person: Person | None


def _person(who: Actor) -> Person:
    allowed = [action for action in RULES if may(who, action)]
    # Names of characteristics come with what may be asked: a role may not see them all.
    words = words_of(instance().engine).model_copy(update={"characteristics": {}})
    return Person(login=who.login, name=who.name, role=who.role, may=allowed, words=words,
                  names_hidden=who.names_hidden, seeing_as=who.seeing_as,
                  must_start_codes=who.only == sessions.FIRST_CODES)  # fmt: skip


@api.post("/session", responses={200: Person}, operation_id="signIn")
@rule(PUBLIC)
def post_session(body: SignInBody) -> Response:
    """Sign in; the cookie is for this browser only and runs out."""
    return _begun(*sessions.sign_in(
        instance().engine, body.login, body.password, address(), body.code
    ))  # fmt: skip


def _begun(who: Actor, secret: str) -> Response:
    cookie.clear()
    cookie.permanent = True
    login_user(SignedIn(who, secret))
    return as_json(_person(who))


@api.post("/links/look", responses={200: LinkFor}, operation_id="lookAtLink")
@rule(PUBLIC)
def post_look(body: LinkBody) -> Response:
    """Whom a one-time link is for."""
    return as_json(links.look_at(instance().engine, body.secret))


@api.post("/links/use", responses={200: Person}, operation_id="useLink")
@rule(PUBLIC)
def post_use(body: LinkUsed) -> Response:
    """Say a password by a one-time link; its person is signed in then."""
    return _begun(*links.use_link(
        instance().engine, body.secret, body.password, address(), body.login, body.name, body.code
    ))  # fmt: skip


@api.get("/session", responses={200: SessionState}, operation_id="whoAmI")
@rule(PUBLIC)
def get_session() -> Response:
    """Who is signed in."""
    try:
        return as_json(SessionState(person=_person(actor())))
    except NotSignedIn:
        return as_json(SessionState(person=None))


@api.put("/session/as", responses={200: Person}, operation_id="seeAs")
@rule("look", reads=True)
def put_as(body: AsBody) -> Response:
    """Look as another account sees, changing nothing; or as oneself again."""
    here_ = instance()
    return as_json(_person(sessions.see_as(here_.engine, here_.settings, session(), body.account)))


@api.put("/session/names", responses={200: Person}, operation_id="hideNames")
@rule("look", reads=True)
def put_names(body: NamesBody) -> Response:
    """Hide students' names in this browser, or show them again."""
    sessions.hide_names(instance().engine, session(), hidden=body.hidden)
    return as_json(_person(replace(actor(), names_hidden=body.hidden)))


@api.delete("/session", responses={200: SignedOut}, operation_id="signOut")
@rule(PUBLIC)
def delete_session() -> Response:
    """Sign out: this session is over, whatever still comes with its cookie."""
    told, here_ = SignedOut(), instance()
    if current_user.is_authenticated:
        vouched = sessions.provider_token(here_.engine, session())
        told.at_provider = sign_out_address(here_.settings, vouched, f"{here()}/")
        sessions.sign_out(here_.engine, actor(), session())
    logout_user()
    cookie.clear()
    return as_json(told)


@api.get("/session/codes", responses={200: CodesState}, operation_id="codesState")
@rule("own_account")
def get_codes() -> Response:
    """Whether one's own sign-in asks for one-time codes."""
    return as_json(codes.codes_state(instance().engine, actor()))


@api.post("/session/codes/offer", responses={200: CodesOffered}, operation_id="offerCodes")
@rule("own_account")
def post_offer() -> Response:
    """A secret for an app that makes codes; it counts once one of them was said."""
    return as_json(codes.offer_codes(actor()))


@api.put("/session/codes", responses={200: RecoveryCodes}, operation_id="startCodes")
@rule("own_account")
def put_codes(body: CodesBody) -> Response:
    """Sign in with one-time codes from now on; recovery codes come back, this once."""
    return as_json(codes.start_codes(
        instance().engine, actor(), body.secret, body.code, body.password, address()
    ))  # fmt: skip


@api.put("/session/codes/end", responses={200: CodesState}, operation_id="endCodes")
@rule("own_account")
def put_end_codes(body: OnlyPassword) -> Response:
    """Sign in without one-time codes again."""
    return as_json(codes.end_codes(instance().engine, actor(), body.password, address()))


@api.put("/session/password", responses={200: Person}, operation_id="newPassword")
@rule("own_account")
def put_password(body: PasswordBody) -> Response:
    """Change one's own password: every other session ends."""
    managing.new_password(instance().engine, actor(), body.old, body.new, session(), address())
    return as_json(_person(actor()))


@api.delete("/session/everywhere", operation_id="signOutEverywhere")
@rule("own_account")
def delete_everywhere() -> Response:
    """End all of one's own sessions, this one with them."""
    sessions.sign_out_everywhere(instance().engine, actor())
    logout_user()
    cookie.clear()
    return as_json({"signed_out": True})
