"""Progress, walked through: from level to level, the credit of each school, whom a move opens."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect
from tests.e2e.screens import accessible, answered, sign_in


def test_from_the_place_to_who_fell_and_by_another_rule(page: Page) -> None:
    sign_in(page)
    page.get_by_role("link", name="Progress").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text(
        "How far did All students in all schools come in Mathematics, spring 2026 since "
        "Mathematics, spring 2025, split by school?"
    )
    said = page.get_by_role("complementary", name="What it says")
    expect(said).to_contain_text("Fernhollow: credit")
    expect(said).to_contain_text("error of measurement alone would still give a credit of")
    accessible(page)
    # A cell of the matrix opens exactly its students.
    cell = page.get_by_role("button", name=re.compile(r"^\d+$")).first
    n = cell.inner_text()
    cell.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading").first).to_contain_text(f"{n} student")
    page.keyboard.press("Escape")
    # A part of a bar opens its own.
    full = page.get_by_role("region", name="Credit by school").get_by_role(
        "button", name=re.compile("with full credit")
    )
    told = re.search(r"(\d[\d,]*) student", full.first.get_attribute("aria-label") or "")
    assert told
    full.first.click()
    expect(drawer.get_by_role("heading").first).to_contain_text(f"{told[1]} student")
    page.keyboard.press("Escape")
    rules = page.get_by_role("combobox", name=re.compile("^Credit by"))
    rules.select_option("a rise, or the top held")
    answered(page)
    expect(said).to_contain_text("by the rule “a rise, or the top held”", ignore_case=True)
    page.keyboard.press("t")
    expect(page.get_by_role("columnheader", name="similar starters")).to_be_visible()
    accessible(page)


def test_a_teacher_sees_own_movement_beside_similar_starters_elsewhere(page: Page) -> None:
    sign_in(page, "piran")
    page.get_by_role("link", name="Progress").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("in the classes of P. Tamblin")
    region = page.get_by_role("region", name=re.compile("^Credit by"))
    expect(region).to_contain_text("8B")
    assert "Fernhollow" not in page.get_by_role("main").inner_text()
