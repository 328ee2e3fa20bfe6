"""Takes the pictures of docs/screenshots from a served demo.

python -m tests.e2e.take_screenshots http://127.0.0.1:8400 .bridge/demo
"""

from __future__ import annotations

import json
import re
import sys
import urllib.parse
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, expect, sync_playwright
from tests.e2e.conftest import FLAGS
from tests.e2e.screens import answered, sign_in, summer_exam, year_8_of_netherby

OUT = Path(__file__).resolve().parents[2] / "docs" / "screenshots"
YEAR_8: dict[str, Any] = {
    "question": 1, "who": {"all": [{"field": "year_level", "in": [8]}]},
    "what": [{"assessment": "Spring survey", "subject": "Mathematics", "sitting": "spring 2026"}],
    "split": [{"field": "school"}], "against": {"prior": {}},
}  # fmt: skip


def shoot(page: Page, name: str) -> None:
    page.wait_for_load_state("networkidle")
    page.mouse.move(5, 795)
    page.wait_for_timeout(300)
    page.screenshot(path=OUT / f"{name}.png")


def ask(page: Page, **change: object) -> None:
    text = json.dumps({**YEAR_8, **change})
    page.goto(f"/compare?q={urllib.parse.quote(text)}")
    page.get_by_role("region", name="Answer").get_by_text("Brackwater").first.wait_for()


SPRING = YEAR_8["what"][0]
LAST = {"prior": {}}
BEFORE = {"earlier": {"measure": {"assessment": "same", "subject": "same", "sitting": {"back": 1}}}}
MOCK = {"assessment": "Harbour mock", "subject": "Mathematics"}


def _lenses(page: Page) -> None:
    """Each lens with a question that it serves."""
    check = {"assessment": "Harbour check", "sitting": "winter 2026", "form": "A"}

    def of_class(name: str) -> dict[str, object]:
        return {"all": [{"field": "class", "in": [f"Netherby: {name}, 2025-26"]}]}

    shots: dict[str, dict[str, object]] = {
        "compare-levels": {"show": "levels", "reference": ["district", "nation"]},
        "compare-spread": {"show": "spread", "reference": [], "split": [{"characteristic": "Sex"}]},
        "compare-start": {"show": "start_to_now", "split": [{"characteristic": "Meal support"}]},
        "compare-time": {"show": "over_time", "who": {}},
        "compare-sure": {"show": "sure"},
        "progress-movement": {"show": "movement", "against": BEFORE},
        "tests-questions": {
            "show": "items", "what": [check], "against": {"group": {"who": YEAR_8["who"]}},
            "split": [{"populations": [{"label": "8B", "who": of_class("8B")},
                                       {"label": "8A", "who": of_class("8A")}]}]},
        "progress-growth": {"show": "growth", "against": BEFORE},
        "progress-chances": {"show": "chances", "what": [MOCK], "who": {}, "split": [],
                             "against": None},
        "progress-try": {"show": "trial", "what": [MOCK], "against": LAST, "who": {},
                         "focus": [{"field": "school", "in": ["Fernhollow"]}]},
        "awards-conditions": {
            "show": "awards", "against": None,
            "who": {"all": [{"field": "year_level", "in": [11]}]},
            "what": [{"derive": "award", "of": {"assessment": "Credits"},
                      "rule": "Harbour award level 2"}], "options": {"condition": "Level total"}},
    }  # fmt: skip
    for name, change in shots.items():
        text = json.dumps({**YEAR_8, **change})
        page.goto(f"/{name.split('-')[0]}?q={urllib.parse.quote(text)}")
        answered(page)
        for named in ("Nearest first", "Near Level total"):
            region = page.get_by_role("region", name=named)
            expect(region.get_by_text("…")).to_have_count(0)
        shoot(page, name)


def _people(page: Page) -> None:
    """A list with its columns, and the page of one of its students."""
    measure = {"assessment": "Spring survey", "subject": "Mathematics"}
    support = {"characteristic": "Meal support"}
    question = {
        "what": [{**measure, "sitting": "spring 2026"}], "show": "students",
        "who": {"as_of": "today", "all": [{"field": "class", "in": ["Netherby: 8B, 2025-26"]}]},
        "columns": [support, {"characteristic": "Learning plan"},
                    {"measure": {**measure, "sitting": "each"}},
                    {"measure": {"derive": "span", "of": SPRING, "against": LAST}}, "notes"],
        "focus": [{**support, "in": ["yes"]}],
    }  # fmt: skip
    headers = {"Content-Type": "application/json"}
    data = json.dumps({"name": "8B fractions", "question": question})
    made = page.request.post("/api/lists", data=data, headers=headers).json()["id"]
    page.goto(f"/people?list={made}")
    page.get_by_role("rowheader", name=re.compile(" students$")).wait_for()
    shoot(page, "people-list")
    page.get_by_role("rowheader").get_by_role("link").nth(7).click()
    page.get_by_role("complementary", name="What it says").wait_for()
    shoot(page, "people-student")
    page.request.delete(f"/api/lists/{made}")


def _intake(page: Page, workbook: Path) -> None:
    """A wide workbook on its way in, and what is typed by hand."""
    page.get_by_label("Results: choose a file").set_input_files(workbook)
    page.get_by_text("matched, one row each").first.wait_for()
    shoot(page, "intake-match")
    page.get_by_role("link", name="Columns").click()
    page.get_by_role("link", name="Intake", exact=True).click()
    page.get_by_role("button", name="Throw away Summer exam.xlsx").click()
    page.get_by_role("link", name="A grid of students by results").click()
    whose = page.get_by_label("Whose results")
    whose.wait_for()
    options = whose.locator("option").all_inner_texts()
    whose.select_option(label=next(o for o in options if o.startswith("8B · Netherby")))
    page.get_by_label("Test", exact=True).fill("Harbour certificate")
    page.get_by_label("Subject", exact=True).fill("Art")
    page.get_by_label("Sitting", exact=True).fill("June 2026")
    page.get_by_role("button", name="Open the grid").click()
    for row, grade in enumerate(("A*", "b", "C", "Q")):
        page.locator(f"[data-at='{row}:0']").fill(grade)
    shoot(page, "intake-grid")


def main(url: str) -> None:
    """Sign in and take every view."""
    OUT.mkdir(exist_ok=True)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = browser.new_context(
            base_url=url, viewport={"width": 1280, "height": 800}, reduced_motion="reduce"
        ).new_page()
        page.add_init_script("localStorage.setItem('bridge-chart-walked', 'yes')")
        page.goto("/")
        sign_in(page)
        ask(page)
        shoot(page, "compare-spans")
        page.get_by_role("button", name=re.compile("^Fernhollow [0-9]")).click()
        page.get_by_role("complementary", name="Students").get_by_role("row").nth(2).wait_for()
        shoot(page, "compare-drawer")
        _lenses(page)
        _people(page)
        page.goto("/setup")
        page.get_by_role("row", name=re.compile("^Spring 2026")).first.wait_for()
        shoot(page, "setup")
        page.goto("/intake")
        shoot(page, "intake-history")
        demo = Path(sys.argv[2])
        _intake(page, summer_exam(demo, year_8_of_netherby(demo)))
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1])
