"""Who uses it: invited by a link, in with a password of their own, closed and out at once."""

from __future__ import annotations

import re
import urllib.error
import urllib.request
from collections.abc import Iterator

import pytest
from playwright.sync_api import Browser, Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import accessible, answered, sign_in
from tests.support import Place, forget_place, new_place

from bridge_chart.access.links import first_link
from bridge_chart.cli.demo import PASSWORD
from bridge_chart.store.settings import Settings

OTHER = "a lantern over the weir"


@pytest.fixture
def elsewhere(browser: Browser, served: tuple[Place, str]) -> Iterator[Page]:
    """Another computer."""
    context = browser.new_context(base_url=served[1], viewport={"width": 1280, "height": 800})
    context.add_init_script("localStorage.setItem('bridge-chart-walked', 'yes')")
    yield context.new_page()
    context.close()


def test_a_teacher_is_invited_comes_in_and_is_out_when_closed(page: Page, elsewhere: Page) -> None:
    sign_in(page)
    page.get_by_role("button", name="AM, Ailsa Marlow, your account").click()
    page.get_by_role("link", name="Setup").click()
    page.get_by_role("link", name="Invite and change").click()
    page.get_by_role("button", name="Invite somebody").click()
    form = page.get_by_role("form", name="Invite somebody")
    form.get_by_label("Name", exact=True).fill("Brannoc Orrin")
    form.get_by_label("Login").fill("brannoc")
    # The rosters write initials; near names are offered, and somebody says who it is.
    offered = form.get_by_role("list", name="Near names").get_by_role("button")
    offered.filter(has_text="B. Orrin").first.click()
    expect(form.get_by_role("button", name=re.compile("^remove: B. Orrin"))).to_be_visible()
    accessible(page)
    form.get_by_role("button", name="Invite", exact=True).click()
    link = page.get_by_role("region", name="One-time link")
    address = link.get_by_label("The link").input_value()
    his = page.get_by_role("row", name=re.compile("Brannoc Orrin"))
    expect(his).to_contain_text("invited, not come yet")
    accessible(page)

    elsewhere.goto(address)
    expect(elsewhere.get_by_text("Brannoc Orrin, your login is brannoc")).to_be_visible()
    accessible(elsewhere)
    elsewhere.get_by_label("Password").fill("brannoc brannoc")
    elsewhere.get_by_role("button", name="Come in").click()
    expect(elsewhere.get_by_role("alert")).to_contain_text("easy to guess")
    elsewhere.get_by_label("Password").fill(OTHER)
    elsewhere.get_by_role("button", name="Come in").click()
    expect(elsewhere.get_by_role("navigation", name="Places")).to_be_visible()
    assert "#" not in elsewhere.url
    answered(elsewhere)
    expect(elsewhere.get_by_role("link", name="Intake")).to_have_count(0)
    elsewhere.goto(address)
    expect(elsewhere.get_by_role("alert")).to_contain_text("has been used")

    page.reload()
    page.get_by_role("button", name="Close: Brannoc Orrin").click()
    expect(his).to_contain_text("closed")
    elsewhere.goto("/compare")
    expect(elsewhere.get_by_label("Login")).to_be_visible()
    page.get_by_role("button", name="Open again: Brannoc Orrin").click()
    expect(his).not_to_contain_text("closed")
    sign_in(elsewhere, "brannoc", OTHER)


def test_a_role_is_changed_and_the_last_data_lead_stays(page: Page) -> None:
    sign_in(page)
    page.goto("/setup/accounts")
    page.get_by_role("button", name="Change: Rowan Pike").click()
    form = page.get_by_role("form", name="Change Rowan Pike")
    form.get_by_label("Tarn Academy").check()
    form.get_by_role("button", name="Save").click()
    hers = page.get_by_role("row", name=re.compile("Rowan Pike"))
    expect(hers).to_contain_text("Fernhollow; Tarn Academy")
    page.get_by_role("button", name="Change: Ailsa Marlow").click()
    form = page.get_by_role("form", name="Change Ailsa Marlow")
    form.get_by_label("Role").select_option("teacher")
    form.get_by_role("button", name="Save").click()
    expect(form.get_by_role("alert")).to_contain_text("the last data lead")


def test_a_new_password_ends_what_is_open_elsewhere(page: Page, elsewhere: Page) -> None:
    elsewhere.goto("/")
    sign_in(elsewhere, "piran")
    sign_in(page, "piran")
    page.goto("/account")
    accessible(page)
    page.get_by_label("Old password").fill("not the old one")
    page.get_by_label("New password").fill(OTHER)
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_role("alert")).to_contain_text("does not fit")
    page.get_by_label("Old password").fill(PASSWORD)
    page.get_by_role("button", name="Change it").click()
    expect(page.get_by_role("status")).to_contain_text("It is changed")
    elsewhere.reload()
    expect(elsewhere.get_by_label("Login")).to_be_visible()
    sign_in(elsewhere, "piran", OTHER)
    page.get_by_role("button", name="Sign out everywhere").click()
    expect(page.get_by_label("Login")).to_be_visible()
    elsewhere.reload()
    expect(elsewhere.get_by_label("Login")).to_be_visible()


def test_a_token_is_made_shown_once_and_revoked(page: Page, served: tuple[Place, str]) -> None:
    sign_in(page, "rowan")
    page.goto("/account")
    form = page.get_by_role("form", name="A new token")
    form.get_by_label("Which program").fill("Nightly sheet")
    expect(form.get_by_label("bring files in")).to_have_count(0)  # nor may she herself
    form.get_by_label("list students").check()
    form.get_by_role("button", name="Make a token").click()
    secret = page.get_by_label("The token").input_value()
    accessible(page)
    headers = {"Authorization": f"Bearer {secret}"}

    def asked() -> int:
        asking = urllib.request.Request(f"{served[1]}/api/catalogue", headers=headers)
        try:
            with urllib.request.urlopen(asking) as answer:
                return int(answer.status)
        except urllib.error.HTTPError as error:
            return error.code

    assert asked() == 200
    page.reload()
    expect(page.get_by_label("The token")).to_have_count(0)
    page.get_by_role("button", name="Revoke: Nightly sheet").click()
    expect(page.get_by_text("Nightly sheet")).to_have_count(0)
    assert asked() == 401


def test_what_was_done_is_searched_and_taken_out(page: Page) -> None:
    sign_in(page)
    page.goto("/setup/audit")
    newest = page.get_by_role("row").nth(1)
    expect(newest).to_contain_text("signed in")
    accessible(page)
    page.get_by_role("combobox", name="What", exact=True).select_option("could not sign in")
    expect(page.get_by_text("Nothing of the kind was done")).to_be_visible()
    page.get_by_role("combobox", name="What", exact=True).select_option("everything")
    page.get_by_role("combobox", name="Who", exact=True).select_option("Rowan Pike")
    expect(newest).to_contain_text("rowan")
    with page.expect_download() as download:
        page.get_by_role("button", name="As CSV").click()
    assert "rowan" in download.value.path().read_text()
    page.get_by_label("About the student with the number").fill("no such number")
    page.get_by_role("button", name="Look", exact=True).click()
    expect(page.get_by_role("alert")).to_contain_text("There is no student with the number")


def test_the_first_data_lead_comes_into_an_empty_instance(
    browser: Browser, cluster: Settings
) -> None:
    place = new_place(cluster)
    link = first_link(place.engine)
    assert link is not None
    with listening(place) as address:
        page = browser.new_context(base_url=address).new_page()
        page.goto(link.path)
        expect(page.get_by_text("You are the first data lead")).to_be_visible()
        page.get_by_label("Your name").fill("Morag Finn")
        page.get_by_label("Login").fill("morag")
        page.get_by_label("Password").fill(OTHER)
        page.get_by_role("button", name="Come in").click()
        expect(page.get_by_role("link", name="Intake", exact=True)).to_be_visible()
        page.goto("/setup/accounts")
        expect(page.get_by_role("row", name=re.compile("Morag Finn"))).to_contain_text(
            "the whole district"
        )
        page.context.close()
    forget_place(place)
