"""Setup over HTTP: releases of the district's figures, which role sees what, its own words."""

from __future__ import annotations

import datetime as dt

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, ConfigDict, Field

from bridge_chart.access import releases, sight, words
from bridge_chart.api.context import actor, as_json, instance, rule
from bridge_chart.terms.people import ROLES
from bridge_chart.terms.words import DistrictWords

api = APIBlueprint("setup", __name__, url_prefix="/api")


class Body(BaseModel):
    model_config = ConfigDict(extra="forbid")


class ReleaseInfo(BaseModel):
    """A release: the version that it is pinned to, when and by whom it was made."""

    id: int
    at: dt.datetime
    version: int
    title: str
    by: str


class ReleaseList(BaseModel):
    releases: list[ReleaseInfo]


class NewRelease(Body):
    title: str = Field(max_length=400)


class SightInfo(BaseModel):
    """A characteristic (by its id) or “notes”, and the roles that see it."""

    what: str
    label: str
    sensitive: bool
    roles: list[str]


class SightList(BaseModel):
    """roles: every role, in the order of what it sees."""

    roles: list[str]
    sights: list[SightInfo]


class CalledInfo(BaseModel):
    """A characteristic by its id, as files call it."""

    id: int
    called: str


class WordsInfo(BaseModel):
    """The district's words, how often they were said, and the characteristics as files call
    them."""

    words: DistrictWords
    revision: int
    characteristics: list[CalledInfo]


class NewWords(Body):
    """All of the district's words; `revision`: of the words that they replace."""

    words: DistrictWords
    revision: int


class NewSight(Body):
    """Who sees a thing; without roles as its kind says."""

    what: str = Field(max_length=40)
    sensitive: bool = False
    roles: list[str] | None = Field(default=None, max_length=20)


def _release(one: releases.Release) -> ReleaseInfo:
    return ReleaseInfo(id=one.id, at=one.at, version=one.version, title=one.title, by=one.by)


def _words(held: words.Said) -> WordsInfo:
    called = [CalledInfo(id=i, called=name) for i, name in held.called.items()]
    return WordsInfo(words=held.words, revision=held.revision, characteristics=called)


def _sight(one: sight.Sight) -> SightInfo:
    return SightInfo(what=one.what, label=one.label, sensitive=one.sensitive, roles=list(one.roles))


@api.get("/releases", responses={200: ReleaseList}, operation_id="releases")
@rule("release")
def get_releases() -> Response:
    """The releases of the district's figures, newest first."""
    found = releases.list_releases(instance().engine, actor())
    return as_json(ReleaseList(releases=[_release(one) for one in found]))


@api.post("/releases", responses={201: ReleaseInfo}, operation_id="makeRelease")
@rule("release")
def post_release(body: NewRelease) -> Response:
    """Release the district's figures as they are now."""
    return as_json(_release(releases.make_release(instance().engine, actor(), body.title)), 201)


@api.get("/sights", responses={200: SightList}, operation_id="sights")
@rule("sight")
def get_sights() -> Response:
    """Which role sees which characteristic, and colleagues' notes."""
    found = sight.sights(instance().engine, actor())
    return as_json(SightList(roles=list(ROLES), sights=[_sight(one) for one in found]))


@api.put("/sights", responses={200: SightInfo}, operation_id="sayWhoSees")
@rule("sight")
def put_sight(body: NewSight) -> Response:
    """Say which roles see a characteristic, or colleagues' notes."""
    made = sight.say_who_sees(
        instance().engine, actor(), body.what, sensitive=body.sensitive, roles=body.roles
    )
    return as_json(_sight(made))


@api.get("/words", responses={200: WordsInfo}, operation_id="words")
@rule("words")
def get_words() -> Response:
    """The district's own words, and how files call each characteristic."""
    return as_json(_words(words.said(instance().engine, actor())))


@api.put("/words", responses={200: WordsInfo}, operation_id="sayWords")
@rule("words")
def put_words(body: NewWords) -> Response:
    """Say the district's own words."""
    return as_json(_words(words.say_words(instance().engine, actor(), body.words, body.revision)))
