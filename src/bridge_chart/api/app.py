"""The web application: blueprints, sign-in, errors, and the built web pages."""

from __future__ import annotations

import datetime as dt
import logging
from mimetypes import guess_type
from pathlib import Path
from typing import Any

import psycopg
import sqlalchemy as sa
from flask import Request, Response, current_app, request, send_from_directory
from flask_login import LoginManager
from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge

from bridge_chart import __version__
from bridge_chart.access.audit import note
from bridge_chart.access.rules import require
from bridge_chart.access.sessions import actor_in
from bridge_chart.access.tokens import actor_with
from bridge_chart.answers.asking.warm import WARMING
from bridge_chart.api import (
    accounts,
    answers,
    attached,
    audit,
    awards,
    backups,
    grid,
    intake,
    kept,
    paired,
    paper,
    people,
    published,
    records,
    session,
    setup,
    sign_on,
    tokens,
    use,
)
from bridge_chart.api.context import (
    PUBLIC,
    Instance,
    SignedIn,
    actor,
    as_json,
    instance,
    rule,
)
from bridge_chart.api.forwarded import Forwarded
from bridge_chart.api.health import health_of
from bridge_chart.api.packed import packed, takes_gzip
from bridge_chart.api.reading import refuse_unreadable
from bridge_chart.store.database import connect
from bridge_chart.store.room import as_no_room
from bridge_chart.store.settings import Settings, load_settings
from bridge_chart.store.snapshot_build import snapshot_of
from bridge_chart.store.words import words_of
from bridge_chart.terms.errors import (
    BridgeError,
    ErrorBody,
    InvalidQuestion,
    NotAllowed,
    NotFound,
    NotSignedIn,
    RecordAway,
    problems_of,
)
from bridge_chart.terms.words import PLAIN, speak

WEB = Path(__file__).resolve().parents[3] / "web" / "dist"
log = logging.getLogger(__name__)
SAFE_METHODS = ("GET", "HEAD", "OPTIONS")
PRESSABLE = "sha256-38RhXrc7EdReTKsOm23ZPOCUgniTUUcjky8QOOrQx6o="
"""The one style that a part of the pages writes into them itself: how what can be pressed is
touched. Any other inline style is refused."""
CONTENT_POLICY = (
    f"default-src 'self'; style-src 'self' '{PRESSABLE}'; img-src 'self' data:; object-src 'none'; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)


def make_app(settings: Settings | None = None) -> OpenAPI:
    """The application for one instance; its cluster runs and its tables are up to date."""
    settings = settings or load_settings()
    app = describe_only(settings)
    engine = connect(settings)
    app.extensions["bridge_chart"] = Instance(settings, engine)
    snapshot_of(engine, settings.snapshots)
    engine.dispose()
    return app


def describe_only(settings: Settings) -> OpenAPI:
    """The application without a database behind it: enough to describe its interface."""
    app = OpenAPI(
        __name__,
        info=Info(title="Bridge Chart", version=__version__),
        doc_ui=False,
        static_folder=None,
        validation_error_callback=_refuse_form,
    )
    app.config.update(
        SECRET_KEY=settings.secret_key,
        MAX_CONTENT_LENGTH=settings.upload_megabytes * 1024 * 1024,
        MAX_FORM_MEMORY_SIZE=2 * 1024 * 1024,
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_NAME="bridge_chart",
        # Written at signing in and out alone: an answer under way brings nothing back.
        SESSION_REFRESH_EACH_REQUEST=False,
        SESSION_COOKIE_SECURE=settings.secure_cookie,
        PERMANENT_SESSION_LIFETIME=dt.timedelta(hours=settings.session_hours),
    )
    _add_sign_in(app)
    _add_errors(app)
    app.before_request(_admit)
    app.after_request(_headers)
    app.teardown_request(lambda _: speak(PLAIN))
    for blueprint in (
        session.api,
        accounts.api,
        audit.api,
        backups.api,
        answers.api,
        use.api,
        intake.api,
        kept.api,
        grid.api,
        people.api,
        attached.api,
        awards.api,
        paired.api,
        paper.api,
        published.api,
        records.api,
        setup.api,
        sign_on.api,
        tokens.api,
    ):
        app.register_api(blueprint)
    _add_pages(app)
    trusted = {one.strip() for one in settings.trusted_proxies.split(",") if one.strip()}
    app.wsgi_app = Forwarded(app.wsgi_app, trusted)  # type: ignore[assignment, method-assign]
    return app


def _add_sign_in(app: OpenAPI) -> None:
    manager = LoginManager(app)

    @manager.user_loader  # type: ignore[untyped-decorator]
    def load(identity: str) -> SignedIn | None:
        here = app.extensions["bridge_chart"]
        try:
            return SignedIn(actor_in(here.engine, here.settings, identity), identity)
        except NotSignedIn:
            return None

    @manager.request_loader  # type: ignore[untyped-decorator]
    def load_program(asking: Request) -> SignedIn | None:
        kind, _, secret = asking.headers.get("Authorization", "").partition(" ")
        if kind.lower() != "bearer":
            return None
        return SignedIn(actor_with(app.extensions["bridge_chart"].engine, secret.strip()), "")


def _admit() -> None:
    """The endpoint's own rule, before its body is read."""
    if request.endpoint is None:
        return
    view = current_app.view_functions[request.endpoint]
    action = getattr(view, "access_rule", None)
    if action is None:
        raise NotAllowed("This endpoint has no access rule, so nobody may use it.")
    if request.method not in SAFE_METHODS:
        _refuse_other_sites()
    if action != PUBLIC:
        _require(action)
        if request.method not in SAFE_METHODS and not getattr(view, "only_reads", False):
            _refuse_seeing_as()
        speak(words_of(instance().engine))
    refuse_unreadable(request)


def _require(action: str) -> None:
    """What a role does not allow is refused, and noted."""
    who = actor()
    try:
        require(who, action)
    except NotAllowed:
        detail = {"action": action, "method": request.method, "path": request.path[:400]}
        note(instance().engine, who, "refused", detail)
        raise


def _refuse_seeing_as() -> None:
    """Who looks as somebody else sees changes nothing, in whoever's name."""
    who = actor()
    if who.seeing_as:
        raise NotAllowed(
            f"You look as {who.name} sees; nothing can be changed so.", kept="Nothing was changed.",
            next_step="Look as yourself again first.",
        )  # fmt: skip


def _refuse_other_sites() -> None:
    """A page of another site may not act with this person's cookie."""
    origin = request.headers.get("Origin")
    if origin is not None and origin.split("://", 1)[-1] != request.host:
        raise NotAllowed("This came from another site.", kept="Nothing was changed.")


def _headers(response: Response) -> Response:
    response.headers.setdefault("X-Content-Type-Options", "nosniff")
    response.headers.setdefault("Referrer-Policy", "no-referrer")
    response.headers.setdefault("Content-Security-Policy", CONTENT_POLICY)
    return packed(request, response)


def _refuse_form(error: ValidationError) -> Response:
    """A body or query that does not fit its schema, in the one shape of errors."""
    problems = problems_of(error)
    first = problems[0]
    ours = InvalidQuestion(
        f"The request cannot be understood: {first['at'] or 'the whole'}: {first['problem']}.",
        kept="Nothing was changed.",
        next_step="Compare it with /api/openapi.json.",
        problems=problems[:20],
    )
    return as_json(ours.as_json(), ours.status)


def _add_errors(app: OpenAPI) -> None:
    def ours(error: BridgeError) -> Response:
        return as_json(error.as_json(), error.status)

    def too_large(_: RequestEntityTooLarge) -> Response:
        most = app.extensions["bridge_chart"].settings.upload_megabytes
        error = InvalidQuestion(
            f"The file is larger than {most} MB.", kept="Nothing was changed.",
            next_step="Bring it in on the command line, or in parts.",
        )  # fmt: skip
        return as_json(error.as_json(), 413)

    def away(error: Exception) -> Response:
        if (full := as_no_room(error)) is not None:
            log.warning("no room at %s: %s", request.path, error)
            return ours(full)
        log.warning("the record is away at %s: %s", request.path, error)
        ours_ = RecordAway(
            "The record cannot be reached just now.", kept="What was kept before is safe.",
            next_step="Try again in a minute.",
        )  # fmt: skip
        return as_json(ours_.as_json(), ours_.status)

    def http(error: HTTPException) -> Response:
        found = NotFound(f"{error.description}")
        return as_json(found.as_json(), error.code or 500)

    def unforeseen(error: Exception) -> Response:
        if (full := as_no_room(error)) is not None:
            log.warning("no room at %s: %s", request.path, error)
            return ours(full)
        log.exception("unforeseen error at %s", request.path)
        ours_ = BridgeError(
            "Something went wrong on our side.", kept="What was kept before is safe.",
            next_step="Try again; if it stays, the server's log says more.",
        )  # fmt: skip
        return as_json(ours_.as_json(), 500)

    app.register_error_handler(BridgeError, ours)
    app.register_error_handler(RequestEntityTooLarge, too_large)
    app.register_error_handler(HTTPException, http)
    app.register_error_handler(sa.exc.OperationalError, away)
    app.register_error_handler(sa.exc.InterfaceError, away)
    # What is copied in and out goes past SQLAlchemy.
    app.register_error_handler(psycopg.OperationalError, away)
    app.register_error_handler(Exception, unforeseen)


def _add_pages(app: OpenAPI) -> None:
    """Health, the interface's own description, and the built web pages."""

    @rule(PUBLIC)
    def health() -> Response:
        here = app.extensions["bridge_chart"]
        told = health_of(here.engine, here.settings)
        told |= {"version": __version__, "warming": WARMING.is_set()}
        return as_json(told, 200 if told["ok"] else 503)

    @rule(PUBLIC)
    def description() -> Response:
        return as_json(openapi_document(app))

    @rule(PUBLIC)
    def page(path: str = "index.html") -> Response:
        if path.startswith("api/"):
            raise NotFound("There is no such endpoint.")
        if not _is_built(path):
            path = "index.html"
        ready = takes_gzip(request) and _is_built(f"{path}.gz")
        response = send_from_directory(WEB, f"{path}.gz" if ready else path)
        if ready:
            response.headers["Content-Encoding"] = "gzip"
            response.mimetype = guess_type(path)[0] or "application/octet-stream"
        response.vary.add("Accept-Encoding")
        fixed = path.startswith("assets/")
        response.headers["Cache-Control"] = (
            "public, max-age=31536000, immutable" if fixed else "no-cache"
        )
        return response

    app.add_url_rule("/api/health", "health", health)
    app.add_url_rule("/api/openapi.json", "openapi", description)
    app.add_url_rule("/", "home", page)
    app.add_url_rule("/<path:path>", "page", page)


def _is_built(path: str) -> bool:
    """Whether the built pages have such a file; no name can be too long or too odd to ask."""
    try:
        return (WEB / path).is_file()
    except (OSError, ValueError):
        return False


def openapi_document(app: OpenAPI) -> dict[str, Any]:
    """The OpenAPI 3.1 document of the interface."""
    document: dict[str, Any] = app.api_doc
    # A document says nothing about what it has not: a null is no valid value here.
    parts = {key: part for key, part in document["components"].items() if part is not None}
    schema = ErrorBody.model_json_schema(ref_template="#/components/schemas/{model}")
    parts["schemas"] |= {**schema.pop("$defs"), "ErrorBody": schema}
    for operations in document["paths"].values():
        for operation in operations.values():
            operation["responses"] |= {status: _error(words) for status, words in ERRORS.items()}
    return {**document, "components": parts}


ERRORS = {
    "401": "Nobody is signed in",
    "403": "The role does not allow it",
    "404": "There is no such thing, or not for this role",
    "409": "Something changed meanwhile",
    "413": "Too large",
    "422": "It cannot be understood",
    "429": "Too many tries",
    "500": "Something went wrong on our side",
    "501": "Not built yet",
    "503": "Not reachable just now",
}


def _error(words: str) -> dict[str, Any]:
    """An error's response: one body for all."""
    body = {"schema": {"$ref": "#/components/schemas/ErrorBody"}}
    return {"description": words, "content": {"application/json": body}}
