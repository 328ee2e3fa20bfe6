"""Whose figures, on the screens: Setup, a school lead's district, notes, numbers for outside."""

from __future__ import annotations

import csv
import json
import re
import urllib.parse
from pathlib import Path

from playwright.sync_api import Browser, Page, expect
from tests.e2e.screens import accessible, answered, sign_in
from tests.support import Place

SPRING = {"assessment": "Spring survey", "subject": "Mathematics"}
EIGHTH = {"field": "year_level", "in": [8]}
BY_CLASS = {"what": [SPRING], "who": {"all": [EIGHTH]}, "split": [{"field": "class"}]}


def ask(page: Page, **change: object) -> None:
    page.goto(f"/compare?q={urllib.parse.quote(json.dumps({**BY_CLASS, **change}))}")
    answered(page)


def colleague(browser: Browser, address: str, login: str) -> Page:
    """Another person at another browser."""
    context = browser.new_context(base_url=address, viewport={"width": 1280, "height": 800})
    context.add_init_script("localStorage.setItem('bridge-chart-walked', 'yes')")
    page = context.new_page()
    page.goto("/")
    sign_in(page, login)
    return page


def test_the_data_lead_releases_and_says_who_sees_what(
    page: Page, browser: Browser, served: tuple[Place, str]
) -> None:
    sign_in(page)
    page.get_by_role("button", name=re.compile("your account")).click()
    page.get_by_role("link", name="Setup").click()
    expect(page.get_by_role("heading", name="Releases of the district's figures")).to_be_visible()
    expect(page.get_by_role("row", name=re.compile("^Spring 2026"))).to_have_count(1)
    accessible(page)
    page.get_by_label("Period").fill("Summer 2026")
    page.get_by_role("button", name="Release as it is now").click()
    releases = page.get_by_role("region", name="Releases of the district's figures")
    expect(releases.get_by_role("status")).to_contain_text("as “Summer 2026”")
    expect(page.get_by_role("row", name=re.compile("^Summer 2026"))).to_have_count(1)

    rowan = colleague(browser, served[1], "rowan")
    ask(rowan)
    expect(rowan.get_by_text("Meal support").first).to_be_visible()
    expect(rowan.get_by_role("link", name="Setup")).to_have_count(0)
    page.get_by_label("Meal support: school lead sees it").click()
    expect(page.get_by_label("Meal support: school lead sees it")).not_to_be_checked()
    rowan.reload()
    answered(rowan)
    expect(rowan.get_by_text("Home language").first).to_be_visible()
    expect(rowan.get_by_text("Meal support")).to_have_count(0)
    page.get_by_label("Meal support is sensitive").click()  # for leads, unless said otherwise
    expect(page.get_by_label("Meal support: school lead sees it")).to_be_checked()
    page.get_by_label("Meal support is sensitive").click()
    expect(page.get_by_label("Meal support is sensitive")).not_to_be_checked()
    rowan.context.close()


def test_a_school_lead_sees_the_district_as_it_was_released(page: Page) -> None:
    sign_in(page, "rowan")
    ask(page)
    chart = page.get_by_role("region", name="Answer")
    expect(chart.get_by_text("All schools")).to_be_visible()
    expect(chart.get_by_text(re.compile(r"^released 20\d\d-"))).to_be_visible()
    accessible(page)
    finer = [EIGHTH, {"characteristic": "Sex", "in": ["F"]},
             {"measure": {**SPRING, "subject": "Reading"}, "from": 300}]  # fmt: skip
    ask(page, who={"all": finer})
    said = page.get_by_role("complementary", name="What it says")
    expect(said).to_contain_text("not published so fine")
    expect(chart.get_by_text("All schools")).to_have_count(0)
    said.get_by_role("button", name="Ask that instead").click()
    expect(chart.get_by_text("All schools")).to_be_visible()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Year 8 in Fernhollow")


def test_a_finer_yardstick_is_refused_with_the_nearest(page: Page) -> None:
    sign_in(page, "rowan")
    group = {"group": {"who": {"all": [EIGHTH, {"measure": SPRING, "from": 340}]}}}
    page.goto(f"/compare?q={urllib.parse.quote(json.dumps({**BY_CLASS, 'against': group}))}")
    expect(page.get_by_role("alert")).to_contain_text("not published so fine")
    page.get_by_role("button", name="Ask the nearest that is published").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("the rest of Year 8")


def test_another_schools_name_is_not_found(page: Page) -> None:
    sign_in(page, "rowan")
    other = {"all": [EIGHTH, {"field": "school", "in": ["Brackwater"]}]}
    page.goto(f"/compare?q={urllib.parse.quote(json.dumps({**BY_CLASS, 'who': other}))}")
    expect(page.get_by_role("alert")).to_contain_text("There is no school “Brackwater”.")
    expect(page.get_by_role("alert")).not_to_contain_text("Netherby")


def test_a_note_is_ones_own_until_it_is_shared(
    page: Page, browser: Browser, served: tuple[Place, str]
) -> None:
    sign_in(page)
    own = {"all": [EIGHTH, {"field": "school", "in": ["Fernhollow"]}]}
    ask(page, who=own)
    notes = page.get_by_role("region", name="Notes")
    for text, shared in (("Between us", False), ("For Rowan too", True)):
        notes.get_by_label("Colleagues who can ask this may read it").set_checked(shared)
        notes.get_by_label("Write a note").fill(text)
        notes.get_by_role("button", name="Add").click()
        expect(notes.get_by_text(text)).to_be_visible()
    rowan = colleague(browser, served[1], "rowan")
    ask(rowan, who=own)
    theirs = rowan.get_by_role("region", name="Notes")
    expect(theirs.get_by_text("For Rowan too")).to_be_visible()
    expect(theirs.get_by_text("Between us")).to_have_count(0)
    rowan.context.close()


def test_numbers_for_outside(page: Page, tmp_path: Path) -> None:
    sign_in(page)
    ask(page, split=[{"characteristic": "Home language"}])
    with page.expect_download() as waiting:
        page.get_by_role("button", name="For outside").click()
    path = tmp_path / waiting.value.suggested_filename
    waiting.value.save_as(path)
    assert path.name == "bridge-chart-spans-outside.csv"
    rows = list(csv.DictReader(path.read_text(encoding="utf-8-sig").splitlines()))
    assert rows[0]["label"] == "All schools"
    counts = [row["n"] for row in rows[1:]]
    assert all(n == "hidden" or int(n) >= 10 for n in counts)
    ask(page, show="spread", split=[])
    page.get_by_role("button", name="For outside").click()
    expect(page.get_by_role("alert")).to_contain_text("Only the numbers of groups")
