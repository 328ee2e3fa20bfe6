"""How far they came, judged fairly, and what it would take: each lens walked, and counted."""

from __future__ import annotations

import json
import re
from typing import Any
from urllib.parse import quote

from playwright.sync_api import Page, expect
from tests.e2e.screens import accessible, answered, pick, question_of, sign_in

MOCK: dict[str, Any] = {"assessment": "Harbour mock", "subject": "Mathematics"}


def lens(page: Page, name: str) -> None:
    page.get_by_role("toolbar", name="Lens").get_by_role("button", name=name, exact=True).click()
    answered(page)


def asking(page: Page, question: dict[str, Any]) -> None:
    page.goto(f"/progress?q={quote(json.dumps({'question': 1, **question}))}")
    answered(page)


def moved(plan: Any) -> set[tuple[int, int]]:
    return {(one["student"], one["by"]) for one in plan["moves"]}


def test_growth_beside_similar_starters_the_table_and_the_nation(page: Page) -> None:
    sign_in(page)
    page.get_by_role("link", name="Progress").click()
    answered(page)
    lens(page, "Growth")
    said = page.get_by_role("complementary", name="What it says")
    expect(said).to_contain_text("Fernhollow:")
    expect(said).to_contain_text("less than similar starters")
    expect(said).to_contain_text("met the expected growth")
    expect(said).to_contain_text("fell behind the nation though their score rose")
    met = page.get_by_role("button", name=re.compile("met the ambitious growth")).first
    told = re.match(r".*: (\d+) student", met.get_attribute("aria-label") or "")
    assert told
    met.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading").first).to_contain_text(f"{told[1]} student")
    page.keyboard.press("Escape")
    page.get_by_role("radio", name="2 results").or_(
        page.get_by_role("button", name="2 results")
    ).first.click()
    answered(page)
    assert question_of(page)["options"] == {"priors": 2}
    accessible(page)
    page.keyboard.press("t")
    expect(page.get_by_role("columnheader", name="growth percentile")).to_be_visible()
    accessible(page)


def test_steps_made_this_year_open_who_made_them(page: Page) -> None:
    sign_in(page)
    page.get_by_role("link", name="Progress").click()
    answered(page)
    lens(page, "Pace")
    made = page.get_by_role("button", name=re.compile("made two steps or more")).first
    told = re.match(r"(\d+) student", made.get_attribute("aria-label") or "")
    assert told
    made.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading").first).to_contain_text(f"{told[1]} student")
    page.keyboard.press("Escape")
    accessible(page)


def test_two_kinds_of_target_around_one_line(page: Page) -> None:
    sign_in(page)
    asking(page, {"show": "standing", "what": [{"assessment": "Harbour certificate",
                  "subject": "Mathematics"}], "split": [{"field": "school"}],
                  "against": {"target": {"kind": "floor"}}})  # fmt: skip
    expect(page.get_by_role("heading", level=1)).to_contain_text(
        "measured against the floor target"
    )
    page.get_by_role("checkbox", name="the personal target").click()
    answered(page)
    said = page.get_by_role("complementary", name="What it says")
    expect(said).to_contain_text("The floor target and the personal target differ for")
    bar = page.get_by_role("button", name=re.compile("one below")).first
    told = re.search(r": (\d+) of", bar.get_attribute("aria-label") or "")
    assert told
    bar.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading").first).to_contain_text(f"{told[1]} student")
    page.keyboard.press("Escape")
    accessible(page)


def test_what_a_grade_in_march_has_meant_for_june(page: Page) -> None:
    sign_in(page)
    asking(page, {"show": "chances", "what": [MOCK]})
    expect(page.get_by_role("heading", level=1)).to_have_text(
        "What has a level in Mathematics, March 2026 meant later, for All students in all schools?"
    )
    expect(page.get_by_role("complementary", name="What it says")).to_contain_text(
        "not what will become of one"
    )
    now = page.get_by_role("button", name=re.compile("who stand at D now"))
    told = re.match(r"(\d+) student", now.get_attribute("aria-label") or "")
    assert told
    now.click()
    drawer = page.get_by_role("complementary", name="Students")
    expect(drawer.get_by_role("heading").first).to_contain_text(f"{told[1]} student")
    page.keyboard.press("Escape")
    accessible(page)


def test_a_try_is_stepped_by_hand_seen_elsewhere_kept_and_thrown_away(page: Page) -> None:
    sign_in(page)
    asking(page, {"show": "trial", "what": [MOCK], "split": [{"field": "school"}],
                  "who": {"all": [{"field": "school", "in": ["Fernhollow"]}]},
                  "against": {"prior": {}}})  # fmt: skip
    expect(page.get_by_text("A try, not results.").first).to_be_visible()
    said = page.get_by_role("complementary", name="What it says")
    expect(said).to_contain_text("would have to gain a step for this: level with similar starters")
    expect(said).to_contain_text("Nearest is no reason to teach some and not others")
    nearest = page.get_by_role("region", name="Nearest first")
    expect(nearest.get_by_role("link").first).not_to_have_text("…")
    accessible(page)
    nearest.get_by_role("button", name=re.compile("one step up")).last.click()
    answered(page)
    plan = question_of(page)["plan"]
    assert isinstance(plan, dict)
    expect(said).to_contain_text("With the")
    # Every lens shows it, and says that it is none of results.
    lens(page, "Spans")
    expect(said).to_contain_text("A try, not results:")
    assert question_of(page)["plan"] == plan
    lens(page, "Try")
    page.get_by_role("button", name="Keep as a plan").click()
    box = page.get_by_role("dialog", name="Keep as a plan")
    box.get_by_label("Name").fill("Fernhollow by June")
    box.get_by_role("button", name="Keep", exact=True).click()
    expect(box.get_by_role("status")).to_contain_text("Kept")
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Undo all").click()
    answered(page)
    assert not question_of(page).get("plan")
    page.get_by_role("button", name="Plans (1)").click()
    plans = page.get_by_role("dialog", name="Plans")
    plans.get_by_role("button", name="Fernhollow by June").click()
    answered(page)
    assert moved(question_of(page)["plan"]) == moved(plan)
    page.get_by_role("button", name="Plans (1)").click()
    plans.get_by_role("button", name="Throw away").click()
    expect(page.get_by_role("button", name="Plans (1)")).to_be_hidden()


def test_a_try_that_cannot_be_reached_says_so(page: Page) -> None:
    sign_in(page)
    asking(page, {"show": "trial", "what": [MOCK], "split": [{"field": "school"}],
                  "who": {"all": [{"field": "school", "in": ["Skarra Point"]}]},
                  "against": {"target": {"kind": "personal"}}})  # fmt: skip
    said = page.get_by_role("complementary", name="What it says")
    expect(said).to_contain_text("Not reachable with one step each")
    expect(said).to_contain_text("more than has happened")
    page.get_by_role("radio", name="as many as it takes").or_(
        page.get_by_role("button", name="as many as it takes")
    ).first.click()
    answered(page)
    assert question_of(page)["options"] == {"each": "any"}


def test_growth_tables_and_covariates_are_in_the_pickers(page: Page) -> None:
    sign_in(page)
    page.get_by_role("link", name="Compare").click()
    answered(page)
    page.get_by_role("button", name=re.compile("^yardstick:")).click()
    panel = page.get_by_role("dialog", name="Choose yardstick")
    pick(panel, "Sex").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("where they started and Sex")
    pick(panel, "the ambitious growth").click()
    answered(page)
    expect(page.get_by_role("heading", level=1)).to_contain_text("the ambitious growth since")
