"""The district's own words: said at Setup, read by everybody, in files too."""

from __future__ import annotations

import json
import re
import urllib.parse

from playwright.sync_api import Browser, Page, expect
from tests.e2e.screens import accessible, answered, sign_in
from tests.e2e.test_whose_figures import colleague
from tests.support import Place

READING = {"assessment": "Spring survey", "subject": "Reading"}
BY_LEVEL = {"what": [READING], "split": [{"field": "year_level"}], "against": {"prior": {}}}


def ask(page: Page, question: dict[str, object]) -> None:
    page.goto(f"/compare?q={urllib.parse.quote(json.dumps(question))}")
    answered(page)


def to_setup(page: Page) -> None:
    page.get_by_role("button", name=re.compile("your account")).click()
    page.get_by_role("link", name="Setup").click()
    expect(page.get_by_role("heading", name="The district's own words")).to_be_visible()


def test_everybody_reads_the_districts_own_words(
    page: Page, browser: Browser, served: tuple[Place, str]
) -> None:
    sign_in(page)
    to_setup(page)
    page.get_by_label("A year level is called").fill("age class")
    page.get_by_label("Before its number").fill("S")
    page.get_by_label("With names of their own").fill("Fifth")
    expect(page.get_by_text("are written like: 0 Nursery, 1 Reception")).to_be_visible()
    page.get_by_label("With names of their own").fill("5 Fifth")
    page.get_by_label("Numbers as").select_option("1.234,5")
    page.get_by_label("Dates as").select_option("2 March 2026")
    page.get_by_role("textbox", name="Meal support").fill("Free lunch")
    accessible(page)
    page.get_by_role("button", name="Speak these words").click()
    expect(page.get_by_text("Everybody reads these words now.")).to_be_visible()
    expect(page.get_by_label("Free lunch: school lead sees it")).to_be_visible()

    rowan = colleague(browser, served[1], "rowan")
    ask(rowan, BY_LEVEL)
    expect(rowan.get_by_role("heading", level=1)).to_contain_text("split by age class")
    chart = rowan.get_by_role("region", name="Answer")
    expect(chart.get_by_text("S8").first).to_be_visible()
    expect(rowan.get_by_role("navigation", name="Split by")).to_contain_text("Free lunch")
    said = rowan.get_by_role("complementary", name="What it says")
    said.get_by_role("button", name=re.compile("Everything that went in")).click()
    expect(said).to_contain_text("Reading, spring 2026, 12 May 2026")
    rowan.keyboard.press("t")
    table = chart.get_by_role("table")
    expect(table).to_contain_text(re.compile(r"[+−]\d+,\d"))
    assert re.search(r"\d\.\d{1,2}\b", table.inner_text()) is None
    rowan.get_by_role("button", name=re.compile("^who:")).click()
    expect(rowan.get_by_role("dialog")).to_contain_text("Age class")
    rowan.context.close()


def test_words_are_taken_back_and_not_said_over_a_colleagues(
    page: Page, browser: Browser, served: tuple[Place, str]
) -> None:
    sign_in(page)
    to_setup(page)
    other = colleague(browser, served[1], "ailsa")
    to_setup(other)
    other.get_by_label("A year level is called").fill("stage")
    other.get_by_role("button", name="Speak these words").click()
    expect(other.get_by_text("Everybody reads these words now.")).to_be_visible()
    page.get_by_label("A year level is called").fill("grade")
    page.get_by_role("button", name="Speak these words").click()
    told = page.get_by_role("alert")
    expect(told).to_contain_text("Somebody else has changed the words meanwhile.")
    before = other.get_by_label("A year level is called")
    expect(before).to_have_value("stage")
    other.get_by_role("button", name="Undo").click()
    expect(before).not_to_have_value("stage")
    other.context.close()
