"""A stand-in for a district's own sign-on: OpenID Connect with the code flow, people from a table,
no password at all. For trying out and for tests, on loopback only.
"""

from __future__ import annotations

import base64
import hashlib
import html
import secrets
import time
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urlencode

from flask import Flask, Response, jsonify, redirect, request
from joserfc import jwt
from joserfc.jwk import RSAKey

People = dict[str, dict[str, Any]]
"""What is said of each, by who they are (`sub`)."""
MERROW: People = {
    "u-ailsa": {"name": "Ailsa Marlow", "preferred_username": "ailsa", "role": "data_lead"},
    "u-morwenna": {"name": "Morwenna Cleave", "preferred_username": "morwenna",
                   "role": "school_lead", "schools": ["Fernhollow"]},
    "u-tobias": {"name": "Tobias Pell", "preferred_username": "tobias", "role": "viewer"},
    "u-guest": {"name": "Guest of the ferry office", "preferred_username": "guest",
                "role": "passenger"},
}  # fmt: skip
GOOD_FOR = 300


@dataclass
class SignOn:
    """A running stand-in: who is there, which codes wait to be fetched, who signed out."""

    issuer: str
    client: str
    secret: str
    people: People = field(default_factory=lambda: dict(MERROW))
    key: RSAKey = field(default_factory=lambda: RSAKey.generate_key(2048, {"kid": "one"}))
    waiting: dict[str, dict[str, str]] = field(default_factory=dict)
    signed_out: list[str] = field(default_factory=list)

    def token_of(self, asked: dict[str, str]) -> str:
        """The token of identity for a code that was fetched."""
        now = int(time.time())
        claims = {
            **self.people[asked["sub"]], "sub": asked["sub"], "iss": self.issuer,
            "aud": self.client, "iat": now, "exp": now + GOOD_FOR, "nonce": asked["nonce"],
        }  # fmt: skip
        return jwt.encode({"alg": "RS256", "kid": "one"}, claims, self.key)


def sign_on_app(here: SignOn) -> Flask:
    """The stand-in as a web application."""
    app = Flask("sign-on")

    @app.get("/.well-known/openid-configuration")
    def about() -> Response:
        ends = {"authorization_endpoint": "authorize", "token_endpoint": "token",
                "jwks_uri": "keys", "end_session_endpoint": "end"}  # fmt: skip
        return jsonify(
            {"issuer": here.issuer, **{name: f"{here.issuer}/{at}" for name, at in ends.items()},
             "response_types_supported": ["code"], "subject_types_supported": ["public"],
             "id_token_signing_alg_values_supported": ["RS256"]}
        )  # fmt: skip

    @app.get("/keys")
    def keys() -> Response:
        return jsonify({"keys": [here.key.as_dict(private=False)]})

    @app.get("/authorize")
    def authorize() -> Any:
        if request.args.get("client_id") != here.client:
            return "Unknown client", 400
        chosen = request.args.get("as")
        if chosen in here.people:
            return redirect(_with_code(here, str(chosen)))
        return _choose(here)

    @app.post("/token")
    def token() -> Any:
        asked = here.waiting.pop(request.form.get("code", ""), None)
        if asked is None or not _proved(asked) or not _is_client(here):
            return jsonify({"error": "invalid_grant"}), 400
        return jsonify({"access_token": secrets.token_urlsafe(16), "token_type": "Bearer",
                        "expires_in": GOOD_FOR, "id_token": here.token_of(asked)})  # fmt: skip

    @app.get("/end")
    def end() -> Any:
        here.signed_out.append(request.args.get("id_token_hint", ""))
        return redirect(request.args.get("post_logout_redirect_uri", "/"))

    return app


def _with_code(here: SignOn, sub: str) -> str:
    code = secrets.token_urlsafe(16)
    kept = ("nonce", "code_challenge", "redirect_uri")
    here.waiting[code] = {"sub": sub, **{one: request.args.get(one, "") for one in kept}}
    back = urlencode({"code": code, "state": request.args.get("state", "")})
    return f"{request.args['redirect_uri']}?{back}"


def _proved(asked: dict[str, str]) -> bool:
    """Whether whoever fetches is whoever began (PKCE)."""
    digest = hashlib.sha256(request.form.get("code_verifier", "").encode()).digest()
    return base64.urlsafe_b64encode(digest).rstrip(b"=").decode() == asked["code_challenge"]


def _is_client(here: SignOn) -> bool:
    who = request.authorization
    return who is not None and (who.username, who.password) == (here.client, here.secret)


def _choose(here: SignOn) -> str:
    asked = request.args.to_dict()
    links = "".join(
        f'<li><a href="?{html.escape(urlencode({**asked, "as": sub}))}">'
        f"{html.escape(str(one['name']))}</a></li>"
        for sub, one in here.people.items()
    )
    return f"<!doctype html><title>Stand-in sign-on</title><h1>Who are you?</h1><ul>{links}</ul>"
