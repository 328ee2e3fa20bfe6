"""One-time codes: asked for beside the password, good once, never a way round it."""

from __future__ import annotations

import time
from dataclasses import replace
from typing import Any

import pyotp
import pytest
from tests.cli.warm import command
from tests.support import PASSWORD, Place, roster, serving

from bridge_chart.access import codes, links, managing, sessions
from bridge_chart.access.accounts import OPERATOR, actor_named
from bridge_chart.access.codes import STEP
from bridge_chart.store.settings import load_settings
from bridge_chart.terms.errors import (
    BadSettings,
    CodeNeeded,
    InvalidQuestion,
    NotSignedIn,
    TooManyTries,
)

HERE = "127.0.0.1"
OTHER = "a lantern over the weir"


@pytest.fixture
def tarn(place: Place) -> Place:
    place.bring("roster", roster([("001", "Tarn", 7)]), academic_year="2025-26")
    place.account("ailsa", "data_lead")
    place.account("rowan", "school_lead", "Tarn")
    return place


def begun(place: Place, login: str = "rowan", ago: int = 2) -> tuple[pyotp.TOTP, list[str]]:
    """An account with codes, begun a minute ago, and its recovery codes."""
    who = actor_named(place.engine, login)
    secret = codes.offer_codes(who).secret
    totp = pyotp.TOTP(secret)
    made = codes.start_codes(place.engine, who, secret, totp.now(), PASSWORD, HERE)
    with place.engine.begin() as connection:
        connection.exec_driver_sql(f"UPDATE account SET code_used = code_used - {ago}")
    return totp, made.codes


def enter(place: Place, code: str, login: str = "rowan", password: str = PASSWORD) -> Any:
    return sessions.sign_in(place.engine, login, password, HERE, code)


def test_sign_in_asks_for_a_code_only_once_the_password_fits(tarn: Place) -> None:
    totp, _ = begun(tarn)
    with pytest.raises(CodeNeeded):
        enter(tarn, "")
    with pytest.raises(NotSignedIn, match="login and password do not fit"):
        enter(tarn, totp.now(), password=OTHER)
    with pytest.raises(NotSignedIn, match="code does not fit"):
        enter(tarn, "000000" if totp.now() != "000000" else "111111")
    assert enter(tarn, totp.now())[0].login == "rowan"


def test_a_code_is_good_once_and_for_its_time(tarn: Place) -> None:
    totp, _ = begun(tarn, ago=10)
    now = int(time.time()) // STEP
    old, ahead = totp.at((now - 3) * STEP), totp.at((now + 3) * STEP)
    for wrong in (old, ahead):
        with pytest.raises(NotSignedIn, match="code does not fit"):
            enter(tarn, wrong)
    code = totp.now()
    assert enter(tarn, f"{code[:3]} {code[3:]}")
    with pytest.raises(NotSignedIn, match="code does not fit"):
        enter(tarn, code)


def test_recovery_codes_are_good_once_however_they_are_typed(tarn: Place) -> None:
    _, recovery = begun(tarn)
    assert len(set(recovery)) == 10
    assert enter(tarn, recovery[0])
    with pytest.raises(NotSignedIn):
        enter(tarn, recovery[0])
    assert enter(tarn, recovery[1].upper().replace("-", " "))
    who = actor_named(tarn.engine, "rowan")
    assert codes.codes_state(tarn.engine, who).recovery_left == 8
    held = str(tarn.scalar("SELECT string_agg(digest, ' ') FROM recovery_code"))
    assert not any(one.replace("-", "") in held for one in recovery)


def test_wrong_codes_are_slowed_like_wrong_passwords(tarn: Place) -> None:
    totp, _ = begun(tarn)
    wrong = "000000" if totp.now() != "000000" else "111111"
    for _ in range(5):
        with pytest.raises(NotSignedIn, match="code does not fit"):
            enter(tarn, wrong)
    with pytest.raises(TooManyTries):
        enter(tarn, totp.now())


def test_codes_begin_with_one_that_fits_and_the_password(tarn: Place) -> None:
    who = actor_named(tarn.engine, "rowan")
    offered = codes.offer_codes(who)
    code = pyotp.TOTP(offered.secret).now()
    start = (tarn.engine, who)
    with pytest.raises(InvalidQuestion, match="no secret"):
        codes.start_codes(*start, "AAAA", code, PASSWORD, HERE)
    with pytest.raises(InvalidQuestion, match="no secret"):
        codes.start_codes(*start, "not base 32!", code, PASSWORD, HERE)
    wrong = "000000" if code != "000000" else "111111"
    with pytest.raises(InvalidQuestion, match="does not fit"):
        codes.start_codes(*start, offered.secret, wrong, PASSWORD, HERE)
    with pytest.raises(InvalidQuestion, match="password does not fit"):
        codes.start_codes(*start, offered.secret, code, OTHER, HERE)
    assert not codes.codes_state(tarn.engine, who).on
    assert offered.address.startswith("otpauth://totp/")
    assert offered.picture.startswith("data:image/svg+xml")


def test_a_link_is_no_way_round_and_a_data_lead_can_take_codes_away(tarn: Place) -> None:
    totp, _ = begun(tarn)
    rowan = actor_named(tarn.engine, "rowan").account_id or 0
    path = managing.send_link(tarn.engine, OPERATOR, rowan).path
    secret = path.partition("#")[2]
    with pytest.raises(CodeNeeded):
        links.use_link(tarn.engine, secret, OTHER, HERE)
    with pytest.raises(InvalidQuestion, match="code does not fit"):
        links.use_link(tarn.engine, secret, OTHER, HERE, code="12")
    assert links.use_link(tarn.engine, secret, OTHER, HERE, code=totp.now())
    codes.take_codes_away(tarn.engine, OPERATOR, rowan)
    assert sessions.sign_in(tarn.engine, "rowan", OTHER, HERE)[0].login == "rowan"
    assert tarn.scalar("SELECT count(*) FROM recovery_code") == 0
    actions = tarn.scalar("SELECT string_agg(action, ' ' ORDER BY id) FROM audit")
    assert "start_codes" in str(actions)
    assert "take_codes_away" in str(actions)


def test_the_operator_takes_codes_away_at_the_command_line(tarn: Place) -> None:
    """For a data lead who lost both, whom no other data lead can help."""
    begun(tarn, "ailsa")
    done = command(tarn.settings.home, "account", "codes-away", "ailsa")
    assert done.returncode == 0, done.stderr
    assert enter(tarn, "", "ailsa")[0].login == "ailsa"
    assert command(tarn.settings.home, "account", "codes-away", "nobody").returncode == 66


def test_a_role_that_has_to_use_codes_may_begin_them_and_nothing_else(tarn: Place) -> None:
    place = replace(tarn, settings=replace(tarn.settings, codes_for="data_lead, school_lead"))
    with serving(place) as app:
        client = app.test_client()
        told = client.post("/api/session", json={"login": "rowan", "password": PASSWORD})
        told = client.get("/api/session").get_json()["person"]
        assert (told["must_start_codes"], told["may"]) == (True, ["own_account", "look"])
        assert client.get("/api/catalogue").status_code == 403
        assert client.get("/api/published").status_code == 403
        secret = client.post("/api/session/codes/offer").get_json()["secret"]
        body = {"secret": secret, "code": pyotp.TOTP(secret).now(), "password": PASSWORD}
        assert len(client.put("/api/session/codes", json=body).get_json()["codes"]) == 10
        told = client.get("/api/session").get_json()["person"]
        assert not told["must_start_codes"]
        assert "ask" in told["may"]
        ended = client.put("/api/session/codes/end", json={"password": PASSWORD})
        assert ended.get_json() == {"on": False, "recovery_left": 0}
        assert client.get("/api/session").get_json()["person"]["must_start_codes"]


def test_settings_name_roles_that_there_are(tarn: Place) -> None:
    replace(tarn.settings, codes_for="head").save()
    with pytest.raises(BadSettings, match="head"):
        load_settings(tarn.settings.home)
