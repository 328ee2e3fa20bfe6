"""A page of the interface on paper: the real page, drawn by Debian's Chromium, as PDF.

Chromium asks nobody on any network: every request of the page is answered by a function that is
given, within this process, and any other is refused.
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from threading import Semaphore
from typing import Literal, get_args
from urllib.parse import urlsplit

from playwright.sync_api import Error, Route, TimeoutError, sync_playwright

from bridge_chart.terms.errors import NoPrinter

HOST = "paper.bridge-chart.invalid"
"""A name that no network knows: what is not answered here goes nowhere."""
LONGEST = 60_000
"""Milliseconds that a page may take until it stands still."""
AT_ONCE = Semaphore(2)
FLAGS = ["--disable-gpu", "--disable-background-networking", "--disable-sync", "--no-first-run"]
STILL = """() => {
  const still = document.querySelector('[aria-busy="true"], [data-waiting]') === null
    && document.querySelector('main')?.innerText.trim().length > 0;
  if (!still) window.stillSince = undefined;
  else window.stillSince ??= performance.now();
  return still && performance.now() - window.stillSince > 400;
}"""
"""Nothing is under way, and was not for a while: one thing may begin when another ends."""


Paper = Literal["A4", "A3"]
PAPERS: tuple[Paper, ...] = get_args(Paper)


@dataclass(frozen=True)
class Asked:
    """A request of the page. `target`: its path with its query."""

    method: str
    target: str
    headers: Mapping[str, str]
    body: bytes | None


@dataclass(frozen=True)
class Given:
    status: int
    headers: Mapping[str, str]
    body: bytes


def on_paper(page: str, answer: Callable[[Asked], Given], paper: Paper = "A4") -> bytes:
    """The PDF of a page (its path with its query) as it stands once nothing is under way.

    paper: its size; the page itself says which way up. answer: gives what the page asks for.
    Errors: NoPrinter where there is no Chromium, where it cannot start, or where the page does not
    come to rest in a minute.
    """
    chromium = shutil.which("chromium") or shutil.which("chromium-browser")
    if chromium is None:
        raise NoPrinter(
            "There is no Chromium on this machine, which makes the PDF.",
            next_step="Install Debian's package chromium, or print from your browser.",
        )

    def handle(route: Route) -> None:
        asked = route.request
        where = urlsplit(asked.url)
        if where.hostname != HOST:
            route.abort()
            return
        target = where.path + (f"?{where.query}" if where.query else "")
        found = answer(Asked(asked.method, target, asked.headers, asked.post_data_buffer))
        route.fulfill(status=found.status, headers=dict(found.headers), body=found.body)

    # Chromium refuses its own sandbox to root.
    flags = [*FLAGS, "--no-sandbox"] if os.geteuid() == 0 else FLAGS
    with AT_ONCE:
        try:
            with sync_playwright() as playwright:
                browser = playwright.chromium.launch(executable_path=chromium, args=flags)
                try:
                    context = browser.new_context(
                        viewport={"width": 1280, "height": 900}, reduced_motion="reduce",
                        color_scheme="light",
                    )  # fmt: skip
                    context.set_default_timeout(LONGEST)
                    context.route("**/*", handle)
                    sheet = context.new_page()
                    sheet.goto(f"http://{HOST}{page}", wait_until="networkidle")
                    sheet.wait_for_function(STILL)
                    sheet.evaluate(f"document.documentElement.dataset.paper = '{paper}'")
                    sheet.emulate_media(media="print")
                    return sheet.pdf(format=paper, prefer_css_page_size=True, print_background=True)
                finally:
                    browser.close()
        except TimeoutError as error:
            raise NoPrinter(
                "The page did not come to rest within a minute, so it was not printed.",
                next_step="Narrow the question, or print from your browser.",
            ) from error
        except Error as error:
            raise NoPrinter(
                f"Chromium could not print: {str(error).splitlines()[0]}",
                next_step="Print from your browser, and tell whoever keeps this machine.",
            ) from error
