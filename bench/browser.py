"""From a key press to the drawn answer in a browser, as a ratio to the server's own time.

Every press asks something that was not asked before: another year level each time, so that neither
the page nor the server has it. The server's time is that of the request itself, as the browser
sees it: sent until the last byte is here.
"""

from __future__ import annotations

import json
import statistics
from urllib.parse import quote

from playwright.sync_api import Page, sync_playwright

from bench.district import Bench, say
from bridge_chart.access.managing import add_account
from bridge_chart.cli.serving import start_serving
from bridge_chart.store.cluster import free_port
from bridge_chart.store.snapshot_build import snapshot_of

PASSWORD = "bench-island-ferries"
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync"]
SPLITS = {"year level": "year_level", "schools": "school", "classes": "class"}
LENSES = {"1": "Spans", "2": "Levels", "3": "Spread", "5": "Over time", "6": "Table"}

WATCH = """() => {
  window.pressed = null; window.drawn = null;
  addEventListener("keydown", () => { window.pressed = performance.now(); }, true);
  const region = () => document.querySelector("section[aria-label=Answer]");
  new MutationObserver(() => {
    if (window.pressed === null || region()?.getAttribute("aria-busy") !== "false") return;
    requestAnimationFrame(() => requestAnimationFrame(() => {
      if (region()?.getAttribute("aria-busy") === "false") window.drawn = performance.now();
    }));
  }).observe(document.body, { subtree: true, attributes: true, childList: true });
}"""
ASKED = """() => {
  const all = performance.getEntriesByType("resource").filter(
    (one) => one.name.endsWith("/api/answers") && one.startTime >= window.pressed);
  return { drawn: window.drawn - window.pressed, served: all[0].responseEnd - all[0].startTime };
}"""


def browser_rows(bench: Bench, runs: int) -> list[tuple[str, float, str]]:
    """(what, drawn / served, note) for each lens and number of rows."""
    add_account(bench.engine, "browser", "Browser", PASSWORD, "data_lead", [])
    port = start_serving(bench.settings, free_port())
    snapshot = snapshot_of(bench.engine, bench.settings.snapshots)
    newest = max(snapshot.measures, key=lambda m: (m.date, m.subject is not None))
    what = {"assessment": newest.assessment.id, "sitting": newest.sitting.id,
            "subject": newest.subject.id if newest.subject else None}  # fmt: skip
    rows = []
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        page = made.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"http://127.0.0.1:{port}/")
        page.evaluate("localStorage.setItem('bridge-chart-walked', 'yes')")
        page.get_by_label("Login").fill("browser")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        page.get_by_role("region", name="Answer").wait_for()
        for called, field in SPLITS.items():
            for key, lens in LENSES.items():
                rows.append(_pressed(page, port, what, (called, field), (key, lens), runs))
        made.close()
    return rows


def _pressed(
    page: Page, port: int, what: dict[str, object], split: tuple[str, str],
    lens: tuple[str, str], runs: int,
) -> tuple[str, float, str]:  # fmt: skip
    """Medians over some presses, each of a question of its own; the first is not counted."""
    other = "table" if lens[1] != "Table" else "spans"
    drawn, served = [], []
    for run in range(runs + 1):
        question = {
            "what": [what], "split": [{"field": split[1]}], "against": None, "show": other,
            "who": {"all": [{"field": "year_level", "from": 1 + run % 7, "to": 90 + run}]},
        }  # fmt: skip
        page.goto(f"http://127.0.0.1:{port}/compare?q={quote(json.dumps(question))}")
        page.wait_for_selector(
            "section[aria-label=Answer][aria-busy=false] :is(figure, table)", timeout=120_000
        )
        page.wait_for_timeout(1500)  # what is loaded later is here
        page.evaluate(WATCH)
        page.keyboard.press(lens[0])
        page.wait_for_function(
            "() => window.drawn !== null || document.querySelector('[role=alert]')", timeout=120_000
        )
        assert page.get_by_role("alert").count() == 0, page.get_by_role("alert").inner_text()
        page.wait_for_timeout(50)
        found = page.evaluate(ASKED)
        if run:
            drawn.append(found["drawn"])
            served.append(found["served"])
    ratio = statistics.median(drawn) / statistics.median(served)
    say(f"{lens[1]} by {split[0]}: {ratio:.2f}")
    note = f"drawn {statistics.median(drawn):.0f} ms, served {statistics.median(served):.0f} ms"
    return f"{lens[1]} by {split[0]}: key press to drawn", ratio, note
