"""Ninety schools of twelve that no code was written around, by the screens.

School k: student j scored 100 + k + 2j; of every ninth student 11 was absent. So school k has
the mean and median 111 + k of twelve, or 110 + k of eleven: written down before it was brought in.
"""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Locator, Page, expect
from tests.e2e.conftest import listening
from tests.e2e.screens import accessible, answered
from tests.support import PASSWORD, Place, forget_place, new_place

from bridge_chart.store.settings import Settings

SCHOOLS, SIZE = 90, 12
ODD = {7: "Ærø Skole", 12: "Łódź & <b>Sø</b>", 40: "Straße am Đurđevac"}


def name(school: int) -> str:
    return ODD.get(school, f"Skole {school:02d}")


def results() -> str:
    lines = ["Elev;Prøve;Termin;Dato;Point"]
    for school in range(SCHOOLS):
        for student in range(SIZE):
            absent = school % 9 == 0 and student == 11
            score = "abs" if absent else str(100 + school + 2 * student)
            lines.append(f"S{school:02d}{student:02d};Prøven;Maj;2026-05-06;{score}")
    return "\n".join(lines) + "\n"


@pytest.fixture(scope="module")
def served(cluster: Settings) -> Iterator[tuple[Place, str]]:
    place = new_place(cluster)
    rows = [f"S{k:02d}{j:02d},{name(k)},7" for k in range(SCHOOLS) for j in range(SIZE)]
    text = "\n".join(["Student number,School,Year level", *rows]) + "\n"
    place.bring("roster", text, "elever.csv", academic_year="2025-26", as_of="2025-08-11")
    place.account("freja", "data_lead")
    with listening(place) as address:
        yield place, address
    forget_place(place)


def region(page: Page) -> Locator:
    return page.get_by_role("region", name="Answer")


def bring_in(page: Page) -> None:
    page.get_by_label("Login").fill("freja")
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("link", name="Intake").first.click()
    page.get_by_label("Results: choose a file").set_input_files(
        {"name": "prøve.csv", "mimeType": "text/csv", "buffer": results().encode()}
    )
    for header, role in (("Elev", "number"), ("Prøve", "test"), ("Termin", "sitting"),
                         ("Dato", "date"), ("Point", "score:raw")):  # fmt: skip
        page.get_by_role("link", name="Columns").click()
        choice = page.get_by_label(f"{header} is", exact=True)
        if choice.input_value() != role:
            choice.select_option(role)
            expect(page.get_by_role("table")).to_have_attribute("aria-busy", "false")
    with page.expect_response("**/keep"):
        page.get_by_role("button", name=re.compile(r"^Keep [\d,]+ results")).click()
    page.get_by_role("link", name="Compare").click()
    answered(page)


def test_ninety_schools_by_the_screens(page: Page) -> None:
    bring_in(page)
    expect(page.get_by_role("region", name="Coverage")).to_contain_text("1,070 of 1,080 counted")
    rows = region(page).get_by_role("button", name=re.compile("counted,"))
    expect(rows.first).to_contain_text(re.compile(r"^Skole 00.*11 counted, 1 missing.*110\.0"))
    assert rows.count() < SCHOOLS
    glance = region(page).get_by_role("navigation", name="All rows at a glance")
    box = glance.bounding_box()
    assert box
    page.mouse.click(box["x"] + 20, box["y"] + box["height"] - 2)
    last = region(page).get_by_role("button", name=re.compile(r"^Skole 89 12 counted"))
    expect(last).to_be_in_viewport()
    expect(last).to_contain_text("200.0")
    last.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading")).to_have_text("12 students")
    page.keyboard.press("Escape")
    # On paper all are there.
    page.emulate_media(media="print")
    expect(rows).to_have_count(SCHOOLS)
    page.emulate_media(media="screen")
    accessible(page)

    page.keyboard.press("3")
    answered(page)
    expect(region(page).get_by_role("radio", name="Histogram")).to_have_count(0)
    box_of = region(page).get_by_role("button", name=re.compile("^Skole 00.*median"))
    expect(box_of).to_contain_text("median 110.0, middle half 105.0 to 115.0, mean 110.0")
    region(page).get_by_role("radio", name="Small pictures").click()
    expect(region(page).get_by_role("listitem").nth(1)).to_contain_text("Skole 00")
    accessible(page)

    over_time = page.get_by_role("toolbar", name="Lens").get_by_role("button", name="Over time")
    expect(over_time).to_have_attribute("title", "There is one sitting only")

    page.get_by_role("button", name=re.compile("^who:")).click()
    panel = page.get_by_role("dialog", name="Choose who")
    panel.get_by_role("button", name=re.compile("^School")).click()
    for typed, found in (("aero", "Ærø Skole"), ("lodz so", "Łódź & <b>Sø</b>"),
                         ("STRASSE durd", "Straße am Đurđevac")):  # fmt: skip
        panel.get_by_label("Search School").fill(typed)
        expect(panel.get_by_role("option")).to_have_count(1)
        expect(panel.get_by_role("option")).to_contain_text(found)
