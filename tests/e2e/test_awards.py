"""Awards, walked through: question 14 of docs/question.md, the planted students, a rule written on
screen, a school lead's own."""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect
from tests.e2e.screens import accessible, answered, sign_in
from tests.support import Place


def to_awards(page: Page) -> None:
    page.get_by_role("link", name="Awards").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text(
        re.compile(
            "^Which of .* meet Harbour award level 2, 2025-26, counting banked and estimated"
        )
    )


def planted(place: Place) -> dict[str, str]:
    told = json.loads(Path(place.settings.home / "demo" / "planted.json").read_text("utf-8"))
    return dict(told["files"]["awards.csv"]["planted"])


def test_who_is_short_of_one_condition_in_four_choices(
    page: Page, served: tuple[Place, str]
) -> None:
    """The thresholds that are not met, banked and estimated: a place, an award, a condition, the
    part of its bar that is not yet."""
    sign_in(page)
    to_awards(page)
    accessible(page)
    page.get_by_role("button", name=re.compile("^award: ")).click()
    page.get_by_role("button", name="only Mainland entry, 2025-26").click()
    page.keyboard.press("Escape")
    answered(page)
    page.get_by_role("button", name=re.compile("^Three subjects ?: .*Who is near it")).first.click()
    answered(page)
    near = page.get_by_role("region", name="Near Three subjects")
    expect(near).to_contain_text("in 3 subjects at least 13 credits each at level 2")
    expect(near.get_by_text("…")).to_have_count(0)
    expect(page.get_by_role("region", name="By subject")).to_contain_text("Seamanship")
    accessible(page)
    bar = page.get_by_role("button", name=re.compile(r"^Three subjects: \d+ of \d+ not yet"))
    told = re.search(r": (\d+) of", bar.get_attribute("aria-label") or "")
    assert told
    bar.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading").first).to_contain_text(f"{told[1]} student")
    expect(drawer.get_by_role("columnheader", name="English")).to_be_visible()
    accessible(page)


def test_the_planted_students_are_found_on_their_pages(
    page: Page, served: tuple[Place, str]
) -> None:
    told = planted(served[0])
    sign_in(page)
    for number, says in (
        (told["one credit short"], ["49 of 50", "1 short, nothing planned for it"]),
        (told["all but the externals"], ["Externals", "of 8"]),
        (told["not twice"], ["46 of 50", "4 short"]),
    ):
        page.keyboard.press("/")
        page.get_by_role("dialog").get_by_role("combobox").fill(number)
        page.get_by_role("dialog").get_by_role("option").first.click()
        award = page.get_by_role("region", name="Harbour award level 2")
        for text in says:
            expect(award).to_contain_text(text)
        expect(award.get_by_text("not yet", exact=False).first).to_be_visible()
    page.get_by_text("credit records, and what each counts for").click()
    line = page.get_by_role("row", name=re.compile("^M25"))
    counted = line.inner_text()
    other = page.get_by_role("row", name=re.compile("^M22")).inner_text()
    # Of the two one counts for the total, never both.
    assert ("level 2: Level total" in counted) != ("level 2: Level total" in other)
    accessible(page)


def test_a_rule_is_written_read_back_tried_and_kept(page: Page) -> None:
    sign_in(page)
    page.goto("/intake/award")
    page.get_by_label("Start from").select_option(label="Harbour award level 2")
    read = page.get_by_role("region", name="Harbour award level 2 read back")
    expect(read).to_contain_text("Level total: at least 50 credits at level 2.")
    expect(read.get_by_role("row")).to_have_count(3)
    accessible(page)
    page.get_by_label("credits of Level total").fill("0")
    expect(page.get_by_role("status").last).to_have_text("“Level total” asks for no credits.")
    page.get_by_label("credits of Level total").fill("40.5")
    expect(read).to_contain_text("Level total: at least 40.5 credits at level 2.")
    page.get_by_label("Award", exact=True).fill("Harbour award, tried")
    page.get_by_role("button", name="See what would be kept").click()
    expect(page.get_by_text("Harbour award, tried, as it is read")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Keep 6 ")).click()
    expect(page.get_by_role("heading", name="What was kept")).to_be_visible()
    to_awards(page)
    page.get_by_role("button", name=re.compile("^award: ")).click()
    page.get_by_role("checkbox", name="Harbour award, tried").first.check()
    page.keyboard.press("Escape")
    answered(page)
    both = page.get_by_role("region", name="Harbour award, tried")
    expect(both).to_contain_text("40.5")


def test_banked_alone_and_over_the_years(page: Page) -> None:
    sign_in(page)
    to_awards(page)
    page.get_by_role("button", name=re.compile("^records: ")).click()
    page.get_by_role("button", name=re.compile("^banked met or not")).click()
    answered(page)
    expect(page.get_by_role("list", name="What the bars say").get_by_role("listitem")).to_have_text(
        ["met", "not yet"]
    )
    page.keyboard.press("t")
    expect(page.get_by_role("columnheader", name="condition")).to_be_visible()
    accessible(page)
    page.keyboard.press("t")
    page.get_by_role("button", name="Over time").click()
    answered(page)
    expect(page.get_by_role("region", name="Answer")).to_contain_text("2024-25")
    accessible(page)


def test_a_school_lead_sees_own_students_and_a_teacher_nobody_elses(page: Page) -> None:
    sign_in(page, "rowan")
    to_awards(page)
    answer = page.get_by_role("region", name="Answer")
    expect(answer).to_contain_text("11A")
    assert "Netherby" not in answer.inner_text()
