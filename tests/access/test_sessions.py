"""Signing in: sessions on the server, one-time links, slowed tries, who may manage whom."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from typing import Any

import pytest
import sqlalchemy as sa
from flask.testing import FlaskClient
from tests.support import PASSWORD, Place, roster, serving

from bridge_chart.access import links, managing, sessions, tries
from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.managing import AccountSaid, NewAccount
from bridge_chart.access.sight import say_who_sees, sights
from bridge_chart.store.database import connect_owner
from bridge_chart.terms.errors import (
    BridgeError,
    ChangedMeanwhile,
    InvalidQuestion,
    NotFound,
    NotSignedIn,
    TooManyTries,
)

OTHER = "a lantern over the weir"
HERE = "127.0.0.1"


@pytest.fixture
def tarn(place: Place) -> Place:
    people = [(f"{n:03d}", "Tarn" if n < 9 else "Orme", 7) for n in range(1, 17)]
    place.bring("roster", roster(people), academic_year="2025-26")
    place.account("ailsa", "data_lead")
    place.account("rowan", "school_lead", "Tarn")
    return place


@pytest.fixture
def app(tarn: Place) -> Iterator[Any]:
    with serving(tarn) as made:
        yield made


def client_of(app: Any, login: str, password: str = PASSWORD) -> FlaskClient:
    client: FlaskClient = app.test_client()
    answer = client.post("/api/session", json={"login": login, "password": password})
    assert answer.status_code == 200, answer.get_data(as_text=True)
    return client


def secret(path: str) -> str:
    return path.partition("#")[2]


def run(place: Place, query: str) -> None:
    with place.engine.begin() as connection:
        connection.execute(sa.text(query))


def ids(place: Place) -> dict[str, int]:
    return {one.login: one.id for one in managing.list_accounts(place.engine, OPERATOR)}


@pytest.mark.parametrize("password", [
    "aaaaaaaaaa", "password123456", "qwertyuiop12", "rowan rowan rowan", "Rowan!ROWAN?12", "short",
    "x" * 501,
])  # fmt: skip
def test_a_password_that_is_easy_to_guess_is_refused(tarn: Place, password: str) -> None:
    with pytest.raises(InvalidQuestion, match="password"):
        managing.add_account(tarn.engine, "rowan", "Rowan", password, "school_lead")
    assert sessions.sign_in(tarn.engine, "rowan", PASSWORD, HERE)


@pytest.mark.parametrize("what", ["idle", "old", "ended", "closed", "role", "password"])
def test_a_copied_cookie_is_worth_nothing_once_its_session_has_ended(
    tarn: Place, app: Any, what: str
) -> None:
    client = client_of(app, "rowan")
    assert client.get("/api/catalogue").status_code == 200
    if what == "idle":
        run(tarn, "UPDATE session SET seen = now() - interval '61 minutes'")
    elif what == "old":
        run(tarn, "UPDATE session SET at = now() - interval '13 hours'")
    elif what == "ended":
        client_of(app, "rowan").delete("/api/session/everywhere")
    elif what == "closed":
        managing.set_closed(tarn.engine, OPERATOR, ids(tarn)["rowan"], closed=True)
    elif what == "role":
        said = AccountSaid(name="Rowan", role="teacher")
        managing.change(tarn.engine, OPERATOR, ids(tarn)["rowan"], said, 1)
    else:
        changed = client_of(app, "rowan")
        body = {"old": PASSWORD, "new": OTHER}
        assert changed.put("/api/session/password", json=body).status_code == 200
        assert changed.get("/api/catalogue").status_code == 200  # the one that changed it stays
    assert client.get("/api/catalogue").status_code == 401
    assert client.get("/api/session").get_json() == {"person": None}


def test_a_session_in_use_goes_on_and_a_name_alone_ends_none(tarn: Place, app: Any) -> None:
    client = client_of(app, "rowan")
    run(tarn, "UPDATE session SET seen = now() - interval '50 minutes'")
    assert client.get("/api/catalogue").status_code == 200
    run(tarn, "UPDATE session SET at = at - interval '50 minutes'")
    assert client.get("/api/catalogue").status_code == 200
    (before,) = [a for a in managing.list_accounts(tarn.engine, OPERATOR) if a.login == "rowan"]
    said = AccountSaid(name="Rowan Hale", role="school_lead", schools=before.schools)
    managing.change(tarn.engine, OPERATOR, before.id, said, before.revision)
    assert client.get("/api/session").get_json()["person"]["name"] == "Rowan Hale"


def test_the_record_holds_no_secret(tarn: Place, app: Any) -> None:
    client_of(app, "ailsa")
    managing.send_link(tarn.engine, OPERATOR, ids(tarn)["rowan"])
    _, session = sessions.sign_in(tarn.engine, "rowan", PASSWORD, HERE)
    with tarn.engine.connect() as connection:
        for table in ("session", "one_time_link", "account", "audit", "sign_in_try"):
            text = str(connection.execute(sa.text(f"SELECT * FROM {table}")).all())
            assert session not in text
            assert PASSWORD not in text


def test_a_one_time_link_is_used_once_and_brings_its_person_in(tarn: Place, app: Any) -> None:
    lead = client_of(app, "ailsa")
    school = lead.get("/api/accounts").get_json()["schools"][0]["id"]
    invited = lead.post("/api/accounts", json={
        "login": "piran", "name": "Piran Moor", "role": "school_lead", "schools": [school],
    }).get_json()  # fmt: skip
    assert invited["account"]["state"] == "invited"
    key = secret(invited["link"]["path"])
    client = app.test_client()
    assert client.post("/api/links/look", json={"secret": key}).get_json() == {
        "first": False, "login": "piran", "name": "Piran Moor",
    }  # fmt: skip
    with pytest.raises(NotSignedIn):
        sessions.sign_in(tarn.engine, "piran", "", HERE)
    weak = client.post("/api/links/use", json={"secret": key, "password": "piranpiran"})
    assert weak.status_code == 422
    used = client.post("/api/links/use", json={"secret": key, "password": OTHER})
    assert used.get_json()["login"] == "piran"
    assert client.get("/api/catalogue").status_code == 200
    again = app.test_client().post("/api/links/use", json={"secret": key, "password": OTHER})
    assert again.status_code == 404
    assert "has been used" in again.get_json()["error"]["message"]
    client_of(app, "piran", OTHER)


def test_a_link_is_void_when_a_newer_one_is_made_its_time_is_over_or_it_is_closed(
    tarn: Place,
) -> None:
    rowan = ids(tarn)["rowan"]
    old = secret(managing.send_link(tarn.engine, OPERATOR, rowan).path)
    new = secret(managing.send_link(tarn.engine, OPERATOR, rowan).path)
    assert links.look_at(tarn.engine, new).login == "rowan"
    with pytest.raises(NotFound):
        links.look_at(tarn.engine, old)
    managing.set_closed(tarn.engine, OPERATOR, rowan, closed=True)
    with pytest.raises(NotFound):
        links.use_link(tarn.engine, new, OTHER, HERE)
    managing.set_closed(tarn.engine, OPERATOR, rowan, closed=False)
    with pytest.raises(NotFound):  # opened again, it does not come back
        links.look_at(tarn.engine, new)
    new = secret(managing.send_link(tarn.engine, OPERATOR, rowan).path)
    run(tarn, "UPDATE one_time_link SET good_until = now() - interval '1 second'")
    with pytest.raises(NotFound):
        links.use_link(tarn.engine, new, OTHER, HERE)
    assert sessions.sign_in(tarn.engine, "rowan", PASSWORD, HERE)  # the old password still counts


def test_what_is_typed_where_the_login_belongs_is_not_kept(tarn: Place) -> None:
    with pytest.raises(NotSignedIn):
        sessions.sign_in(tarn.engine, PASSWORD, "", HERE)
    with tarn.engine.connect() as connection:
        told = connection.execute(sa.text("SELECT * FROM audit ORDER BY id DESC LIMIT 1")).one()
    assert PASSWORD not in str(told)
    assert told.login == sessions.UNKNOWN


def test_a_link_used_by_two_at_once_is_used_by_one(tarn: Place) -> None:
    key = secret(managing.send_link(tarn.engine, OPERATOR, ids(tarn)["rowan"]).path)

    def use(n: int) -> bool:
        try:
            links.use_link(tarn.engine, key, f"{OTHER} {n}", HERE)
        except NotFound:
            return False
        return True

    with ThreadPoolExecutor(4) as pool:
        assert sum(pool.map(use, range(4))) == 1


def test_the_first_data_lead_comes_in_by_a_link_and_nobody_after(place: Place) -> None:
    link = links.first_link(place.engine)
    assert link is not None
    key = secret(link.path)
    assert links.look_at(place.engine, key).first
    with pytest.raises(InvalidQuestion, match="a login and a name"):
        links.use_link(place.engine, key, OTHER, HERE)
    who, _ = links.use_link(place.engine, key, OTHER, HERE, "morag", "Morag Finn")
    assert (who.login, who.role) == ("morag", "data_lead")
    assert links.first_link(place.engine) is None
    with pytest.raises(NotFound):
        links.use_link(place.engine, key, OTHER, HERE, "second", "Second")


def test_tries_are_slowed_and_nobody_is_locked_out(tarn: Place, app: Any) -> None:
    client = app.test_client()
    wrong = {"login": "rowan", "password": "wrong-password"}
    right = {"login": "rowan", "password": PASSWORD}
    for _ in range(tries.LOGIN.free):
        assert client.post("/api/session", json=wrong).status_code == 401
    slowed = client.post("/api/session", json=right)
    assert slowed.status_code == 429
    assert slowed.get_json()["error"]["details"]["wait"] == 1
    assert client_of(app, "ailsa")  # somebody else from the same address comes in
    run(tarn, "UPDATE sign_in_try SET at = at - interval '2 seconds'")
    assert client.post("/api/session", json=right).status_code == 200
    for _ in range(tries.LOGIN.free):  # who came through begins anew
        assert client.post("/api/session", json=wrong).status_code == 401
    run(tarn, "UPDATE sign_in_try SET at = at - interval '1 hour'")
    assert client.post("/api/session", json=right).status_code == 200
    assert tarn.scalar("SELECT count(*) FROM sign_in_try WHERE who LIKE 'login%'") == 0


def test_tries_at_once_count_each_other_and_an_address_is_slowed_a_little(tarn: Place) -> None:
    def attempt(n: int) -> str:
        try:
            sessions.sign_in(tarn.engine, "rowan", f"wrong {n}", f"10.0.0.{n}")
        except BridgeError as error:
            return error.code
        return "in"

    with ThreadPoolExecutor(8) as pool:
        said = list(pool.map(attempt, range(24)))
    assert said.count("too_many_tries") >= 24 - tries.LOGIN.free - 1
    assert "in" not in said
    for n in range(tries.ADDRESS.free):
        tries.begin_try(tarn.engine, f"somebody {n}", "10.1.1.1")
    with pytest.raises(TooManyTries) as slowed:
        tries.begin_try(tarn.engine, "somebody else", "10.1.1.1")
    assert slowed.value.details["wait"] <= tries.ADDRESS.longest


def test_an_address_is_the_proxys_word_only_where_the_settings_name_it(tarn: Place) -> None:
    claimed = {"X-Forwarded-For": "203.0.113.9"}
    for trusted, noted in (("", "127.0.0.1"), ("10.9.9.9", "127.0.0.1"),
                           ("10.9.9.9, 127.0.0.1", "203.0.113.9")):  # fmt: skip
        tarn.settings = replace(tarn.settings, trusted_proxies=trusted)
        with serving(tarn) as app:
            body = {"login": "rowan", "password": PASSWORD}
            app.test_client().post("/api/session", json=body, headers=claimed)
        query = "SELECT detail->>'address' FROM audit WHERE action = 'sign_in' ORDER BY id DESC"
        assert tarn.scalar(query) == noted


def test_a_cookie_is_for_secure_connections_where_the_settings_say_so(tarn: Place) -> None:
    for secure in (False, True):
        tarn.settings = replace(tarn.settings, secure_cookie=secure)
        with serving(tarn) as app:
            body = {"login": "rowan", "password": PASSWORD}
            held = app.test_client().post("/api/session", json=body).headers["Set-Cookie"]
        assert ("Secure" in held) == secure
        assert "HttpOnly" in held


def test_the_last_data_lead_stays_and_nobody_closes_themselves(tarn: Place) -> None:
    ailsa = actor_named(tarn.engine, "ailsa")
    mine = ids(tarn)["ailsa"]
    with pytest.raises(InvalidQuestion, match="their own"):
        managing.set_closed(tarn.engine, ailsa, mine, closed=True)
    with pytest.raises(InvalidQuestion, match="last data lead"):
        managing.set_closed(tarn.engine, OPERATOR, mine, closed=True)
    with pytest.raises(InvalidQuestion, match="last data lead"):
        managing.change(tarn.engine, ailsa, mine, AccountSaid(name="A", role="teacher"), 1)
    # One who was invited and never came in does not count.
    managing.invite(tarn.engine, ailsa, NewAccount(login="b", name="B", role="data_lead"))
    with pytest.raises(InvalidQuestion, match="last data lead"):
        managing.set_closed(tarn.engine, OPERATOR, mine, closed=True)
    tarn.account("b", "data_lead")
    assert managing.set_closed(tarn.engine, OPERATOR, mine, closed=True).state == "closed"


def test_two_people_who_change_an_account_do_not_undo_each_other(tarn: Place) -> None:
    rowan = ids(tarn)["rowan"]
    managing.change(tarn.engine, OPERATOR, rowan, AccountSaid(name="R", role="teacher"), 1)
    with pytest.raises(ChangedMeanwhile):
        managing.change(tarn.engine, OPERATOR, rowan, AccountSaid(name="S", role="teacher"), 1)


@pytest.mark.parametrize("said", [
    {"login": "rowan", "name": "X", "role": "teacher"},
    {"login": "ROWAN", "name": "X", "role": "teacher"},
    {"login": "with blank", "name": "X", "role": "teacher"},
    {"login": "x", "name": " ", "role": "teacher"},
    {"login": "x", "name": "X", "role": "emperor"},
    {"login": "x", "name": "X", "role": "teacher", "schools": [999]},
    {"login": "x", "name": "X", "role": "teacher", "teachers": [{"school": 1, "name": "Nobody"}]},
])  # fmt: skip
def test_what_cannot_be_an_account_is_refused(tarn: Place, said: dict[str, Any]) -> None:
    with pytest.raises(BridgeError):
        managing.invite(tarn.engine, OPERATOR, NewAccount.model_validate(said))
    assert set(ids(tarn)) == {"ailsa", "rowan"}


def test_teachers_of_the_rosters_are_offered_by_near_names(place: Place) -> None:
    place.bring("roster", "Number,School,Year,Class,Teacher\n1,Tarn,7,7A,\"Wren, Jo\"\n"
                "2,Tarn,7,7B,Ms Vane\n3,Orme,7,7A,J. Wren\n", academic_year="2025-26")  # fmt: skip
    place.account("ailsa", "data_lead")
    with serving(place) as app:
        lead = client_of(app, "ailsa")
        found = lead.get("/api/teachers?text=Jo Wren").get_json()["teachers"]
        told = [(one["school_name"], one["name"], one["classes"]) for one in found]
        assert told[0] == ("Tarn", "Wren, Jo", ["7A"])
        assert ("Orme", "J. Wren", ["7A"]) in told
        assert "Ms Vane" not in [one["name"] for one in found]
        tied = {"school": found[0]["school"], "name": found[0]["name"]}
        invited = lead.post("/api/accounts", json={
            "login": "jo", "name": "Jo Wren", "role": "teacher", "teachers": [tied],
        }).get_json()  # fmt: skip
        assert invited["account"]["teachers"] == [tied]
        key = secret(invited["link"]["path"])
        client = app.test_client()
        client.post("/api/links/use", json={"secret": key, "password": OTHER})
        assert client.get("/api/catalogue").get_json()["students"] == 1


def test_what_is_done_with_accounts_is_noted_with_it(tarn: Place, app: Any) -> None:
    lead, rowan = client_of(app, "ailsa"), client_of(app, "rowan")
    app.test_client().post("/api/session", json={"login": "rowan", "password": "wrong"})
    assert rowan.get("/api/accounts").status_code == 403
    account = ids(tarn)["rowan"]
    lead.post(f"/api/accounts/{account}/link")
    lead.delete(f"/api/accounts/{account}/sessions")
    lead.put(f"/api/accounts/{account}/closed", json={"closed": True})
    lead.delete("/api/session")
    query = sa.text("SELECT login, action FROM audit ORDER BY id")
    with tarn.engine.connect() as connection:
        told = [tuple(row) for row in connection.execute(query)]
    assert told[-8:] == [
        ("ailsa", "sign_in"), ("rowan", "sign_in"), ("rowan", "sign_in_refused"),
        ("rowan", "refused"), ("ailsa", "send_link"), ("ailsa", "end_sessions"),
        ("ailsa", "close_account"), ("ailsa", "sign_out"),
    ]  # fmt: skip


@pytest.mark.parametrize("statement", [
    "DELETE FROM audit", "UPDATE audit SET login = 'nobody'", "TRUNCATE audit",
])  # fmt: skip
def test_the_audit_only_grows(tarn: Place, statement: str) -> None:
    before = tarn.scalar("SELECT count(*) FROM audit")
    with pytest.raises(sa.exc.DBAPIError, match="permission denied"):
        run(tarn, statement)
    owner = connect_owner(tarn.settings)  # not even whoever owns it, by mistake
    with pytest.raises(sa.exc.DBAPIError, match="only grows"), owner.begin() as connection:
        connection.execute(sa.text(statement))
    owner.dispose()
    assert tarn.scalar("SELECT count(*) FROM audit") == before


def test_a_link_says_until_when_it_is_good(tarn: Place) -> None:
    link = managing.send_link(tarn.engine, OPERATOR, ids(tarn)["rowan"])
    left = link.good_until - dt.datetime.now(dt.UTC)
    assert dt.timedelta(days=6, hours=23) < left <= links.GOOD_FOR


def test_notes_are_not_for_who_sees_no_student(tarn: Place) -> None:
    notes = next(one for one in sights(tarn.engine, OPERATOR) if one.what == "notes")
    assert notes.roles == ("data_lead", "school_lead", "teacher")
    with pytest.raises(InvalidQuestion, match="a viewer sees none"):
        say_who_sees(tarn.engine, OPERATOR, "notes", sensitive=False, roles=["viewer"])
    said = say_who_sees(tarn.engine, OPERATOR, "notes", sensitive=False, roles=["school_lead"])
    assert said.roles == ("data_lead", "school_lead")
