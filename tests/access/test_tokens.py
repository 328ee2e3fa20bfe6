"""Tokens: a program asks as an account, may less than it, and only for a time."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
import sqlalchemy as sa
from flask.testing import FlaskClient
from tests.support import Place, roster, serving, signed_in

from bridge_chart.access import managing, tokens
from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.managing import AccountSaid
from bridge_chart.access.rules import RULES
from bridge_chart.access.tokens import NEVER, NewToken
from bridge_chart.terms.errors import InvalidQuestion, NotAllowed, NotFound

ASKED = {"what": [{"assessment": "Quiz"}]}
ADVERSE = {"name": "x", "may": ["ask"], "days": 1}


@pytest.fixture
def tarn(place: Place) -> Place:
    people = [(f"{n:03d}", "Tarn" if n < 13 else "Orme", 7) for n in range(1, 25)]
    place.bring("roster", roster(people), academic_year="2025-26")
    marks = "Number,Score\n" + "".join(f"{n:03d},{n}\n" for n in range(1, 25))
    place.bring("results", marks, test="Quiz", date="2026-05-01")
    place.account("ailsa", "data_lead")
    place.account("rowan", "school_lead", "Tarn")
    return place


@pytest.fixture
def app(tarn: Place) -> Iterator[Any]:
    with serving(tarn) as made:
        yield made


def program(app: Any, secret: str) -> FlaskClient:
    client: FlaskClient = app.test_client()
    client.environ_base["HTTP_AUTHORIZATION"] = f"Bearer {secret}"
    return client


def made(place: Place, login: str, *may: str, days: int = 30) -> str:
    said = NewToken(name="nightly sheet", may=list(may), days=days)
    return tokens.make_token(place.engine, actor_named(place.engine, login), said).secret


def test_a_program_asks_within_its_accounts_scope(tarn: Place, app: Any) -> None:
    client = program(app, made(tarn, "rowan", "ask"))
    answer = client.post("/api/answers", json=ASKED)
    assert answer.status_code == 200
    assert answer.get_json()["coverage"][0]["counted"] == 12
    listed = client.post("/api/answers", json={**ASKED, "show": "students"})
    assert listed.status_code == 403  # its account may, the token may not


def test_a_token_does_what_it_was_let_do_and_nothing_else(tarn: Place, app: Any) -> None:
    """Over every action of the data lead, by an endpoint of each."""
    tries = {
        "ask": ("GET", "/api/catalogue"), "export": ("POST", "/api/exports/csv"),
        "pair": ("GET", "/api/pairings"), "intake": ("GET", "/api/drafts"),
        "history": ("GET", "/api/batches"), "release": ("GET", "/api/releases"),
        "sight": ("GET", "/api/sights"), "words": ("GET", "/api/words"),
        "open_students": ("GET", "/api/students/0/notes"), "accounts": ("GET", "/api/accounts"),
        "audit": ("GET", "/api/audit"), "backups": ("GET", "/api/backups"),
        "own_account": ("GET", "/api/tokens"), "published": ("GET", "/api/published"),
        "look": ("PUT", "/api/session/names"), "erase": ("GET", "/api/erasures"),
        "see_as": ("GET", "/api/accounts"),
    }  # fmt: skip
    assert set(tries) == set(RULES)
    for let in sorted(set(RULES) - set(NEVER)):
        client = program(app, made(tarn, "ailsa", let))
        for action, (method, path) in tries.items():
            answer = client.open(path, method=method, json=None if method == "GET" else ASKED)
            # Numbers are asked for before they are taken out.
            allowed = action == let and let != "export"
            assert (answer.status_code != 403) == allowed, (let, action)


def test_no_token_makes_another_or_looks_after_accounts(tarn: Place, app: Any) -> None:
    ailsa = actor_named(tarn.engine, "ailsa")
    for never in NEVER:
        assert never not in tokens.grantable(ailsa)
        with pytest.raises(InvalidQuestion):
            made(tarn, "ailsa", never)
    with pytest.raises(InvalidQuestion):
        made(tarn, "rowan", "intake")  # nor more than its account may
    with pytest.raises(InvalidQuestion):
        made(tarn, "rowan")
    client = program(app, made(tarn, "ailsa", *tokens.grantable(ailsa)))
    assert client.post("/api/tokens", json=ADVERSE).status_code == 403
    assert client.put("/api/session/password", json={"old": "a", "new": "b"}).status_code == 403


@pytest.mark.parametrize("what", ["revoked", "old", "closed", "role", "unknown", "digest"])
def test_a_token_that_is_not_good_opens_nothing(tarn: Place, app: Any, what: str) -> None:
    secret = made(tarn, "rowan", "ask", "pair")
    client = program(app, secret)
    assert client.get("/api/pairings").status_code == 200
    rowan = actor_named(tarn.engine, "rowan")
    expected = 401
    if what == "revoked":
        (one,) = tokens.list_tokens(tarn.engine, rowan)
        tokens.revoke_token(tarn.engine, rowan, one.id)
    elif what == "old":
        with tarn.engine.begin() as connection:
            connection.execute(sa.text("UPDATE api_token SET good_until = now()"))
    elif what == "closed":
        managing.set_closed(tarn.engine, OPERATOR, rowan.account_id or 0, closed=True)
    elif what == "role":  # it may no more than its account may by now
        said = AccountSaid(name="Rowan", role="teacher")
        managing.change(tarn.engine, OPERATOR, rowan.account_id or 0, said, 1)
        expected = 403
    elif what == "unknown":
        client = program(app, secret[:-1])
    else:  # what the record holds is no token
        client = program(app, str(tarn.scalar("SELECT digest FROM api_token")))
    assert client.get("/api/pairings").status_code == expected


def test_tokens_are_ones_own_and_shown_once(tarn: Place, app: Any) -> None:
    made(tarn, "rowan", "ask")
    with signed_in(tarn) as client:  # the data lead
        told = client.post("/api/tokens", json={**ADVERSE, "name": "mine"}).get_json()
        assert told["secret"].startswith(tokens.BEGINS)
        listed = client.get("/api/tokens")
        assert [one["name"] for one in listed.get_json()["tokens"]] == ["mine"]
        assert told["secret"] not in listed.get_data(as_text=True)
    ailsa = actor_named(tarn.engine, "ailsa")
    (theirs,) = tokens.list_tokens(tarn.engine, actor_named(tarn.engine, "rowan"))
    with pytest.raises(NotFound):
        tokens.revoke_token(tarn.engine, ailsa, theirs.id)
    with pytest.raises(NotAllowed):
        tokens.list_tokens(tarn.engine, tokens.actor_with(tarn.engine, told["secret"]))


def test_what_a_program_looks_at_is_noted_as_its_accounts(tarn: Place, app: Any) -> None:
    client = program(app, made(tarn, "rowan", "ask", "open_students"))
    client.post("/api/answers", json={**ASKED, "show": "students"})
    query = "SELECT login || ' ' || action FROM audit ORDER BY id DESC LIMIT 1"
    assert tarn.scalar(query) == "rowan open_students"
    assert tarn.scalar("SELECT count(*) FROM api_token WHERE seen IS NOT NULL") == 1
