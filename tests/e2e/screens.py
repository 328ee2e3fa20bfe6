"""What tests of the screens share: signing in, axe-core, waiting for the answer."""

from __future__ import annotations

import json
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

from playwright.sync_api import Page, expect

from bridge_chart.cli.demo import PASSWORD

AXE = Path(__file__).resolve().parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"


def sign_in(page: Page, login: str = "ailsa") -> None:
    page.get_by_label("Login").fill(login)
    page.get_by_label("Password").fill(PASSWORD)
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


def question_of(page: Page) -> dict[str, object]:
    return dict(json.loads(parse_qs(urlsplit(page.url).query)["q"][0]))


def answered(page: Page) -> None:
    expect(page.get_by_role("region", name="Answer")).to_have_attribute("aria-busy", "false")
