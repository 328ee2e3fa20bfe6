"""What tests of the screens share: signing in, axe-core, waiting for the answer."""

from __future__ import annotations

import csv
import json
import re
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

import xlsxwriter
from playwright.sync_api import Locator, Page, expect

from bridge_chart.cli.demo import PASSWORD

AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def sign_in(page: Page, login: str = "ailsa", password: str = PASSWORD) -> None:
    page.get_by_label("Login").fill(login)
    page.get_by_label("Password").fill(password)
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("navigation", name="Places")).to_be_visible()


def accessible(page: Page) -> None:
    """axe-core finds nothing serious."""
    page.evaluate(AXE.read_text(encoding="utf-8"))
    found = page.evaluate(
        "async () => (await axe.run()).violations"
        ".filter(v => ['serious', 'critical'].includes(v.impact))"
        ".map(v => v.id + ': ' + v.nodes.map(n => n.html).slice(0, 3).join(' | '))"
    )
    assert found == [], "\n".join(found)


def pick(panel: Page | Locator, words: str) -> Locator:
    """The line of a list that begins with these words."""
    return panel.get_by_role("option", name=re.compile(f"^{re.escape(words)}")).first


def tick(panel: Page | Locator, words: str) -> None:
    """Ticks a line of a list, which stays open. A sitting to look at is also one to take beside
    another: the line with a box comes last."""
    line = panel.get_by_role("option", name=re.compile(f"^{re.escape(words)}")).last
    line.click()
    expect(line).to_have_attribute("aria-selected", "true")


def question_of(page: Page) -> dict[str, object]:
    return dict(json.loads(parse_qs(urlsplit(page.url).query)["q"][0]))


def answered(page: Page) -> None:
    expect(page.get_by_role("region", name="Answer")).to_have_attribute("aria-busy", "false")


def year_8_of_netherby(demo: Path) -> list[dict[str, str]]:
    """Twenty students as the demo's roster has them."""
    with (demo / "roster-2025-26-april.csv").open(encoding="utf-8") as file:
        rows = [row for row in csv.DictReader(file) if row["School"] == "Netherby"]
    return [row for row in rows if row["Year level"] == "Year 8"][:20]


def summer_exam(folder: Path, people: list[dict[str, str]]) -> Path:
    """Marks and grades of two subjects: a title, names in two lines, one number mistyped."""
    path = folder / "Summer exam.xlsx"
    book = xlsxwriter.Workbook(path)
    sheet = book.add_worksheet()
    sheet.write(0, 0, "Netherby: summer exam")
    sheet.write_row(2, 0, ["Adm no", "Pupil", "Born", "Maths", "", "Art"])
    sheet.write_row(3, 3, ["mark", "grade", "grade"])
    for at, person in enumerate(people):
        number = "99" + person["Student number"][2:] if at == 3 else person["Student number"]
        name = f"{person['Family name']}, {person['Given name']}"
        cells = [int(number), name, person["Birth date"], 40 + at, "ABC"[at % 3], "AB"[at % 2]]
        sheet.write_row(4 + at, 0, cells)
    book.close()
    return path
