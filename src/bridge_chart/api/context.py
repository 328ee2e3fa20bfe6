"""What every endpoint shares: the instance, who asks, and the rule that lets them in."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar, cast

import orjson
import sqlalchemy as sa
from flask import Response, current_app, request
from flask_login import UserMixin, current_user
from pydantic import BaseModel

from bridge_chart.access.rules import RULES
from bridge_chart.access.scoped import seen_by
from bridge_chart.store.settings import Settings
from bridge_chart.store.snapshot import Snapshot
from bridge_chart.terms.errors import NotSignedIn
from bridge_chart.terms.people import Actor

View = TypeVar("View", bound=Callable[..., Any])
PUBLIC = "public"
ACTOR = "bridge_chart.actor"
"""Where a request from within says who asks; no header of one from without becomes this."""


@dataclass(frozen=True)
class Instance:
    settings: Settings
    engine: sa.Engine


class SignedIn(UserMixin):  # type: ignore[misc]
    """Flask-Login's user: our actor."""

    def __init__(self, actor: Actor, session: str) -> None:
        self.actor, self.session = actor, session
        self.id = session


def instance() -> Instance:
    """The instance that this process serves."""
    return cast(Instance, current_app.extensions["bridge_chart"])


def actor() -> Actor:
    """Who asks; NotSignedIn if nobody does."""
    printing = request.environ.get(ACTOR)
    if isinstance(printing, Actor):
        return printing
    if not current_user.is_authenticated:
        raise NotSignedIn("Nobody is signed in.", next_step="Sign in.")
    return cast(SignedIn, current_user).actor


def session() -> str:
    """The secret of the session that asks; blank where a page is printed within."""
    return current_user.session if current_user.is_authenticated else ""


def address() -> str:
    """Where the request comes from, behind proxies that the settings trust."""
    return request.remote_addr or ""


def rule(action: str, *, reads: bool = False) -> Callable[[View], View]:
    """Declare who may use an endpoint: an action of `access.rules`, or PUBLIC. reads: it changes
    nothing though it is no GET; whoever looks as somebody else sees may use these alone.

    It is checked before the body is read (`api.app`); a test finds endpoints without one.
    """
    if action not in (*RULES, PUBLIC):
        raise ValueError(f"“{action}” is no action")

    def declare(view: View) -> View:
        view.access_rule = action  # type: ignore[attr-defined]
        view.only_reads = reads  # type: ignore[attr-defined]
        return view

    return declare


def as_json(value: BaseModel | bytes | Any, status: int = 200) -> Response:
    """A JSON response that no cache keeps: it may speak of students."""
    if isinstance(value, BaseModel):
        data = value.model_dump_json(by_alias=True).encode()
    else:
        data = value if isinstance(value, bytes) else orjson.dumps(value)
    return Response(
        data, status, mimetype="application/json", headers={"Cache-Control": "no-store"}
    )


def seen_now() -> Snapshot:
    """The newest version as whoever asks may see it."""
    here = instance()
    return seen_by(here.engine, here.settings.snapshots, actor())
