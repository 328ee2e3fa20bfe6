"""The page at rest and under way: dark, small, offline, after the session; and its address."""

from __future__ import annotations

import json
import re
from urllib.parse import parse_qs, urlsplit

import pytest
from playwright.sync_api import Page, Request, Route, expect
from tests.e2e.screens import accessible, answered, pick, question_of, sign_in

WIDTHS = (640, 1024, 1920, 2560)


def start(page: Page) -> None:
    sign_in(page)
    answered(page)


def said_in_address(page: Page, key: str) -> object:
    held = parse_qs(urlsplit(page.url).query).get(key, [""])[0]
    return json.loads(held) if held[:1] in ("{", "t") else held or None


def has_theme(page: Page, name: str) -> None:
    expect(page.locator("html")).to_have_attribute("data-theme", name)


def session_over(page: Page, under_way: set[Request]) -> None:
    """The session ends while nothing is under way: each answer would bring its cookie back."""
    while under_way:
        page.wait_for_timeout(50)
    page.context.clear_cookies()


def test_after_the_session_what_was_asked_is_asked_again(
    page: Page, under_way: set[Request]
) -> None:
    start(page)
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    answered(page)
    session_over(page, under_way)
    page.keyboard.press("2")
    told = page.get_by_role("form", name="Sign in")
    expect(told).to_contain_text("The session is over. What you asked is kept")
    accessible(page)
    expect(page.get_by_role("region", name="Answer")).to_have_count(0)
    sign_in(page)
    answered(page)
    assert question_of(page)["show"] == "levels"
    expect(page.get_by_role("heading", level=1)).to_contain_text("split by Sex")
    # Somebody else who signs in there sees nothing of what was looked at.
    session_over(page, under_way)
    page.keyboard.press("1")
    expect(told).to_be_visible()
    sign_in(page, "rowan")
    answered(page)
    assert "Brackwater" not in page.get_by_role("main").inner_text()


def test_without_a_connection_the_answer_stays_and_goes_on_by_itself(page: Page) -> None:
    start(page)
    page.context.set_offline(True)
    expect(page.get_by_text("There is no connection.")).to_be_visible()
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    expect(page.get_by_role("region", name="Answer")).to_contain_text("Brackwater")
    accessible(page)
    page.context.set_offline(False)
    expect(page.get_by_text("There is no connection.")).to_have_count(0)
    expect(page.get_by_role("heading", level=1)).to_contain_text("split by Sex")


def test_a_long_wait_is_told_stopped_and_begun_again(page: Page) -> None:
    start(page)
    held: list[Route] = []
    page.route("**/api/answers", lambda route: held.append(route))
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    region = page.get_by_role("region", name="Answer")
    expect(region).to_contain_text(re.compile(r"Working it out, \d+ s"))
    # The answer before stays in view meanwhile.
    expect(region).to_contain_text("Brackwater")
    region.get_by_role("button", name="Stop").click()
    expect(region).to_contain_text("Stopped: this is still the answer before.")
    accessible(page)
    page.unroute("**/api/answers")
    region.get_by_role("button", name="Ask again").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("split by Sex")
    expect(region).not_to_contain_text("Stopped")


def test_a_mark_of_the_answer_before_opens_its_own_students(page: Page) -> None:
    """What is in view is asked of, not what was asked since and never answered."""
    start(page)
    page.route("**/api/answers", lambda route: None)
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    region = page.get_by_role("region", name="Answer")
    region.get_by_role("button", name="Stop").click()
    expect(region).to_contain_text("Stopped: this is still the answer before.")
    page.unroute("**/api/answers")
    mark = region.get_by_role("button", name=re.compile("^Fernhollow"))
    counted, missing = re.findall(r"([\d,]+) (?:counted|missing)", mark.text_content() or "")
    mark.click()
    drawer = page.get_by_role("complementary", name="Students")
    told = f"{int(counted) + int(missing)} students, {missing} not counted"
    expect(drawer.get_by_role("heading")).to_have_text(told)
    assert question_of(page)["split"] == [{"field": "school"}]


def test_a_server_that_fails_is_told_and_asked_again(page: Page) -> None:
    start(page)
    page.route("**/api/answers", lambda route: route.fulfill(status=500, body="broken"))
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    told = page.get_by_role("alert")
    expect(told).to_be_visible()
    page.unroute("**/api/answers")
    page.get_by_role("button", name="Ask again").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("split by Sex")


def test_all_that_shapes_the_view_stands_in_the_address(page: Page) -> None:
    start(page)
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    answered(page)
    page.keyboard.press("3")
    answered(page)
    page.get_by_role("radio", name="Histogram").click()
    page.get_by_label("Lowest score shown").fill("250")
    page.get_by_role("button", name="Everything that went in").click()
    page.get_by_role("button", name="largest first").click()
    expect(page.get_by_role("button", name="as listed")).to_be_visible()
    look = said_in_address(page, "look")
    assert isinstance(look, dict)
    assert (look["view"], look["scores"][0]) == ("histogram", 250)
    assert (said_in_address(page, "detail"), said_in_address(page, "strip")) == (True, "size")
    page.reload()
    answered(page)
    expect(page.get_by_role("radio", name="Histogram")).to_be_checked()
    expect(page.get_by_label("Lowest score shown")).to_have_value("250")
    expect(page.get_by_role("button", name="as listed")).to_be_visible()
    expect(page.get_by_role("button", name="Less", exact=True)).to_be_visible()
    # Another lens is looked at in its own way.
    page.keyboard.press("2")
    answered(page)
    assert said_in_address(page, "look") is None
    page.keyboard.press("t")
    expect(page.get_by_role("region", name="Answer").get_by_role("table")).to_be_visible()
    page.reload()
    expect(page.get_by_role("region", name="Answer").get_by_role("table")).to_be_visible()


@pytest.mark.parametrize("key", ["1", "2", "3", "4", "5", "6", "7"])
def test_dark_is_as_readable_as_light(page: Page, key: str) -> None:
    page.emulate_media(color_scheme="dark")
    start(page)
    has_theme(page, "night")
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    answered(page)
    page.keyboard.press(key)
    answered(page)
    accessible(page)
    page.emulate_media(color_scheme="light")
    has_theme(page, "almanac")


def test_light_or_dark_is_chosen_for_a_browser(page: Page) -> None:
    start(page)
    page.get_by_role("button", name=re.compile("your account$")).click()
    page.get_by_role("radio", name="dark").click()
    has_theme(page, "night")
    page.reload()
    answered(page)
    has_theme(page, "night")
    accessible(page)


@pytest.mark.parametrize("width", WIDTHS)
def test_nothing_is_cut_off_from_zoomed_in_to_very_wide(page: Page, width: int) -> None:
    """640 pixels are 1280 at 200%."""
    page.set_viewport_size({"width": width, "height": 400 if width == 640 else 900})
    start(page)
    for key in "123":
        page.keyboard.press(key)
        answered(page)
        assert page.evaluate("document.scrollingElement.scrollWidth") <= width
    accessible(page)
    page.get_by_role("button", name=re.compile("^what:")).click()
    box = pick(page, "Mathematics, spring 2026").bounding_box()
    assert box
    assert 0 <= box["x"] < box["x"] + 40 < width


def test_forced_colours_leave_the_symbols(page: Page) -> None:
    page.emulate_media(forced_colors="active")
    start(page)
    assert set("▲▼●○") & set(page.get_by_role("region", name="Answer").inner_text())


def test_what_was_undone_is_put_back_from_the_message(page: Page) -> None:
    start(page)
    page.get_by_role("link", name="Intake").click()
    line = page.get_by_role("region", name="History").get_by_role("row").filter(
        has=page.get_by_role("button", name=re.compile("^Undo "))
    ).first  # fmt: skip
    title = line.get_by_role("rowheader").inner_text()
    line.get_by_role("button", name=re.compile("^Undo ")).click()
    page.get_by_role("button", name=f"Undo {title}", exact=True).click()
    message = page.get_by_role("alertdialog")
    expect(message).to_contain_text(f"{title} is undone.")
    accessible(page)
    message.get_by_role("button", name="Undo").click()
    expect(message).to_have_count(0)
    expect(page.get_by_role("button", name=re.compile(f"^Undo {re.escape(title)}"))).to_be_visible()
