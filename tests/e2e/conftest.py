"""A browser, a demo district of each module's own, and a page that reports its errors."""

from __future__ import annotations

import socket
import threading
from collections.abc import Iterator
from contextlib import contextmanager

import pytest
from playwright.sync_api import Browser, Page, Request, expect, sync_playwright
from tests.support import Place, copy_of, forget_place, serving
from werkzeug.serving import make_server

from bridge_chart.store.settings import Settings

# How long a page takes says something of the machine; what is waited for must come all the same.
expect.set_options(timeout=60_000)
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync"]


@pytest.fixture(scope="module")  # a session's would keep an event loop from all later tests
def browser() -> Iterator[Browser]:
    with sync_playwright() as playwright:
        made = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=FLAGS)
        yield made
        made.close()


@contextmanager
def listening(place: Place) -> Iterator[str]:
    """Where a place is served."""
    with serving(place) as app, socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
        probe.close()
        server = make_server("127.0.0.1", port, app, threaded=True)
        thread = threading.Thread(target=server.serve_forever)
        thread.start()
        yield f"http://127.0.0.1:{port}"
        server.shutdown()
        thread.join()
        server.server_close()


@pytest.fixture(scope="module")
def served(cluster: Settings, demo: Place) -> Iterator[tuple[Place, str]]:
    """A demo district of this module's own (it is changed), and where it is served."""
    place = copy_of(cluster, demo)
    with listening(place) as address:
        yield place, address
    forget_place(place)


@pytest.fixture
def page(browser: Browser, served: tuple[Place, str]) -> Iterator[Page]:
    context = browser.new_context(
        base_url=served[1], viewport={"width": 1280, "height": 800}, reduced_motion="reduce"
    )
    # A newcomer's walk is tried in a test of its own; here everybody has been here before.
    context.add_init_script("localStorage.setItem('bridge-chart-walked', 'yes')")
    # What the policy of the pages refuses is an error of the page that asked for it.
    context.add_init_script(
        "document.addEventListener('securitypolicyviolation', (found) => setTimeout(() => {"
        "throw new Error(`refused by policy: ${found.violatedDirective} ${found.blockedURI} "
        "${found.sourceFile} ${found.lineNumber} ${found.sample}`)}))"
    )
    page = context.new_page()
    troubles: list[str] = []
    page.on("pageerror", lambda error: troubles.append(str(error)))
    page.goto("/")
    yield page
    context.close()
    assert troubles == []


@pytest.fixture
def under_way(page: Page) -> set[Request]:
    """What the page has asked and not been answered yet."""
    asked: set[Request] = set()
    page.on("request", lambda request: asked.add(request))
    page.on("requestfinished", lambda request: asked.discard(request))
    page.on("requestfailed", lambda request: asked.discard(request))
    return asked
