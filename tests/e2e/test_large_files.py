"""A large file through the screens: how far it is, stop, close the page, find it kept."""

from __future__ import annotations

import csv
import datetime as dt
import os
import re
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect
from tests.e2e.screens import accessible, sign_in
from tests.support import Place

TERMS = 16


@pytest.fixture
def large(served: tuple[Place, str], tmp_path: Path) -> Path:
    """Sixteen tests of every student, more than two megabytes."""
    with (served[0].settings.home / "demo" / "roster-2025-26-april.csv").open() as file:
        numbers = sorted({row["Student number"] for row in csv.DictReader(file)})
    path = tmp_path / "weekly.csv"
    days = [dt.date(2026, 1, 5) + dt.timedelta(7 * w) for w in range(TERMS + 1)]
    lines = [f"{n},Weekly spelling test,Week {w},{days[w]},{(int(n) + w) % 20}"
             for w in range(1, TERMS + 1) for n in numbers]  # fmt: skip
    path.write_text("Student number,Test,Sitting,Date,Score\n" + "\n".join(lines) + "\n")
    assert path.stat().st_size > served[0].settings.large_file_kilobytes * 1024
    return path


@contextmanager
def worker(place: Place) -> Iterator[None]:
    """A worker of its own, as it runs beside the web server."""
    home = {**os.environ, "BRIDGE_HOME": str(place.settings.home)}
    running = subprocess.Popen([sys.executable, "-m", "bridge_chart.jobs.worker"], env=home)
    try:
        yield
    finally:
        running.terminate()
        running.wait(timeout=20)


def test_a_large_file_is_watched_stopped_and_kept_while_the_page_is_closed(
    page: Page, served: tuple[Place, str], large: Path
) -> None:
    place = served[0]
    sign_in(page)
    page.goto("/intake")
    page.get_by_label("Results: choose a file").set_input_files(large)
    looking = page.get_by_role("progressbar", name="Looking into the file")
    expect(looking).to_be_visible()
    expect(page.get_by_text("Waiting for a worker")).to_be_visible()
    accessible(page)
    with worker(place):
        keep = page.get_by_role("button", name=re.compile(r"^Keep [\d,]+ results"))
        expect(keep).to_be_enabled(timeout=60_000)
        expect(looking).to_have_count(0)

    keep.click()  # nobody works now
    keeping = page.get_by_role("progressbar", name="Keeping the file")
    expect(keeping).to_be_visible()
    expect(page.get_by_role("button", name="Working…")).to_be_disabled()
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_text("Keeping was stopped. Nothing was changed")).to_be_visible()
    expect(keep).to_be_enabled()

    keep.click()
    expect(keeping).to_be_visible()
    page.goto("/intake")
    expect(page.get_by_text(re.compile("Waiting for a worker, "))).to_be_visible()
    with worker(place):
        kept = page.get_by_role("row", name=re.compile("weekly.csv"))
        expect(kept).to_be_visible(timeout=60_000)
    expect(page.get_by_role("heading", name="Waiting to be kept")).to_have_count(0)
    assert place.scalar("SELECT max(id) FROM batch") == place.scalar(
        "SELECT (kept->>'batch_id')::int FROM work WHERE kept IS NOT NULL"
    )


def test_a_large_file_that_is_no_table_says_so_on_its_page(
    page: Page, served: tuple[Place, str], tmp_path: Path
) -> None:
    path = tmp_path / "scan.csv"
    path.write_bytes(b"%PDF-1.7\n" + bytes(3_000_000))
    sign_in(page)
    page.goto("/intake")
    page.get_by_label("Results: choose a file").set_input_files(path)
    expect(page.get_by_role("progressbar", name="Looking into the file")).to_be_visible()
    with worker(served[0]):
        expect(page.get_by_role("alert")).to_contain_text("scan.csv is a PDF", timeout=60_000)
    expect(page.get_by_role("button", name="Stop")).to_have_count(0)
    page.goto("/intake")
    page.get_by_role("button", name="Throw away scan.csv").click()
    expect(page.get_by_role("link", name="scan.csv")).to_have_count(0)
