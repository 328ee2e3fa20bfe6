"""Signing in by the district's own sign-on: OpenID Connect, the code flow with PKCE.

The provider says who it is and, by claims, which role and schools: what it says counts at each
sign-in. What it does not say of schools and teachers stays as the data lead said it.
"""

from __future__ import annotations

import secrets
import time
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import requests
import sqlalchemy as sa
from authlib.common.errors import AuthlibBaseError
from authlib.integrations.requests_client import OAuth2Session
from joserfc import jwt
from joserfc.errors import JoseError
from joserfc.jwk import KeySet, KeySetSerialization

from bridge_chart.access.accounts import actor_of
from bridge_chart.access.audit import noted
from bridge_chart.access.managing import AccountSaid, TeacherIs, said_by_provider, school_ids
from bridge_chart.access.sessions import begin_session
from bridge_chart.store.settings import Settings
from bridge_chart.terms.errors import BridgeError, NotSignedIn, ProviderTrouble
from bridge_chart.terms.people import ROLES, Actor

SCOPES = "openid profile"
ALGORITHMS = ["RS256", "ES256"]
SECONDS = 10
KNOWN_FOR = 600.0
CLOCKS_APART = 60
_known: dict[str, tuple[float, dict[str, Any]]] = {}


@dataclass(frozen=True)
class Begun:
    """Where to send the browser, and what has to come back with it."""

    address: str
    state: str
    nonce: str
    verifier: str


def begin(settings: Settings, back: str) -> Begun:
    """Begin to sign in; `back`: where the provider sends the browser afterwards."""
    about = _about(settings)
    nonce, verifier = secrets.token_urlsafe(24), secrets.token_urlsafe(48)
    with _client(settings, back) as client:
        address, state = client.create_authorization_url(
            about["authorization_endpoint"], nonce=nonce, code_verifier=verifier
        )
    return Begun(address, state, nonce, verifier)


def finish(
    engine: sa.Engine, settings: Settings, begun: Begun, back: str, came: str, address: str
) -> tuple[Actor, str]:
    """Who came back from the provider, and the secret of their new session. came: the address with
    which the browser came. NotSignedIn where the provider said no, or says of them what is not
    known here; ProviderTrouble where it cannot be understood."""
    about = _about(settings)
    try:
        with _client(settings, back, state=begun.state) as client:
            token = client.fetch_token(
                about["token_endpoint"], authorization_response=came, code_verifier=begun.verifier,
                timeout=SECONDS,
            )  # fmt: skip
        claims = _claims(settings, about, str(token["id_token"]), begun.nonce)
    except (AuthlibBaseError, KeyError) as error:
        raise NotSignedIn(
            f"{_name(settings)} did not sign you in.", next_step="Begin once more.",
        ) from error  # fmt: skip
    except (requests.RequestException, JoseError, ValueError) as error:
        raise _trouble(settings, error) from error
    return _let_in(engine, settings, claims, str(token["id_token"]), address)


def sign_out_address(settings: Settings, token: str | None, back: str) -> str | None:
    """Where to send the browser so that the provider signs out too; None: nowhere."""
    if token is None or not settings.provider_issuer:
        return None
    try:
        ends = _about(settings).get("end_session_endpoint")
    except BridgeError:
        return None
    asked = {"id_token_hint": token, "post_logout_redirect_uri": back}
    return requests.Request("GET", str(ends), params=asked).prepare().url if ends else None


def _let_in(
    engine: sa.Engine, settings: Settings, claims: Mapping[str, Any], token: str, address: str
) -> tuple[Actor, str]:
    subject = f"{settings.provider_issuer} {claims['sub']}"
    login = str(claims.get(settings.provider_login_claim) or claims["sub"]).strip()
    try:
        with engine.begin() as connection:
            said = _said(connection, settings, claims, login)
            account = said_by_provider(connection, subject, login, said)
            who = Actor(account, login, said.name, said.role)
            secret = begin_session(connection, who, address, token)
    except BridgeError as error:
        with engine.begin() as connection:
            who = Actor(None, login[:200], "", "nobody")
            noted(connection, who, "sign_in_refused", {"address": address, "name": error.message})
        raise
    return actor_of(engine, account), secret


@dataclass(frozen=True)
class Said:
    """What the provider says of somebody; schools, teachers: None: nothing."""

    name: str
    role: str
    schools: list[int] | None
    teachers: list[TeacherIs] | None

    def beside(self, held: AccountSaid | None) -> AccountSaid:
        """An account as the provider says it, and else as it is."""
        return AccountSaid(
            name=self.name, role=self.role,
            schools=self.schools if self.schools is not None else held.schools if held else [],
            teachers=self.teachers if self.teachers is not None else held.teachers if held else [],
        )  # fmt: skip


def _said(
    connection: sa.Connection, settings: Settings, claims: Mapping[str, Any], login: str
) -> Said:
    """Claims read; NotSignedIn for a role that is not known, NotFound for a school."""
    mapped = roles_of(settings.provider_roles)
    told = {mapped.get(one, one) for one in _texts(claims.get(settings.provider_role_claim))}
    role = next((one for one in ROLES if one in told), None)
    if role is None:
        raise NotSignedIn(
            f"{_name(settings)} says no role for you that is known here.",
            next_step="Ask the district's data lead.",
        )
    schools = claims.get(settings.provider_schools_claim)
    taught = claims.get(settings.provider_teachers_claim)
    named = [one.split(":", 1) for one in _texts(taught)]
    pairs = [(one[0].strip(), one[1].strip()) for one in named if len(one) == 2]
    at = school_ids(connection, [*_texts(schools), *(school for school, _ in pairs)])
    return Said(
        str(claims.get("name") or login)[:200], role,
        None if schools is None else [at[one] for one in _texts(schools)],
        None if taught is None else [TeacherIs(school=at[one], name=who) for one, who in pairs],
    )  # fmt: skip


def roles_of(text: str) -> dict[str, str]:
    """What the provider calls roles → what they are here.

    >>> roles_of("principal = school_lead, staff=teacher")
    {'principal': 'school_lead', 'staff': 'teacher'}
    """
    pairs = [one.split("=", 1) for one in text.split(",") if "=" in one]
    return {theirs.strip(): ours.strip() for theirs, ours in pairs}


def _texts(claim: Any) -> list[str]:
    """A claim as texts: one, several, or none."""
    several = claim if isinstance(claim, list) else [] if claim is None else [claim]
    return [str(one) for one in several]


def _claims(
    settings: Settings, about: Mapping[str, Any], token: str, nonce: str
) -> Mapping[str, Any]:
    """What a token of identity says, once its signature, issuer, audience, time and nonce fit."""
    keys = KeySet.import_key_set(KeySetSerialization(keys=_read(str(about["jwks_uri"]))["keys"]))
    claims = jwt.decode(token, keys, algorithms=ALGORITHMS).claims
    registry = jwt.JWTClaimsRegistry(
        leeway=CLOCKS_APART,
        iss={"essential": True, "value": settings.provider_issuer},
        aud={"essential": True, "value": settings.provider_client},
        nonce={"essential": True, "value": nonce},
        exp={"essential": True}, sub={"essential": True},
    )  # fmt: skip
    registry.validate(claims)
    return dict(claims)


def _about(settings: Settings) -> dict[str, Any]:
    """What the provider says of itself; looked up anew every ten minutes."""
    issuer = settings.provider_issuer
    if not issuer:
        raise NotSignedIn("No sign-on of the district is set up here.",
                          next_step="Sign in by login and password.")  # fmt: skip
    at, known = _known.get(issuer, (0.0, {}))
    if not known or time.monotonic() - at > KNOWN_FOR:
        try:
            known = _read(f"{issuer.rstrip('/')}/.well-known/openid-configuration")
            if known["issuer"] != issuer:
                raise ValueError("it calls itself otherwise than the settings do")
        except (requests.RequestException, ValueError, KeyError) as error:
            raise _trouble(settings, error) from error
        _known[issuer] = (time.monotonic(), known)
    return known


def _read(address: str) -> dict[str, Any]:
    answer = requests.get(address, timeout=SECONDS)
    answer.raise_for_status()
    return dict(answer.json())


def _client(settings: Settings, back: str, state: str | None = None) -> OAuth2Session:
    return OAuth2Session(
        settings.provider_client, settings.provider_secret, scope=SCOPES, redirect_uri=back,
        code_challenge_method="S256", state=state,
    )  # fmt: skip


def _name(settings: Settings) -> str:
    return settings.provider_name[:1].upper() + settings.provider_name[1:]


def _trouble(settings: Settings, error: Exception) -> ProviderTrouble:
    return ProviderTrouble(
        f"{_name(settings)} cannot be reached or understood just now ({type(error).__name__}).",
        kept="Nobody was signed in.", next_step="Try again in a minute, or sign in by password.",
    )  # fmt: skip
