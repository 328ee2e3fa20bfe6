"""Signing in otherwise than by a password alone, seeing as somebody, and what is published."""

from __future__ import annotations

import re
import threading
import time
from collections.abc import Iterator
from dataclasses import replace

import pyotp
import pytest
from playwright.sync_api import Browser, Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import accessible, answered, sign_in
from tests.support import Place
from werkzeug.serving import make_server

from bridge_chart.access.codes import STEP
from bridge_chart.cli.demo import PASSWORD
from bridge_chart.demo.sign_on import SignOn, sign_on_app
from bridge_chart.intake.erasing.erase import erase_waiting
from bridge_chart.store.database import connect_owner


@pytest.fixture
def vouched(browser: Browser, served: tuple[Place, str]) -> Iterator[tuple[Page, SignOn]]:
    """The district served once more, with a sign-on of its own beside it."""
    here = SignOn("", "bridge-chart", "stand-in")
    server = make_server("127.0.0.1", 0, sign_on_app(here), threaded=True)
    here.issuer = f"http://127.0.0.1:{server.server_port}"
    thread = threading.Thread(target=server.serve_forever)
    thread.start()
    place = served[0]
    settings = replace(
        place.settings, provider_issuer=here.issuer, provider_client=here.client,
        provider_secret=here.secret, provider_name="the ferries' sign-on",
    )  # fmt: skip
    with listening(replace(place, settings=settings)) as address:
        context = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800})
        context.add_init_script("localStorage.setItem('bridge-chart-walked', 'yes')")
        yield context.new_page(), here
        context.close()
    server.shutdown()
    thread.join()
    server.server_close()


def next_code(totp: pyotp.TOTP, place: Place) -> str:
    """A code that was not used yet, without waiting half a minute for it."""
    with place.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE account SET code_used = 0")
    return totp.at((int(time.time()) // STEP) * STEP)


def test_codes_are_begun_asked_for_and_lost(page: Page, served: tuple[Place, str]) -> None:
    sign_in(page, "rowan")
    page.goto("/account")
    page.get_by_role("button", name="Begin with codes").click()
    form = page.get_by_role("form", name="Begin with codes")
    secret = form.get_by_test_id("secret").inner_text()
    accessible(page)
    form.get_by_label("The code that it shows now").fill("12")
    form.get_by_label("Password").fill(PASSWORD)
    form.get_by_role("button", name="Begin", exact=True).click()
    expect(form.get_by_role("alert")).to_contain_text("does not fit")
    totp = pyotp.TOTP(secret)
    form.get_by_label("The code that it shows now").fill(totp.now())
    form.get_by_role("button", name="Begin", exact=True).click()
    codes = page.get_by_role("list", name="Recovery codes").get_by_role("listitem")
    expect(codes).to_have_count(10)
    accessible(page)
    recovery = codes.first.inner_text()
    page.get_by_role("button", name="I have them").click()
    expect(page.get_by_text("Sign-in asks for a code of your app as well")).to_be_visible()

    def leave() -> None:
        page.get_by_role("button", name="RP, Rowan Pike, your account").click()
        page.get_by_role("button", name="Sign out", exact=True).click()
        page.get_by_label("Login").fill("rowan")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in", exact=True).click()
        expect(page.get_by_label("One-time code")).to_be_focused()

    leave()
    accessible(page)
    page.get_by_label("One-time code").fill("000000")
    page.get_by_role("button", name="Sign in", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("one-time code does not fit")
    page.get_by_label("One-time code").fill(next_code(totp, served[0]))
    page.get_by_role("button", name="Sign in", exact=True).click()
    answered(page)
    leave()
    page.get_by_label("One-time code").fill(recovery)
    page.get_by_role("button", name="Sign in", exact=True).click()
    answered(page)
    page.goto("/account")
    expect(page.get_by_text("9 recovery codes are left")).to_be_visible()
    # The data lead, who knows him, takes what he lost away.
    page.context.clear_cookies()
    page.goto("/")
    sign_in(page)
    page.goto("/setup/accounts")
    page.get_by_role("button", name="Take codes away: Rowan Pike").click()
    expect(page.get_by_role("button", name="Take codes away: Rowan Pike")).to_have_count(0)
    page.context.clear_cookies()
    page.goto("/")
    sign_in(page, "rowan")


def test_the_districts_own_sign_on_there_and_back(vouched: tuple[Page, SignOn]) -> None:
    page, here = vouched
    page.goto("/")
    accessible(page)
    page.get_by_role("link", name="Sign in by the ferries' sign-on").click()
    page.get_by_role("link", name="Morwenna Cleave").click()
    answered(page)
    expect(page.get_by_role("button", name="MC, Morwenna Cleave, your account")).to_be_visible()
    expect(page.get_by_role("link", name="Intake")).to_have_count(0)
    page.get_by_role("button", name="MC, Morwenna Cleave, your account").click()
    expect(page.get_by_text("school lead")).to_be_visible()
    page.get_by_role("button", name="Sign out", exact=True).click()
    expect(page.get_by_label("Login")).to_be_visible()
    assert len(here.signed_out) == 1
    page.get_by_role("link", name="Sign in by the ferries' sign-on").click()
    page.get_by_role("link", name="Guest of the ferry office").click()
    expect(page.get_by_role("alert")).to_contain_text("no role for you that is known here")
    accessible(page)
    page.reload()
    expect(page.get_by_label("Login")).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_a_data_lead_sees_as_a_teacher_and_as_themselves_again(page: Page) -> None:
    sign_in(page)
    page.goto("/setup/accounts")
    page.get_by_role("button", name="See as: Piran Tamblin").click()
    answered(page)
    expect(page.get_by_role("status").filter(has_text="You look as Piran Tamblin")).to_be_visible()
    expect(page.get_by_role("link", name="Intake")).to_have_count(0)
    accessible(page)
    page.get_by_role("button", name="Keep").click()
    keep = page.get_by_role("dialog")
    keep.get_by_role("textbox").first.fill("Mine?")
    keep.get_by_role("button", name=re.compile("Keep|Save")).first.click()
    expect(page.get_by_role("alert").first).to_contain_text("nothing can be changed so")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Look as yourself").click()
    expect(page.get_by_role("heading", name="Who uses it")).to_be_visible()
    page.goto("/setup/audit")
    page.get_by_role("combobox", name="What", exact=True).select_option("see_as")
    expect(page.get_by_role("row").filter(has_text="looked as somebody else sees")).to_have_count(1)


def test_a_viewer_begins_at_what_is_published_and_sees_no_student(page: Page) -> None:
    sign_in(page, "tobias")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Spring survey")
    places = page.get_by_role("navigation", name="Places").get_by_role("link")
    expect(places).to_have_text(["Published"])
    rows = page.get_by_role("row")
    expect(rows.filter(has_text="Year 7")).to_have_count(1)
    page.get_by_label("Year level").select_option(label="Year 7")
    expect(rows.filter(has_text="All students")).to_have_count(1)
    page.get_by_label("By").select_option(label="Home language")
    expect(rows.filter(has_text="Merrish")).to_have_count(1)
    accessible(page)
    page.get_by_label("Test").select_option(
        label="Spring survey, Writing, spring 2026, scaled score"
    )
    expect(rows.filter(has_text="All students")).to_contain_text(re.compile(r"\d+\.\d to \d+\.\d"))
    accessible(page)
    address = page.url
    page.reload()
    expect(rows.filter(has_text="Merrish")).to_have_count(1)
    assert page.url == address
    for path in ("/compare", "/people", "/setup/accounts", "/intake"):
        page.goto(path)
        expect(page.get_by_role("alert").first).to_contain_text("Your role does not allow this")


def test_a_student_is_erased_from_their_page_with_a_receipt(
    page: Page, served: tuple[Place, str]
) -> None:
    """The worker does it; here it is run by hand, as nobody keeps one up in a test."""
    place = served[0]
    number = str(place.scalar("SELECT min(number) FROM student WHERE id IN "
                              "(SELECT student_id FROM credit)"))  # fmt: skip
    student = place.scalar(f"SELECT id FROM student WHERE number = '{number}'")
    sign_in(page)
    page.goto(f"/people/student/{student}")
    page.get_by_role("button", name="This student's record").click()
    with page.expect_download() as download:
        page.get_by_role("link", name="Everything held of them").click()
    assert download.value.suggested_filename == f"student-{student}.zip"
    page.get_by_role("button", name="This student's record").click()
    page.get_by_role("button", name="Erase…").click()
    dialog = page.get_by_role("dialog", name="Erase this student")
    expect(dialog).to_contain_text("The record holds lines in")
    accessible(page)
    dialog.get_by_label("Their number, once more").fill("another")
    dialog.get_by_label("Reference of the request").fill("Letter of the third")
    dialog.get_by_role("button", name="Erase", exact=True).click()
    expect(dialog.get_by_role("alert")).to_contain_text("not this student's number")
    dialog.get_by_label("Their number, once more").fill(number)
    dialog.get_by_role("button", name="Erase", exact=True).click()
    expect(page.get_by_text("waiting for the worker")).to_be_visible()
    owner = connect_owner(place.settings)
    assert erase_waiting(owner, place.settings) == 1
    owner.dispose()
    erased = page.get_by_text("Letter of the third")
    expect(page.get_by_role("status").filter(has_text="done")).to_be_visible()
    erased.click()
    expect(page.get_by_role("row").filter(has_text="results")).to_be_visible()
    expect(page.get_by_text("Not looked into")).to_be_visible()
    accessible(page)
    page.goto(f"/people/student/{student}")
    expect(page.get_by_role("alert")).to_contain_text("There is no such student")
