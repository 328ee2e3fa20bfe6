"""The district's own sign-on: who it vouches for, what it says counts, and whoever lies is out."""

from __future__ import annotations

import threading
import time
from collections.abc import Iterator
from dataclasses import replace
from typing import Any
from urllib.parse import parse_qs, urlsplit

import pytest
import requests
from joserfc import jwt
from joserfc.jwk import RSAKey
from tests.support import PASSWORD, Place, roster, serving
from werkzeug.serving import make_server

from bridge_chart.access import managing
from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.demo.sign_on import SignOn, sign_on_app

CLIENT, SECRET = "bridge-chart", "a-shared-secret"


@pytest.fixture
def sign_on() -> Iterator[SignOn]:
    here = SignOn("", CLIENT, SECRET)
    server = make_server("127.0.0.1", 0, sign_on_app(here), threaded=True)
    here.issuer = f"http://127.0.0.1:{server.server_port}"
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    yield here
    server.shutdown()
    thread.join()
    server.server_close()


@pytest.fixture
def tarn(place: Place, sign_on: SignOn) -> Place:
    people = [(f"{n:03d}", "Tarn" if n < 9 else "Orme", 7) for n in range(1, 17)]
    place.bring("roster", roster(people), academic_year="2025-26")
    place.account("ailsa", "data_lead")
    settings = replace(
        place.settings, provider_issuer=sign_on.issuer, provider_client=CLIENT,
        provider_secret=SECRET, provider_name="the island's sign-on",
        provider_roles="head=school_lead, staff=teacher",
    )  # fmt: skip
    sign_on.people = {
        "u-1": {"name": "Una Head", "preferred_username": "una", "role": "head",
                "schools": ["Tarn"]},
        "u-2": {"name": "Stranger", "preferred_username": "stranger", "role": "passenger"},
        "u-3": {"name": "Elsewhere", "preferred_username": "else", "role": ["head", "other"],
                "schools": ["No such school"]},
        "u-4": {"name": "Ailsa by sign-on", "preferred_username": "ailsa", "role": "data_lead"},
    }  # fmt: skip
    return replace(place, settings=settings)


@pytest.fixture
def app(tarn: Place) -> Iterator[Any]:
    with serving(tarn) as made:
        yield made


def there_and_back(app: Any, sub: str) -> Any:
    """A browser that begins, says who it is at the provider, and comes back."""
    client = app.test_client()
    begun = client.get("/api/sign-on/begin")
    assert begun.status_code == 302
    chosen = requests.get(f"{begun.location}&as={sub}", allow_redirects=False, timeout=5)
    parts = urlsplit(chosen.headers["Location"])
    assert client.get(f"{parts.path}?{parts.query}").location == "/"
    return client


def person(client: Any) -> Any:
    return client.get("/api/session").get_json()["person"]


def test_role_and_schools_are_those_of_the_claims(app: Any, tarn: Place, sign_on: SignOn) -> None:
    una = there_and_back(app, "u-1")
    assert (person(una)["role"], person(una)["name"]) == ("school_lead", "Una Head")
    listed = managing.list_accounts(tarn.engine, OPERATOR)
    mine = next(one for one in listed if one.login == "una")
    assert (mine.state, mine.provider, len(mine.schools)) == ("open", True, 1)
    sign_on.people["u-1"]["schools"] = ["Orme"]
    again = there_and_back(app, "u-1")
    assert person(again)["role"] == "school_lead"
    assert una.get("/api/pairings").status_code == 401  # what she saw before ended with it
    now = managing.account_called(tarn.engine, "una")
    assert now.schools != mine.schools
    # Whoever has no password signs in by none.
    refused = app.test_client().post("/api/session", json={"login": "una", "password": PASSWORD})
    assert refused.status_code == 401


@pytest.mark.parametrize(("sub", "why"), [("u-2", "no role"), ("u-3", "No such school")])
def test_who_is_not_known_here_is_told_so_and_noted(
    app: Any, tarn: Place, sub: str, why: str
) -> None:
    client = there_and_back(app, sub)
    assert person(client) is None
    told = client.get("/api/sign-on").get_json()
    assert why in told["trouble"]
    assert client.get("/api/sign-on").get_json()["trouble"] is None  # said once
    assert tarn.scalar("SELECT count(*) FROM audit WHERE action = 'sign_in_refused'") == 1
    assert tarn.scalar("SELECT count(*) FROM account") == 1


def test_an_account_that_was_there_before_is_theirs(app: Any, tarn: Place) -> None:
    before = actor_named(tarn.engine, "ailsa").account_id
    assert person(there_and_back(app, "u-4"))["login"] == "ailsa"
    assert actor_named(tarn.engine, "ailsa").account_id == before
    assert tarn.scalar("SELECT count(*) FROM account") == 1


def test_a_closed_account_stays_out(app: Any, tarn: Place) -> None:
    there_and_back(app, "u-1")
    una = actor_named(tarn.engine, "una").account_id or 0
    managing.set_closed(tarn.engine, OPERATOR, una, closed=True)
    client = there_and_back(app, "u-1")
    assert person(client) is None
    assert "closed" in client.get("/api/sign-on").get_json()["trouble"]


def test_the_last_data_lead_is_not_made_less_by_a_claim(
    app: Any, tarn: Place, sign_on: SignOn
) -> None:
    there_and_back(app, "u-4")
    sign_on.people["u-4"]["role"] = "staff"
    client = there_and_back(app, "u-4")
    assert person(client) is None
    assert "last data lead" in client.get("/api/sign-on").get_json()["trouble"]


def test_signing_out_signs_out_at_the_provider(app: Any, tarn: Place, sign_on: SignOn) -> None:
    client = there_and_back(app, "u-1")
    there = client.delete("/api/session").get_json()["at_provider"]
    assert there.startswith(f"{sign_on.issuer}/end?")
    requests.get(there, allow_redirects=False, timeout=5)
    assert len(sign_on.signed_out) == 1
    assert jwt.decode(sign_on.signed_out[0], sign_on.key).claims["sub"] == "u-1"
    assert person(client) is None
    plain = app.test_client()
    plain.post("/api/session", json={"login": "ailsa", "password": PASSWORD})
    assert plain.delete("/api/session").get_json()["at_provider"] is None


def forged(sign_on: SignOn, what: str) -> None:
    """A provider, or somebody between, that says what is not so."""
    honest = sign_on.token_of

    def token_of(asked: dict[str, str]) -> str:
        if what == "nonce":
            return honest({**asked, "nonce": "of another sign-in"})
        claims = dict(jwt.decode(honest(asked), sign_on.key).claims)
        header, key = {"alg": "RS256", "kid": "one"}, sign_on.key
        if what == "issuer":
            claims["iss"] = "http://elsewhere.example"
        elif what == "audience":
            claims["aud"] = "another-client"
        elif what == "old":
            claims["exp"] = int(time.time()) - 3600
        elif what == "signature":
            key = RSAKey.generate_key(2048, {"kid": "one"})
        elif what == "nobody":
            del claims["sub"]
        elif what == "unsigned":
            return jwt.encode({"alg": "none"}, claims, None, algorithms=["none"])  # type: ignore[arg-type]
        return jwt.encode(header, claims, key)

    sign_on.token_of = token_of  # type: ignore[method-assign]


@pytest.mark.parametrize(
    "what", ["nonce", "issuer", "audience", "old", "signature", "nobody", "unsigned"]
)
def test_a_token_that_is_not_right_opens_nothing(
    app: Any, tarn: Place, sign_on: SignOn, what: str
) -> None:
    forged(sign_on, what)
    client = there_and_back(app, "u-1")
    assert person(client) is None
    assert client.get("/api/sign-on").get_json()["trouble"]
    assert tarn.scalar("SELECT count(*) FROM account") == 1


def test_what_did_not_begin_here_does_not_end_here(app: Any, sign_on: SignOn) -> None:
    """Another's code, another's state, the same coming back twice, a code without its proof."""
    begun = app.test_client().get("/api/sign-on/begin").location
    chosen = requests.get(f"{begun}&as=u-1", allow_redirects=False, timeout=5)
    parts = urlsplit(chosen.headers["Location"])
    stranger = app.test_client()
    stranger.get(f"{parts.path}?{parts.query}")
    assert person(stranger) is None
    mine = app.test_client()
    state = parse_qs(urlsplit(mine.get("/api/sign-on/begin").location).query)["state"][0]
    code = parse_qs(parts.query)["code"][0]
    mine.get(f"/api/sign-on/back?code={code}&state={state}")  # its proof is another's
    assert person(mine) is None
    mine.get(f"/api/sign-on/back?code={code}&state={state}")
    assert person(mine) is None
    denied = app.test_client()
    state = parse_qs(urlsplit(denied.get("/api/sign-on/begin").location).query)["state"][0]
    denied.get(f"/api/sign-on/back?error=access_denied&state={state}")
    assert "did not sign you in" in denied.get("/api/sign-on").get_json()["trouble"]


def test_a_provider_that_is_away_leaves_the_password(tarn: Place) -> None:
    away = replace(tarn, settings=replace(tarn.settings, provider_issuer="http://127.0.0.1:9"))
    with serving(away) as app:
        client = app.test_client()
        assert client.get("/api/sign-on/begin").location == "/"
        told = client.get("/api/sign-on").get_json()
        assert told["provider"] == "the island's sign-on"
        assert "cannot be reached" in told["trouble"]
        body = {"login": "ailsa", "password": PASSWORD}
        assert client.post("/api/session", json=body).status_code == 200


def test_without_a_provider_nothing_of_it_is_offered(place: Place) -> None:
    with serving(place) as app:
        client = app.test_client()
        assert client.get("/api/sign-on").get_json() == {"provider": None, "trouble": None}
        client.get("/api/sign-on/begin")
        assert "No sign-on" in client.get("/api/sign-on").get_json()["trouble"]
