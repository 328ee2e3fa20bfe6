"""A rule for movement is written on screen, seen before it is kept, and judges at once."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect
from tests.e2e.screens import accessible, answered, sign_in


def test_a_rule_is_written_kept_and_judges(page: Page) -> None:
    sign_in(page)
    page.get_by_role("link", name="Progress").click()
    answered(page)
    page.get_by_role("link", name="Write or change a rule").click()
    page.get_by_label("Test").select_option("Spring survey")
    page.get_by_label("Name of the rule").fill("Any level held")
    for level in ("Emerging", "Building", "Secure", "Strong"):
        cell = page.get_by_role("button", name=re.compile(f"from {level} to {level}, credit 0$"))
        cell.click()
        page.get_by_role("button", name=re.compile(f"from {level} to {level}, credit 0.5$")).click()
    read_back = page.get_by_role("list", name="The rule read back")
    expect(read_back).to_contain_text(
        "Who was Building earns full credit at Building, Secure, Strong, Exceptional."
    )
    accessible(page)
    page.get_by_role("button", name="See what would be kept").click()
    page.get_by_role("button", name=re.compile("^Keep 25 ")).click()
    expect(page.get_by_role("heading", name="What was kept")).to_be_visible()
    page.get_by_role("link", name="Progress").click()
    answered(page)
    rules = page.get_by_role("combobox", name=re.compile("^Credit by"))
    rules.select_option("Any level held")
    answered(page)
    expect(page.get_by_role("complementary", name="What it says")).to_contain_text(
        "by the rule “Any level held”", ignore_case=True
    )
