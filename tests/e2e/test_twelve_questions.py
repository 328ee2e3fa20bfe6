"""Twelve questions of a data lead, each asked through the screens alone and answered right."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect
from tests.e2e.screens import accessible, answered, pick, question_of, sign_in, tick


def start(page: Page) -> None:
    sign_in(page)
    answered(page)


def slot(page: Page, name: str) -> Locator:
    """Open a slot of the sentence and give its panel."""
    page.get_by_role("button", name=re.compile(f"^{name}:")).click()
    return page.get_by_role("dialog", name=f"Choose {name}")


def close(page: Page) -> None:
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    answered(page)


def only(page: Page, field: str, *values: str) -> None:
    """Narrow the population to some values of a field."""
    panel = slot(page, "who")
    panel.get_by_role("button", name=re.compile(f"^{field}")).click()
    for value in values:
        if panel.get_by_label(f"Search {field}").count():
            panel.get_by_label(f"Search {field}").fill(value)
        tick(panel, value)
    close(page)


def measure(page: Page, label: str, search: str = "") -> Locator:
    """Choose a sitting; the panel closes."""
    panel = slot(page, "what")
    if search:
        panel.get_by_label("Search tests").fill(search)
    pick(panel, f"{label} ").click()
    answered(page)
    return panel


def split(page: Page, label: str) -> None:
    pick(slot(page, "split"), label).click()
    answered(page)


def against(page: Page, words: str) -> None:
    pick(slot(page, "yardstick"), words).click()
    answered(page)


def lens(page: Page, name: str) -> None:
    page.get_by_role("toolbar", name="Lens").get_by_role("button", name=name).click()
    answered(page)


def said(page: Page) -> Locator:
    return page.get_by_role("complementary", name="What it says")


def answer(page: Page) -> Locator:
    return page.get_by_role("region", name="Answer")


def test_1_the_two_weakest_strands_of_a_class_and_of_its_english_learners(page: Page) -> None:
    start(page)
    only(page, "Class", "8B · Netherby")
    measure(page, "Mathematics, winter 2026")
    panel = slot(page, "what")
    pick(panel, "by strand").click()
    close(page)
    split(page, "nothing")
    against(page, "everyone else like them")
    rows = answer(page).get_by_role("listitem")
    expect(rows.first).to_contain_text("Shape and space")
    expect(rows.nth(1)).to_contain_text("Fractions")
    expect(rows.nth(1)).to_contain_text("behind by more than chance")
    accessible(page)
    only(page, "English fluency", "developing", "new to English")
    expect(answer(page)).to_contain_text("too few")
    expect(said(page)).to_contain_text("too few")


def test_2_students_of_a_class_between_two_scaled_scores(page: Page) -> None:
    start(page)
    only(page, "Class", "8B · Netherby")
    page.get_by_role("button", name="Narrow to some students").click()
    form = page.get_by_role("dialog", name="Narrow")
    form.get_by_role("textbox", name="from").fill("320")
    form.get_by_role("textbox", name="to").fill("344")
    expect(form).to_contain_text("scaled-score points")
    form.get_by_role("button", name="Narrow").click()
    answered(page)
    chip = "at least 320 and at most 344 scaled-score points"
    expect(page.get_by_role("region", name="Question")).to_contain_text(chip)
    page.get_by_role("button", name=re.compile("^See the")).click()
    drawer = page.get_by_role("complementary", name="Students")
    scores = drawer.locator("tbody tr")
    expect(scores.first).to_be_visible()
    heads = drawer.get_by_role("columnheader").all_inner_texts()
    at = next(n for n, head in enumerate(heads) if head.startswith("Scaled score"))
    cells = [int(row.locator("th, td").nth(at).inner_text()) for row in scores.all()]
    assert cells
    assert all(320 <= score <= 344 for score in cells)


def test_3_girls_against_boys_in_one_class_against_the_whole(page: Page) -> None:
    start(page)
    only(page, "Class", "8B · Netherby")
    split(page, "Sex")
    against(page, "nothing")
    shown = answer(page).get_by_role("listitem")
    expect(shown).to_have_count(3)
    expect(shown.first).to_contain_text("All schools")
    assert {shown.nth(1).inner_text()[0], shown.nth(2).inner_text()[0]} == {"F", "M"}


def test_4_my_class_against_a_parallel_class(page: Page) -> None:
    start(page)
    panel = slot(page, "split")
    search = panel.get_by_label("Search groups, classes and schools")
    for name in ("8A · Netherby", "8B · Netherby"):
        search.fill(name)
        tick(panel, name)
    panel.get_by_role("button", name="Compare 2").click()
    answered(page)
    rows = answer(page).get_by_role("listitem")
    expect(rows).to_have_count(3)
    lens(page, "Spread")
    legend = answer(page).get_by_role("listitem")
    expect(legend.filter(has_text="8A · Netherby")).to_be_visible()
    expect(said(page)).to_contain_text("of 100 pairs")
    accessible(page)


def test_5_all_schools_by_level_in_two_sittings(page: Page) -> None:
    start(page)
    only(page, "Year level", "Year 8")
    against(page, "nothing")
    panel = slot(page, "what")
    tick(panel, "Mathematics, spring 2025")
    close(page)
    lens(page, "Levels")
    expect(page.get_by_role("heading", level=1)).to_contain_text("school and sitting")
    rows = answer(page).get_by_role("listitem").filter(has_text="spring 2025")
    expect(rows.last).to_be_visible()
    assert rows.count() >= 11
    expect(answer(page)).to_contain_text("below the pass line")
    accessible(page)


def test_6_grade_counts_actual_predicted_and_target(page: Page) -> None:
    start(page)
    measure(page, "Geography, June 2025", "geography")
    panel = slot(page, "what")
    tick(panel, "predicted")
    tick(panel, "floor target")
    close(page)
    split(page, "nothing")
    against(page, "nothing")
    lens(page, "Levels")
    expect(said(page)).to_contain_text("Predicted passes more often than actual")
    page.keyboard.press("t")
    table = answer(page).get_by_role("table")
    expect(table.get_by_role("row")).to_have_count(4)
    answer(page).get_by_role("radio", name="difference from the first row").click()
    expect(table.get_by_role("row").nth(2)).to_contain_text("−")
    answer(page).get_by_role("radio", name="this or better").click()
    expect(table.get_by_role("row").nth(1)).to_contain_text("100%")
    accessible(page)


def test_7_share_at_or_above_each_score_in_two_subjects(page: Page) -> None:
    start(page)
    only(page, "Year level", "Year 8")
    against(page, "nothing")
    split(page, "nothing")
    panel = slot(page, "what")
    tick(panel, "Reading, spring 2026")
    close(page)
    lens(page, "Spread")
    legend = answer(page).get_by_role("listitem")
    expect(legend).to_have_count(2)
    expect(legend.first).to_contain_text(re.compile(r"Mathematics.*%", re.S))
    expect(answer(page)).to_contain_text("Secure 320")
    answer(page).get_by_role("radio", name="Histogram").click()
    answer(page).get_by_role("radio", name="Boxes").click()
    accessible(page)


def test_8_all_subjects_by_starting_band(page: Page) -> None:
    start(page)
    only(page, "Year level", "Year 8")
    panel = slot(page, "what")
    pick(panel, "all 3 subjects").click()
    close(page)
    split(page, "starting band")
    lens(page, "Table")
    table = answer(page).get_by_role("table")
    expect(table).to_contain_text("Low start, Writing")
    answer(page).get_by_role("columnheader", name="span").get_by_role("button").click()
    answered(page)
    expect(answer(page).get_by_role("columnheader", name="span")).to_have_attribute(
        "aria-sort", "ascending"
    )
    accessible(page)


def test_9_who_is_below_expectation_in_writing_or_reading(page: Page) -> None:
    start(page)
    only(page, "Year level", "Year 8")
    for subject in ("Reading", "Writing"):
        page.get_by_role("button", name=re.compile("[hH]ighlight (some|more) students")).click()
        form = page.get_by_role("dialog", name="Highlight")
        form.get_by_label("By").select_option("span")
        form.get_by_role("button", name=re.compile("^Test:")).click()
        pick(page.get_by_role("dialog", name="Choose a test"), f"{subject}, spring 2026").click()
        form.get_by_role("button", name=re.compile("^Highlight")).click()
        answered(page)
    expect(answer(page)).to_contain_text("those in focus")
    page.get_by_role("button", name="who are they?").click()
    answered(page)
    shown = answer(page)
    words = "below expectation in Reading, spring 2026 or below expectation in Writing"
    expect(shown).to_contain_text(words)
    expect(shown.get_by_role("table")).to_contain_text("Meal support")
    expect(said(page)).to_contain_text("in the set")
    accessible(page)
    page.get_by_role("button", name="back to the chart").click()
    answered(page)
    assert question_of(page)["show"] == "spans"


def test_10_the_weakest_class_in_each_subject_and_whether_it_means_anything(page: Page) -> None:
    start(page)
    only(page, "Year level", "Year 8")
    panel = slot(page, "what")
    pick(panel, "all 3 subjects").click()
    close(page)
    split(page, "class")
    pick(slot(page, "split"), "each measure with its groups").click()
    close(page)
    pick(slot(page, "yardstick"), "pooled, with ranks").click()
    close(page)
    expect(said(page)).to_contain_text(
        "Mathematics: the lowest of 21 classes is 8A · Fernhollow; its rank lies between"
    )
    expect(said(page)).to_contain_text("is among the lowest quarter")
    expect(answer(page)).to_contain_text(re.compile(r"rank \d+ to \d+"))


def test_11_a_cohorts_level_shares_against_the_nations(page: Page) -> None:
    start(page)
    only(page, "Year level", "Year 8")
    split(page, "nothing")
    against(page, "nothing")
    lens(page, "Levels")
    page.get_by_role("button", name="Pinned rows").click()
    page.get_by_role("dialog", name="Pinned rows").get_by_label("the nation").check()
    close(page)
    expect(answer(page).get_by_role("listitem").filter(has_text="The nation")).to_contain_text(
        "65%"
    )
    expect(said(page)).to_contain_text("The nation: 65% reached “Secure” or better")


def test_12_last_springs_results_of_the_classes_as_they_are_today(page: Page) -> None:
    start(page)
    only(page, "Year level", "Year 8")
    panel = slot(page, "who")
    panel.get_by_label(re.compile("^as they are today")).check()
    close(page)
    measure(page, "Mathematics, spring 2025")
    against(page, "nothing")
    split(page, "class")
    expect(page.get_by_role("heading", level=1)).to_contain_text("today's Year 8")
    expect(answer(page)).to_contain_text("8B · Netherby")
    coverage = page.get_by_role("region", name="Coverage")
    expect(coverage).to_contain_text("not on roll then")
