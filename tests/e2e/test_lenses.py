"""Every lens by keyboard, narrowing by marks, groups, saved questions, notes, find, and print."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Browser, Page, expect
from tests.e2e.screens import accessible, answered, pick, question_of, sign_in, tick
from tests.support import Place

SHOWS = ("spans", "levels", "spread", "start_to_now", "over_time", "table", "sure")


def start(page: Page) -> None:
    sign_in(page)
    answered(page)


@pytest.mark.parametrize("number", range(1, 8))
def test_every_lens_by_its_key_with_its_numbers_and_nothing_inaccessible(
    page: Page, number: int
) -> None:
    start(page)
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    answered(page)
    page.keyboard.press(str(number))
    answered(page)
    show = SHOWS[number - 1]
    assert question_of(page).get("show", "spans") == show
    chart = page.get_by_role("region", name="Answer")
    drawn = (
        chart.get_by_role("figure") if show not in ("table", "sure") else chart.get_by_role("table")
    )
    expect(drawn).to_be_visible()
    expect(page.get_by_role("complementary", name="What it says")).to_contain_text(
        "How this is worked out"
    )
    accessible(page)
    page.keyboard.press("t")
    if show == "table":
        expect(chart.get_by_role("figure")).to_be_visible()
    else:
        expect(chart.get_by_role("table")).to_be_visible()
    accessible(page)


def test_a_mark_narrows_everything_and_a_chip_takes_it_back(page: Page) -> None:
    start(page)
    page.keyboard.press("2")
    answered(page)
    bar = page.get_by_role("button", name=re.compile(r"^Fernhollow, Emerging: \d+ of"))
    wanted = int(re.findall(r": (\d+) of", bar.get_attribute("aria-label") or "")[0])
    bar.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading")).to_contain_text(f"{wanted} student")
    drawer.get_by_role("button", name="Narrow to these").click()
    answered(page)
    expect(page.get_by_role("region", name="Coverage")).to_contain_text(f"{wanted} of {wanted}")
    chips = page.get_by_role("region", name="Question")
    expect(chips).to_contain_text("Mathematics, spring 2026: Emerging")
    chips.get_by_role("button", name=re.compile("^Remove Mathematics, spring 2026")).click()
    answered(page)
    expect(chips).not_to_contain_text("Emerging")
    expect(chips).to_contain_text("Fernhollow")


def test_a_chip_is_turned_round_and_takes_an_alternative(page: Page) -> None:
    start(page)
    page.get_by_role("button", name=re.compile("^who:")).click()
    tick(page, "Year 8")
    page.keyboard.press("Escape")
    answered(page)
    page.get_by_role("button", name="Change Year 8").click()
    page.get_by_role("button", name="Turn it round: everyone else").click()
    answered(page)
    chips = page.get_by_role("region", name="Question")
    expect(chips).to_contain_text("not Year 8")
    page.get_by_role("button", name="Change not Year 8").click()
    page.get_by_role("button", name="Turn it round: everyone else").click()
    answered(page)
    page.get_by_role("button", name="Change Year 8").click()
    form = page.get_by_role("dialog", name="Change Year 8")
    form.get_by_label("By").select_option("year_level")
    tick(form, "Year 9")
    form.get_by_role("button", name="Or these").click()
    answered(page)
    expect(chips).to_contain_text("Year 8 or Year 9")


def test_a_group_is_saved_from_a_mark_and_used_at_once(page: Page) -> None:
    start(page)
    page.get_by_role("button", name=re.compile("^Fernhollow [0-9]")).click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("row").nth(1)).to_be_visible()
    drawer.get_by_role("button", name="Save these students as a group").click()
    form = page.get_by_role("dialog", name="Save as a group")
    form.get_by_label("Name of the group").fill("Fernhollow this spring")
    form.get_by_role("button", name="Save the group").click()
    expect(form.get_by_role("status")).to_contain_text("Fernhollow this spring")
    accessible(page)
    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Narrow to some students").click()
    narrow = page.get_by_role("dialog", name="Narrow")
    narrow.get_by_label("By").select_option("group")
    tick(narrow, "Fernhollow this spring")
    narrow.get_by_role("button", name="Narrow").click()
    answered(page)
    rows = page.get_by_role("region", name="Answer").get_by_role("listitem")
    expect(rows).to_have_count(2)
    expect(rows.nth(1)).to_contain_text("Fernhollow")


def test_a_kept_question_is_found_again_and_notes_stay_with_it(page: Page) -> None:
    start(page)
    page.get_by_role("navigation", name="Split by").get_by_role(
        "button", name="Learning plan"
    ).click()
    answered(page)
    page.get_by_role("button", name="Keep this question").click()
    form = page.get_by_role("dialog", name="Keep this question")
    form.get_by_label("Name").fill("Learning plans this spring")
    form.get_by_role("button", name="Keep").click()
    expect(form.get_by_role("status")).to_contain_text("Kept")
    page.keyboard.press("Escape")
    page.get_by_label("Write a note").fill("Speak with the <i>support</i> team")
    page.get_by_role("button", name="Add", exact=True).click()
    notes = page.get_by_role("region", name="Notes")
    expect(notes).to_contain_text("Speak with the <i>support</i> team")
    expect(notes).to_contain_text("Ailsa Marlow")
    page.goto("/intake")
    expect(page.get_by_role("region", name="History")).to_be_visible()
    page.keyboard.press("/")
    page.get_by_role("dialog").get_by_role("combobox").fill("learning plans")
    found = page.get_by_role("dialog").get_by_role("option")
    expect(found.first).to_contain_text("Learning plans this spring")
    accessible(page)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", level=1)).to_contain_text("split by Learning plan")
    expect(page.get_by_role("region", name="Notes")).to_contain_text("support")


def test_find_opens_a_student_and_asks_about_a_class(page: Page) -> None:
    start(page)
    page.keyboard.press("/")
    page.get_by_role("dialog").get_by_role("combobox").fill("netherby 8b")
    found = page.get_by_role("dialog").get_by_role("option")
    found.filter(has_text="8B, Netherby").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("8B of Netherby")
    answered(page)
    page.get_by_role("button", name=re.compile("^See the")).click()
    drawer = page.get_by_role("complementary", name="Students")
    number = drawer.locator("tbody tr").first.locator("td").nth(0).inner_text()
    page.keyboard.press("Escape")
    page.keyboard.press("/")
    page.get_by_role("dialog").get_by_role("combobox").fill(number)
    expect(found).to_have_count(1)
    page.keyboard.press("Enter")
    expect(page.get_by_role("complementary", name="What it says")).to_be_visible()
    expect(page.get_by_role("main")).to_contain_text(number)


def test_half_levels_percentile_ranks_and_steps_made_are_one_choice_away(page: Page) -> None:
    start(page)
    chart = page.get_by_role("region", name="Answer")

    def take(words: str) -> None:
        page.get_by_role("button", name=re.compile("^what:")).click()
        pick(page, words).click()
        page.keyboard.press("Escape")
        answered(page)

    take("half-levels")
    expect(chart.get_by_role("list", name="Levels")).to_contain_text("Secure, lower")
    accessible(page)
    take("national percentile rank")
    expect(page.get_by_role("heading", level=1)).to_contain_text("national percentile rank")
    expect(chart).to_contain_text("percentile rank")
    take("steps made")
    expect(page.get_by_role("heading", level=1)).to_contain_text("steps made")
    expect(chart).to_contain_text("steps · band shows 95% interval")


def test_a_lens_that_cannot_serve_says_why_and_does_nothing(page: Page) -> None:
    start(page)
    page.get_by_role("button", name=re.compile("^what:")).click()
    pick(page, "Mathematics, winter 2026 ").click()
    answered(page)
    levels = page.get_by_role("toolbar", name="Lens").get_by_role("button", name="Levels")
    expect(levels).to_have_attribute("title", "This test has no levels or grades")
    levels.dispatch_event("click")
    page.keyboard.press("2")
    answered(page)
    assert question_of(page).get("show", "spans") == "spans"


@pytest.mark.parametrize("key", ["1", "2", "3"])
def test_print_reads_in_black_and_white(page: Page, key: str) -> None:
    """What tells rows apart is still there without colour: symbols, hatches, dashes."""
    start(page)
    page.get_by_role("navigation", name="Split by").get_by_role("button", name="Sex").click()
    answered(page)
    page.keyboard.press(key)
    answered(page)
    page.emulate_media(media="print")
    chart = page.get_by_role("region", name="Answer")
    expect(page.get_by_role("toolbar", name="Lens")).to_be_hidden()
    expect(page.get_by_role("heading", level=1)).to_be_visible()
    expect(page.get_by_role("region", name="Coverage")).to_be_visible()
    if key == "1":
        assert set("▲▼●○◇") & set(chart.inner_text())
    if key == "2":
        assert chart.locator("rect[fill='url(#below-line)']").count() > 2
    if key == "3":
        dashes = {
            path.get_attribute("stroke-dasharray")
            for path in chart.locator("path[stroke-dasharray]").all()
        }
        assert len(dashes) >= 2
    assert page.pdf(width="297mm", height="210mm").startswith(b"%PDF")
    page.emulate_media(media="screen")


def test_a_newcomer_is_walked_through_once(browser: Browser, served: tuple[Place, str]) -> None:
    context = browser.new_context(base_url=served[1], viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.goto("/")
    start(page)
    walk = page.get_by_role("region", name="First time here")
    expect(walk).to_contain_text("Every comparison is this sentence")
    assert "pointed-at" in (page.locator("#sentence").get_attribute("class") or "")
    accessible(page)
    for _ in range(4):
        walk.get_by_role("button", name="Next").click()
    expect(walk).to_contain_text("5 of 5")
    walk.get_by_role("button", name="Done").click()
    expect(walk).to_have_count(0)
    assert page.locator(".pointed-at").count() == 0
    page.reload()
    answered(page)
    expect(walk).to_have_count(0)
    page.keyboard.press("?")
    words = page.get_by_role("dialog", name="All keys and words")
    expect(words).to_contain_text("The result minus the yardstick")
    words.get_by_role("button", name="Walk me through this screen").click()
    expect(walk).to_contain_text("1 of 5")
    page.keyboard.press("?")
    words.get_by_role("link", name="More about coverage").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("Coverage")
    context.close()


def test_the_share_at_any_step_is_a_figure_and_a_line(page: Page) -> None:
    """Chosen as a measure; in Levels the line is drawn there; a bar still opens its students."""
    start(page)
    page.locator("#sentence").get_by_role("button", name="Mathematics, spring 2026").click()
    page.get_by_role("dialog").get_by_text("Strong or better").click()
    page.keyboard.press("Escape")
    answered(page)
    sentence = page.locator("#sentence")
    expect(sentence).to_contain_text("share with “Strong” or better")
    reading = page.get_by_role("complementary", name="What it says")
    expect(reading).to_contain_text("Shares run from")
    shares = {
        name: page.get_by_role("button", name=re.compile(f"^{name}")).inner_text()
        for name in ("Fernhollow", "Brackwater")
    }
    page.keyboard.press("2")
    answered(page)
    expect(sentence).to_contain_text("line at “Strong”")
    expect(page.get_by_role("figure")).to_contain_text("“Strong” or better")
    for name, text in shares.items():
        told = re.search(r"(\d+\.\d)%", text)
        assert told
        row = page.get_by_role("listitem").filter(has_text=re.compile(f"^{name}")).first
        expect(row).to_contain_text(f"{round(float(told[1]))}%")
    bar = page.get_by_role("button", name=re.compile(r"^Brackwater, Strong: \d+ of"))
    wanted = int(re.findall(r": (\d+) of", bar.get_attribute("aria-label") or "")[0])
    bar.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading")).to_contain_text(f"{wanted} student")
    assert "statistic" in str(question_of(page)["what"])


def test_a_point_of_the_past_opens_that_sittings_students(page: Page) -> None:
    start(page)
    page.keyboard.press("5")
    answered(page)
    point = page.get_by_role("button", name=re.compile(r"Isle of Merrow.*spring 2025")).first
    words = point.get_attribute("aria-label") or point.inner_text()
    wanted = int(re.findall(r"(\d+) (?:students|counted)", words)[0])
    point.press("Enter")
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer).to_contain_text("spring 2025")
    expect(drawer.get_by_role("heading")).to_contain_text(re.compile(r"\d"))
    heading = drawer.get_by_role("heading").inner_text()
    total, *left = (int(n.replace(",", "")) for n in re.findall(r"\d[\d,]*", heading))
    assert total - sum(left) == wanted
    drawer.get_by_role("button", name="Narrow to these").click()
    answered(page)
    expect(page.get_by_role("region", name="Question")).to_contain_text("Isle of Merrow")


@pytest.mark.parametrize(
    "address", ["q=5", "q={}", 'q={"what":[null]}', 'q={"what":[{"as', "open=5"]
)
def test_an_address_that_was_cut_off_is_told_and_leads_on(page: Page, address: str) -> None:
    start(page)
    page.goto(f"/compare?{address}")
    told = page.get_by_role("alert")
    expect(told).to_contain_text("The question in this address cannot be read.")
    expect(told).to_contain_text("Nothing was changed.")
    accessible(page)
    page.get_by_role("link", name="Start from the first question").click()
    answered(page)
    assert question_of(page)["what"]
